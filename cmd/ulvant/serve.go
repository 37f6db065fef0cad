package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"time"

	"ulvant/internal/platform/clock"
	"ulvant/internal/platform/config"
	"ulvant/internal/platform/db"
	"ulvant/internal/program"
	"ulvant/internal/standin/tray"
	"ulvant/internal/web"
	"ulvant/migrations"
)

func logTo(file *os.File) {
	slog.SetDefault(slog.New(slog.NewJSONHandler(file, &slog.HandlerOptions{Level: slog.LevelInfo})))
}

var errNoDatabase = errors.New("no database is set; give --database or DATABASE_URL, such as " +
	"postgres://user@host:5432/ulvant")

// serve serves on a database that is there and migrated.
func serve(ctx context.Context, args []string) error {
	cfg, _, err := config.Load(args, os.Getenv)
	if err != nil {
		return err
	}
	if cfg.DatabaseURL == "" {
		return errNoDatabase
	}
	logTo(os.Stdout)
	p, err := program.New(ctx, cfg, clock.System{}, nil)
	if err != nil {
		return err
	}
	defer p.Close()
	return run(ctx, p, nil, func(addr string) { slog.Info("listening", "address", addr) })
}

// run serves requests and works jobs until ctx ends, then finishes those under way.
func run(ctx context.Context, p *program.Program, mails *tray.Tray, ready func(addr string)) error {
	server, err := web.New(p, mails)
	if err != nil {
		return err
	}
	stop, err := p.TakeBounces()
	if err != nil {
		return err
	}
	defer stop()
	if err := p.Jobs.Start(context.WithoutCancel(ctx)); err != nil {
		return err
	}
	if err := server.Listen(p.Config.Listen); err != nil {
		return fmt.Errorf("cannot listen on %s; is it taken? Set ULVANT_LISTEN to another: %w", p.Config.Listen, err)
	}
	ready(server.Addr)
	go p.Funder.Keep(ctx)
	go func() {
		if err := p.Rounds.Warm(ctx, p.Clock.Now()); err != nil && ctx.Err() == nil {
			slog.Warn("the tables of open rounds were not worked out; first visitors wait for them", "error", err)
		}
	}()
	<-ctx.Done()
	slog.Info("stopping; requests and jobs under way are finished first")
	stopCtx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 30*time.Second)
	defer cancel()
	return errors.Join(server.Stop(), p.Jobs.Stop(stopCtx))
}

// migrate brings the tables up to date.
func migrate(ctx context.Context, args []string) error {
	cfg, _, err := config.Load(args, os.Getenv)
	if err != nil {
		return err
	}
	if cfg.OwnerURL == "" {
		return errNoDatabase
	}
	role, err := db.AppRole(cfg.DatabaseURL, cfg.OwnerURL)
	if err != nil {
		return err
	}
	return db.Migrate(ctx, cfg.OwnerURL, role, migrations.FS)
}
