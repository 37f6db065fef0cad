package main

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"time"

	"github.com/jmoiron/sqlx"
	_ "github.com/lib/pq"

	"ulvant/demo"
	"ulvant/internal/platform/clock"
	"ulvant/internal/platform/config"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/pgserver"
	"ulvant/internal/program"
	"ulvant/internal/standin/tray"
	"ulvant/migrations"
)

// house is what the applicants write to: a PostgreSQL and processes of the
// application.
type house struct {
	plan    plan
	dir     string
	pg      *pgserver.Server
	port    int
	mails   *tray.Tray
	apps    []*app
	writers []demo.Writer
	closes  time.Time
}

type app struct {
	addr string
	cmd  *exec.Cmd
}

func build(ctx context.Context, p plan, closes time.Time) (*house, error) {
	dir, err := os.MkdirTemp("/var/tmp", "ulvant-rush-") // on the disk, not in memory
	if err != nil {
		return nil, err
	}
	if err := os.Chmod(dir, 0o755); err != nil {
		return nil, err
	}
	h := &house{plan: p, dir: dir, closes: closes}
	if h.port, err = freePort(); err != nil {
		return nil, err
	}
	if h.pg, err = pgserver.Start(ctx, pgserver.Options{Dir: dir, Port: h.port}); err != nil {
		return nil, err
	}
	if err := h.pg.EnsureDatabase(ctx, "rush", true); err != nil {
		return nil, err
	}
	if err := db.Migrate(ctx, h.pg.OwnerURL("rush"), pgserver.App, migrations.FS); err != nil {
		return nil, err
	}
	if h.mails, err = tray.Start("127.0.0.1:0", filepath.Join(dir, "tray")); err != nil {
		return nil, err
	}
	cfg, _, err := config.Load(h.settings("127.0.0.1:0"), func(string) string { return "" })
	if err != nil {
		return nil, err
	}
	maker, err := program.New(ctx, cfg, clock.System{}, nil)
	if err != nil {
		return nil, err
	}
	h.writers, err = demo.Rush(ctx, maker, time.Now(), closes, p.applicants)
	maker.Close()
	if err != nil {
		return nil, err
	}
	for range p.apps {
		port, err := freePort()
		if err != nil {
			return nil, err
		}
		a := &app{addr: fmt.Sprintf("127.0.0.1:%d", port)}
		if err := h.startApp(a); err != nil {
			return nil, err
		}
		h.apps = append(h.apps, a)
	}
	return h, nil
}

func (h *house) settings(listen string) []string {
	return []string{"--listen", listen, "--database", h.pg.URL("rush"), "--data", h.dir, "--smtp", h.mails.Addr}
}

// startApp starts a process and waits until it answers.
func (h *house) startApp(a *app) error {
	log, err := os.OpenFile(filepath.Join(h.dir, "app.log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	defer log.Close()
	a.cmd = exec.Command(h.plan.binary, append([]string{"serve"}, h.settings(a.addr)...)...)
	a.cmd.Stdout, a.cmd.Stderr = log, log
	if err := a.cmd.Start(); err != nil {
		return err
	}
	for begin := time.Now(); time.Since(begin) < 20*time.Second; time.Sleep(20 * time.Millisecond) {
		if res, err := http.Get("http://" + a.addr + "/sign-in"); err == nil {
			res.Body.Close()
			return nil
		}
	}
	return fmt.Errorf("the application did not start; see %s", filepath.Join(h.dir, "app.log"))
}

// killed kills what the plan says with SIGKILL, and starts it again at once.
func (h *house) killed(ctx context.Context, what string) error {
	begin := time.Now()
	switch what {
	case "app":
		a := h.apps[0]
		a.cmd.Process.Signal(syscall.SIGKILL)
		a.cmd.Wait()
		if err := h.startApp(a); err != nil {
			return err
		}
	case "db":
		h.pg.Kill()
		var err error
		for range 50 { // the port is free again in a moment
			if h.pg, err = pgserver.Start(ctx, pgserver.Options{Dir: h.dir, Port: h.port}); err == nil {
				break
			}
			time.Sleep(100 * time.Millisecond)
		}
		if err != nil {
			return err
		}
	default:
		return fmt.Errorf("%q is not something to kill; say app or db", what)
	}
	fmt.Printf("killed the %s; it was back after %s\n", what, time.Since(begin).Round(time.Millisecond))
	return nil
}

func (h *house) open() (*sqlx.DB, error) { return sqlx.Open("postgres", h.pg.OwnerURL("rush")) }

func (h *house) forgetTries(ctx context.Context) error {
	d, err := h.open()
	if err != nil {
		return err
	}
	defer d.Close()
	_, err = d.ExecContext(ctx, `DELETE FROM attempt`)
	return err
}

func (h *house) stop() {
	for _, a := range h.apps {
		a.cmd.Process.Signal(syscall.SIGTERM)
		a.cmd.Wait()
	}
	h.mails.Stop()
	h.pg.Stop()
	os.RemoveAll(h.dir)
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}
