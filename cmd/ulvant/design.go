package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"

	"ulvant/core/form"
	"ulvant/internal/platform/clock"
	"ulvant/internal/platform/config"
	"ulvant/internal/platform/db"
	"ulvant/internal/program"
	"ulvant/internal/round"
)

// open connects to the database of the settings in args.
func open(ctx context.Context, args []string) (*program.Program, []string, error) {
	cfg, rest, err := config.Load(args, os.Getenv)
	if err != nil {
		return nil, nil, err
	}
	if cfg.DatabaseURL == "" {
		return nil, nil, errNoDatabase
	}
	p, err := program.New(ctx, cfg, clock.System{}, nil)
	return p, rest, err
}

// design exports a round's working design to standard output, or imports one
// from a file ("-" for standard input): a new round, or the working design of
// the round with that key.
func design(ctx context.Context, args []string) error {
	usage := errors.New("say: ulvant design export [settings] KEY, or: ulvant design import [settings] FILE")
	if len(args) < 2 {
		return usage
	}
	p, rest, err := open(ctx, args[1:])
	if err != nil {
		return err
	}
	defer p.Close()
	if len(rest) != 1 {
		return usage
	}
	switch args[0] {
	case "export":
		r, err := p.Rounds.Find(ctx, p.DB, rest[0])
		if err != nil {
			return err
		}
		d, err := round.Decode(r.Working)
		if err != nil {
			return err
		}
		enc := json.NewEncoder(os.Stdout)
		enc.SetIndent("", "  ")
		return enc.Encode(d)
	case "import":
		var raw []byte
		if rest[0] == "-" {
			rest[0] = "/dev/stdin"
		}
		if raw, err = os.ReadFile(rest[0]); err != nil {
			return err
		}
		d, err := round.Decode(raw)
		if err != nil {
			return err
		}
		if _, err := form.Compile(d); err != nil {
			return fmt.Errorf("the design was refused whole:\n%w", err)
		}
		return p.Do(ctx, db.Job, p.Clock.Now(), func(ctx context.Context, tx *db.Tx) error {
			r, err := p.Rounds.Find(ctx, tx, string(d.Key))
			if errors.Is(err, round.ErrNotFound) {
				_, err = p.Rounds.Create(ctx, tx, d)
				return err
			}
			if err != nil {
				return err
			}
			return p.Rounds.Replace(ctx, tx, r.ID, d)
		})
	}
	return usage
}
