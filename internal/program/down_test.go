package program_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// until polls what another goroutine brings about, for a minute at most.
func until(t *testing.T, what string, is func() bool) {
	t.Helper()
	tick := time.NewTicker(50 * time.Millisecond)
	defer tick.Stop()
	end := time.After(time.Minute)
	for !is() {
		select {
		case <-tick.C:
		case <-end:
			t.Fatal("it never came to this: " + what)
		}
	}
}

// The mail server is away, and for a while nothing works jobs either. People
// send all the same; what was to follow follows when they are back: the checks
// without waiting for the mail, and each mail once.
func TestMailAndJobsAreDown(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "9000"})
	there := p.Post.Server.Addr
	p.Post.Server.Addr = "127.0.0.1:1" // nobody listens there
	lead := p.Person("bo@corvoe.example", "Bo Hart")
	sent := false
	p.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error { // no worker runs: jobs are down too
		c, err := p.Intake.Start(ctx, tx, "shore-2027", "Bo’s work", nil)
		if err != nil {
			return err
		}
		if _, _, err = p.Intake.Save(ctx, tx, c, programtest.WholeShort("8000")); err != nil {
			return err
		}
		c, err = p.Intake.Send(ctx, tx, c)
		p.Of["Bo"], sent = c, err == nil
		return err
	})
	if !sent || p.StateOf("Bo") != lifecycle.Sent {
		t.Fatalf("it is %s", p.StateOf("Bo"))
	}
	mails := func() int {
		list, _ := p.Tray.List("bo@corvoe.example", 0, 100)
		n := 0
		for _, m := range list {
			if m.Attachment != "" {
				n++
			}
		}
		return n
	}
	ctx, stop := context.WithCancel(context.Background())
	if err := p.Jobs.Start(ctx); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { stop(); p.Jobs.Stop(context.Background()) })
	until(t, "the rules are worked through though no mail goes out",
		func() bool { return p.StateOf("Bo") == lifecycle.Eligible })
	until(t, "the mail was tried", func() bool {
		var tried int
		if err := p.DB.Get(&tried, `SELECT count(*) FROM river_job WHERE state = 'retryable' OR attempt > 1`); err != nil {
			t.Fatal(err)
		}
		return tried > 0
	})
	if n := mails(); n != 0 {
		t.Fatalf("%d mails went out", n)
	}
	p.Post.Server.Addr = there
	until(t, "the mail follows", func() bool { return mails() > 0 })
	until(t, "nothing is left to do", func() bool {
		var left int
		if err := p.DB.Get(&left,
			`SELECT count(*) FROM river_job WHERE state IN ('available', 'running', 'retryable') AND args->>'name' = 'post'`); err != nil {
			t.Fatal(err)
		}
		return left == 0
	})
	if n := mails(); n != 1 {
		t.Errorf("the copy went out %d times", n)
	}
}

// A sweep that fails does not keep the others from their work.
func TestOneSweepFails(t *testing.T) {
	h := programtest.New(t)
	swept := 0
	fails := errors.New("the register is on fire")
	h.Jobs.Sweeping("fails", func(context.Context, time.Time) error { return fails })
	h.Jobs.Sweeping("works", func(context.Context, time.Time) error { swept++; return nil })
	if err := h.Jobs.Sweep(context.Background(), h.Clock.Now()); !errors.Is(err, fails) || swept != 1 {
		t.Errorf("%v, the other swept %d times", err, swept)
	}
}
