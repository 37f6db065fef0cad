package main

import (
	"context"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"ulvant/demo"
	"ulvant/internal/platform/clock"
	"ulvant/internal/platform/config"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/pgserver"
	"ulvant/internal/program"
	"ulvant/internal/standin/declarations"
	"ulvant/internal/standin/paydesk"
	"ulvant/internal/standin/register"
	"ulvant/internal/standin/scanner"
	"ulvant/internal/standin/tray"
	"ulvant/migrations"
)

// runDemo serves the made-up trust, with everything it needs started here.
func runDemo(ctx context.Context, args []string) error {
	fresh := slices.Contains(args, "--fresh")
	args = slices.DeleteFunc(args, func(a string) bool { return a == "--fresh" })
	cfg, _, err := config.Load(args, os.Getenv)
	if err != nil {
		return err
	}
	host, port, err := net.SplitHostPort(cfg.Listen)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		return fmt.Errorf("the demo lets anybody sign in, so it listens on loopback only, not on %q; use 127.0.0.1:8080",
			cfg.Listen)
	}
	if cfg.BaseURL == "http://localhost:8080" {
		cfg.BaseURL = "http://localhost:" + port
	}
	if err := os.MkdirAll(cfg.DataDir, 0o755); err != nil {
		return err
	}
	log, err := os.OpenFile(filepath.Join(cfg.DataDir, "ulvant.log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	defer log.Close()
	logTo(log)
	if cfg.DatabaseURL == "" {
		fmt.Println("Starting PostgreSQL…")
		server, err := pgserver.Start(ctx, pgserver.Options{Dir: cfg.DataDir, Port: cfg.PGPort})
		if err != nil {
			return err
		}
		defer server.Stop()
		if err := server.EnsureDatabase(ctx, "ulvant_demo", fresh); err != nil {
			return err
		}
		cfg.DatabaseURL, cfg.OwnerURL = server.URL("ulvant_demo"), server.OwnerURL("ulvant_demo")
		if err := db.Migrate(ctx, cfg.OwnerURL, pgserver.App, migrations.FS); err != nil {
			return err
		}
	} else {
		if fresh {
			return fmt.Errorf("--fresh begins again on the demo's own PostgreSQL only; empty the database at DATABASE_URL " +
				"yourself")
		}
		if err := db.Migrate(ctx, cfg.OwnerURL, "", migrations.FS); err != nil {
			return err
		}
	}
	if fresh {
		if err := os.RemoveAll(filepath.Join(cfg.DataDir, "tray")); err != nil {
			return err
		}
	}
	if cfg.Bounces == "" {
		cfg.Bounces = "127.0.0.1:2601"
	}
	if cfg.Texts == "" {
		cfg.Texts = "texts.example"
	}
	mails, err := tray.Start(cfg.SMTP, filepath.Join(cfg.DataDir, "tray"))
	if err != nil {
		return err
	}
	defer mails.Stop()
	mails.SendBack(cfg.Bounces, demo.Lost)
	bodies, err := register.Start(strings.TrimPrefix(cfg.Register, "http://"), demo.Registered())
	if err != nil {
		return fmt.Errorf("the register stand-in cannot start: %w", err)
	}
	defer bodies.Stop()
	if cfg.Scanner == "" && !slices.Contains(args, "--scanner=-") {
		looks, err := scanner.Start("127.0.0.1:2599")
		if err != nil {
			return fmt.Errorf("the scanner stand-in cannot start: %w", err)
		}
		defer looks.Stop()
		cfg.Scanner = looks.Addr
	}
	if cfg.Declarations == "" && !slices.Contains(args, "--declarations=-") {
		declares, err := declarations.Start("127.0.0.1:2600", demo.Declarations())
		if err != nil {
			return fmt.Errorf("the stand-in for declarations cannot start: %w", err)
		}
		defer declares.Stop()
		cfg.Declarations = "http://" + declares.Addr
	}
	var desk *paydesk.Desk
	if cfg.Paydesk == "" && !slices.Contains(args, "--paydesk=-") {
		file := filepath.Join(cfg.DataDir, "paydesk.json")
		if fresh {
			if err := os.RemoveAll(file); err != nil {
				return err
			}
		}
		cfg.PaydeskKey = []byte("of the demo, on loopback")
		if desk, err = paydesk.Start("127.0.0.1:2602", cfg.PaydeskKey, cfg.BaseURL+"/paydesk/notices", file); err != nil {
			return fmt.Errorf("the stand-in for a payment desk cannot start: %w", err)
		}
		defer desk.Stop()
		cfg.Paydesk = "http://" + desk.Addr
	}
	p, err := program.New(ctx, cfg, clock.System{}, nil)
	if err != nil {
		return err
	}
	defer p.Close()
	empty, err := demo.Empty(ctx, p)
	if err != nil {
		return err
	}
	if empty {
		fmt.Println("Building the Ostrel Isles Trust: a dozen rounds, a year of them. This takes a minute or two, once.")
		if err := demo.Build(ctx, p, desk, time.Now()); err != nil {
			return fmt.Errorf("building the demo failed; ./run demo --fresh begins again: %w", err)
		}
	}
	return run(ctx, p, mails, func(string) { announce(ctx, p) })
}

func announce(ctx context.Context, p *program.Program) {
	fmt.Printf("\nUlvant is at %s\n\n", p.Config.BaseURL)
	people, err := p.People.ForDemo(ctx)
	if err != nil {
		return
	}
	fmt.Printf("Sign in at %s/sign-in, at one press or with the password “%s”:\n", p.Config.BaseURL, demo.Password)
	for _, a := range people {
		fmt.Printf("  %-16s %-42s %s\n", a.Name, a.Email, a.DemoNote)
	}
	fmt.Printf("  %-16s %-42s %s\n", "Dacian Rowe", "no account",
		"Referee: his link is at "+p.Config.BaseURL+"/tray?to="+demo.Referee)
	fmt.Printf("\nMails are in the tray: %s/tray. Data is in %s. Stop with Ctrl-C.\n", p.Config.BaseURL,
		strings.TrimSpace(p.Config.DataDir))
}
