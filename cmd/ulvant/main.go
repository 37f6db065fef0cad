// Command ulvant runs funding rounds: serve, demo, migrate and the rest.
package main

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"syscall"
	_ "time/tzdata"

	"ulvant/internal/platform/inspect"
)

// command is one word of the command line.
type command struct {
	name, means string
	run         func(ctx context.Context, args []string) error
}

var commands = []command{
	{"serve", "serve the application on a database that is there", serve},
	{"demo", "serve it with the made-up Ostrel Isles Trust, starting PostgreSQL and the mail tray itself; --fresh " +
		"begins again", runDemo},
	{"migrate", "bring the database's tables up to date", migrate},
	{"design", "export KEY, or import FILE: carry a round's design as a JSON document", design},
	{"role", "give|take ADDRESS [ROLE]: who does what at the office", role},
	{"with-db", "COMMAND…: run a command with a throwaway PostgreSQL, for tests", withDB},
}

func main() {
	if len(os.Args) >= 3 && os.Args[1] == inspect.Command {
		os.Exit(inspect.Child(os.Args[2], os.Args[3:]...))
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if len(os.Args) > 1 {
		for _, c := range commands {
			if c.name == os.Args[1] {
				if err := c.run(ctx, os.Args[2:]); err != nil {
					fmt.Fprintln(os.Stderr, "ulvant:", err)
					os.Exit(1)
				}
				return
			}
		}
	}
	help()
	if len(os.Args) < 2 || os.Args[1] != "--help" && os.Args[1] != "-h" && os.Args[1] != "help" {
		os.Exit(2)
	}
}

func help() {
	fmt.Println("Ulvant runs funding rounds. Usage: ulvant COMMAND [settings]")
	fmt.Println()
	for _, c := range commands {
		fmt.Printf("  %-8s %s\n", c.name, c.means)
	}
	fmt.Println("\nSettings are flags or environment variables; ulvant serve --help lists them, docs/settings.md " +
		"explains them.")
}
