// Package pgserver runs a private PostgreSQL on loopback, for ./run demo and
// for tests. The server goes when this process goes, even by SIGKILL, and the
// next start recovers what it left.
package pgserver

import (
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// Owner owns the schema; App reads and writes rows and cannot change it.
const (
	Owner = "ulvant_owner"
	App   = "ulvant_app"
)

// Options of a private server.
type Options struct {
	Dir      string // data goes to Dir/pg; every parent must be enterable by user postgres when root
	Port     int    // 0: any free one
	Volatile bool   // for tests only: no fsync
}

// Server is a running PostgreSQL.
type Server struct {
	port int
	cmd  *exec.Cmd
	done chan error
}

// Start makes the data folder if it is not there and starts the server.
func Start(ctx context.Context, o Options) (*Server, error) {
	bin, err := binaries()
	if err != nil {
		return nil, err
	}
	cred, err := credential()
	if err != nil {
		return nil, err
	}
	data := filepath.Join(o.Dir, "pg")
	if err := os.MkdirAll(o.Dir, 0o755); err != nil {
		return nil, err
	}
	if _, err := os.Stat(filepath.Join(data, "PG_VERSION")); err != nil {
		if err := initdb(ctx, bin, data, cred); err != nil {
			return nil, err
		}
	}
	if o.Port == 0 {
		if o.Port, err = freePort(); err != nil {
			return nil, err
		}
	} else if l, err := net.Listen("tcp", "127.0.0.1:"+strconv.Itoa(o.Port)); err != nil {
		return nil, fmt.Errorf("port %d for PostgreSQL is taken; is another demo running? Stop it, or set ULVANT_PG_PORT",
			o.Port)
	} else {
		l.Close()
	}
	s := &Server{port: o.Port, done: make(chan error, 1)}
	if err := s.start(bin, data, cred, o.Volatile); err != nil {
		return nil, err
	}
	if err := s.waitReady(ctx); err != nil {
		s.Stop()
		return nil, fmt.Errorf("PostgreSQL did not start; its log is %s: %w", filepath.Join(o.Dir, "postgres.log"), err)
	}
	return s, s.roles(ctx)
}

func binaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	if len(found) == 0 {
		return "", errors.New("PostgreSQL is not installed; ./run installs it, or apt-get install postgresql")
	}
	slices.Sort(found)
	return filepath.Dir(found[len(found)-1]), nil
}

// credential is user postgres when we are root, which initdb refuses.
func credential() (*syscall.Credential, error) {
	if os.Getuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, errors.New("there is no user postgres; install PostgreSQL from Debian's packages")
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

func initdb(ctx context.Context, bin, data string, cred *syscall.Credential) error {
	if err := os.MkdirAll(data, 0o700); err != nil {
		return err
	}
	if cred != nil {
		if err := os.Chown(data, int(cred.Uid), int(cred.Gid)); err != nil {
			return err
		}
	}
	cmd := exec.CommandContext(ctx, filepath.Join(bin, "initdb"), "-D", data, "-U", Owner, "-A", "trust",
		"-E", "UTF8", "--locale=C.UTF-8", "--no-instructions")
	cmd.Dir = "/"
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: cred}
	if out, err := cmd.CombinedOutput(); err != nil {
		os.RemoveAll(data)
		return fmt.Errorf("making the database folder %s failed: %w\n%s", data, err, out)
	}
	return nil
}

func (s *Server) start(bin, data string, cred *syscall.Credential, volatile bool) error {
	log, err := os.OpenFile(filepath.Join(filepath.Dir(data), "postgres.log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	defer log.Close()
	args := []string{"-D", data, "-c", "listen_addresses=127.0.0.1", "-c", "port=" + strconv.Itoa(s.port),
		"-c", "unix_socket_directories=", "-c", "max_connections=200", "-c",
		"random_page_cost=1.1"} // a disk without moving parts
	if volatile {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off",
			"-c", "wal_level=minimal", "-c", "max_wal_senders=0", "-c", "checkpoint_timeout=1h")
	}
	s.cmd = exec.Command(filepath.Join(bin, "postgres"), args...)
	s.cmd.Dir = "/"
	s.cmd.Stdout, s.cmd.Stderr = log, log
	s.cmd.SysProcAttr = &syscall.SysProcAttr{Credential: cred, Pdeathsig: syscall.SIGINT, Setpgid: true}
	started := make(chan error)
	go func() { // Pdeathsig follows the thread that starts the child: keep it
		runtime.LockOSThread()
		if err := s.cmd.Start(); err != nil {
			started <- err
			return
		}
		started <- nil
		s.done <- s.cmd.Wait()
	}()
	return <-started
}

func (s *Server) waitReady(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, 60*time.Second)
	defer cancel()
	for {
		conn, err := pgx.Connect(ctx, s.url(Owner, "postgres"))
		if err == nil {
			conn.Close(ctx)
			return nil
		}
		select {
		case <-ctx.Done():
			return err
		case exit := <-s.done:
			s.done <- exit
			return errors.Join(exit, err)
		case <-time.After(20 * time.Millisecond):
		}
	}
}

func (s *Server) roles(ctx context.Context) error {
	conn, err := pgx.Connect(ctx, s.url(Owner, "postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	_, err = conn.Exec(ctx,
		`DO $$ BEGIN IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '`+App+`') THEN CREATE ROLE `+App+` LOGIN; END IF; END $$`)
	return err
}

// EnsureDatabase makes a database if it is not there; fresh drops it first.
func (s *Server) EnsureDatabase(ctx context.Context, name string, fresh bool) error {
	conn, err := pgx.Connect(ctx, s.url(Owner, "postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	id := pgx.Identifier{name}.Sanitize()
	if fresh {
		if _, err := conn.Exec(ctx, "DROP DATABASE IF EXISTS "+id+" WITH (FORCE)"); err != nil {
			return err
		}
	}
	var there bool
	if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT FROM pg_database WHERE datname = $1)",
		name).Scan(&there); err != nil || there {
		return err
	}
	_, err = conn.Exec(ctx, "CREATE DATABASE "+id)
	return err
}

func (s *Server) url(role, database string) string {
	return fmt.Sprintf("postgres://%s@127.0.0.1:%d/%s?sslmode=disable", role, s.port, database)
}

// URL of a database for the application's role.
func (s *Server) URL(database string) string { return s.url(App, database) }

// OwnerURL of a database for the role that may change the schema.
func (s *Server) OwnerURL(database string) string { return s.url(Owner, database) }

// Stop ends the server, letting transactions under way fail.
func (s *Server) Stop() {
	if s.cmd.Process != nil {
		s.cmd.Process.Signal(syscall.SIGINT)
		select {
		case <-s.done:
		case <-time.After(20 * time.Second):
			s.cmd.Process.Kill()
		}
	}
}

// Kill ends every process of the server at once, as a power cut would; for
// trying what is then still there.
func (s *Server) Kill() {
	pid := s.cmd.Process.Pid
	var all []int // each child of PostgreSQL leads a group of its own
	tasks, _ := filepath.Glob(fmt.Sprintf("/proc/%d/task/*/children", pid))
	for _, file := range tasks {
		b, _ := os.ReadFile(file)
		for _, field := range strings.Fields(string(b)) {
			if child, err := strconv.Atoi(field); err == nil {
				all = append(all, child)
			}
		}
	}
	for _, p := range append([]int{pid}, all...) { // the first would start others in the place of those
		syscall.Kill(p, syscall.SIGKILL)
	}
	<-s.done
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// Port it listens on.
func (s *Server) Port() int { return s.port }
