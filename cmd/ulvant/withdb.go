package main

import (
	"context"
	"errors"
	"os"
	"os/exec"
	"syscall"

	"ulvant/internal/platform/pgserver"
)

// inMemory is a folder that is kept in memory and has room for the databases of a whole
// run, or the usual one. Each test has a database of its own, of a thousand small files:
// to make them on a disk is a tenth of a run.
func inMemory() string {
	const folder, room = "/dev/shm", 8 << 30
	var s syscall.Statfs_t
	if err := syscall.Statfs(folder, &s); err != nil || s.Bavail*uint64(s.Bsize) < room {
		return ""
	}
	return folder
}

// withDB runs a command with a throwaway PostgreSQL that keeps nothing safe.
func withDB(ctx context.Context, args []string) error {
	if len(args) == 0 {
		return errors.New("say which command to run, such as: go test ./…")
	}
	dir, err := os.MkdirTemp(inMemory(), "ulvant-test-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o755); err != nil {
		return err
	}
	server, err := pgserver.Start(ctx, pgserver.Options{Dir: dir, Volatile: true})
	if err != nil {
		return err
	}
	defer server.Stop()
	cmd := exec.CommandContext(ctx, args[0], args[1:]...)
	shared, err := os.MkdirTemp("", "ulvant-tests-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(shared)
	cmd.Env = append(os.Environ(), "ULVANT_TEST_SERVER="+server.OwnerURL("postgres"), "ULVANT_TEST_FOLDER="+shared)
	cmd.Stdin, cmd.Stdout, cmd.Stderr = os.Stdin, os.Stdout, os.Stderr
	return cmd.Run()
}
