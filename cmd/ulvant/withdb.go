package main

import (
	"context"
	"errors"
	"os"
	"os/exec"

	"ulvant/internal/platform/pgserver"
)

// withDB runs a command with a throwaway PostgreSQL that keeps nothing safe.
func withDB(ctx context.Context, args []string) error {
	if len(args) == 0 {
		return errors.New("say which command to run, such as: go test ./…")
	}
	dir, err := os.MkdirTemp("", "ulvant-test-")
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
