// Command rush plays a closing: applicants who type and save, and all send in
// the last minute, on a PostgreSQL and one or two processes of the application
// that it starts itself, with durability on. It can kill either with SIGKILL
// in the middle. Afterwards it reckons: is every answer there that was said to
// be kept, is every send in that was in time, and none that was late?
//
//	go build -o bin/ulvant ./cmd/ulvant && go run ./cmd/rush -kill app
//
// docs/performance.md holds what it measured.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"sync"
	"time"

	"ulvant/internal/platform/inspect"
)

// plan of a rush, from the flags.
type plan struct {
	applicants int
	write      time.Duration // before the last minute
	last       time.Duration // in which all send
	apps       int
	kill       string // "app", "db" or ""
	flood      bool
	binary     string
}

func main() {
	if len(os.Args) >= 3 && os.Args[1] == inspect.Command {
		os.Exit(inspect.Child(os.Args[2], os.Args[3:]...))
	}
	var p plan
	flag.IntVar(&p.applicants, "applicants", 300, "how many type and send")
	flag.DurationVar(&p.write, "write", 60*time.Second, "how long they type before the last minute")
	flag.DurationVar(&p.last, "last", 60*time.Second, "the last minute")
	flag.IntVar(&p.apps, "apps", 1, "processes of the application on one database")
	flag.StringVar(&p.kill, "kill", "", "what is killed in the middle of each part: app or db")
	flag.BoolVar(&p.flood, "flood", false, "instead: save flat out for a while, against pgbench doing the bare UPDATE")
	flag.StringVar(&p.binary, "binary", "bin/ulvant", "the application")
	flag.Parse()
	if err := run(context.Background(), p); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(ctx context.Context, p plan) error {
	ready := 45*time.Second + time.Duration(p.applicants)*330*time.Millisecond // to make the drafts and sign in
	closes := time.Now().Add(ready + p.write + p.last).Truncate(time.Second)
	h, err := build(ctx, p, closes)
	if err != nil {
		return err
	}
	defer h.stop()
	fmt.Printf("%d drafts are ready\n", len(h.writers))
	crowd := make([]*writer, len(h.writers))
	for i, w := range h.writers {
		crowd[i] = &writer{house: h, who: w, dice: rand.New(rand.NewPCG(uint64(i), 7)), home: i % p.apps}
		if i%6 == 0 { // the limit on sign-ins from one address is not what is tried here
			if err := h.forgetTries(ctx); err != nil {
				return err
			}
		}
		if err := crowd[i].signIn(); err != nil {
			return err
		}
	}
	if p.flood {
		return flood(ctx, h, crowd)
	}
	if left := time.Until(closes); left < p.last+p.write/2 {
		return errors.New("making the drafts took too long; give fewer -applicants")
	}
	fmt.Printf("all are signed in; the round closes in %s\n", time.Until(closes).Round(time.Second))
	var all sync.WaitGroup
	for i, w := range crowd {
		// one in fifteen comes to it too late
		sends := closes.Add(-time.Duration(w.dice.Int64N(int64(p.last))))
		if i%15 == 14 {
			sends = closes.Add(time.Duration(1+w.dice.IntN(800)) * time.Millisecond)
		}
		all.Go(func() { w.play(sends) })
	}
	if p.kill != "" {
		all.Go(func() {
			for _, at := range []time.Time{closes.Add(-p.last - p.write/2), closes.Add(-p.last / 2)} {
				time.Sleep(time.Until(at))
				if err := h.killed(ctx, p.kill); err != nil {
					fmt.Fprintln(os.Stderr, "killing:", err)
				}
			}
		})
	}
	all.Wait()
	return reckon(ctx, h, crowd, closes)
}
