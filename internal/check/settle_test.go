package check_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/check"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// What a machine cannot settle a person does, with a note; a refusal waits for
// its hold, and is stopped when the person thinks better of it.
func TestSettlingByHand(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "20,000", "Bo": "?30,000"})
	if a, b := p.StateOf("Ann"), p.StateOf("Bo"); a != lifecycle.Eligible || b != lifecycle.Complete {
		t.Fatalf("after the checks: %s and %s", a, b)
	}
	settle := func(rule form.Key, yes bool, note string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Checks.Settle(ctx, tx, p.Of["Bo"], rule, yes, note)
		})
	}
	if err := settle("land", true, "  "); !errors.Is(err, check.ErrNote) {
		t.Errorf("without a note: %v", err)
	}
	if err := settle("sea", true, "Seen."); err == nil {
		t.Error("a rule that the round does not have is settled")
	}
	if err := settle("land", false, "The owner says no."); err != nil || p.StateOf("Bo") != lifecycle.NotEligible {
		t.Fatalf("not met: %v, %s", err, p.StateOf("Bo"))
	}
	p.Clock.Set(p.Clock.Now().Add(29 * time.Minute))
	p.Drain()
	if n := p.Mails("cannot take your application further"); n != 0 {
		t.Errorf("%d refusals went out before their hold was over", n)
	}
	if err := settle("land", true, "The owner has written after all."); err != nil ||
		p.StateOf("Bo") != lifecycle.Eligible {
		t.Fatalf("met after all: %v, %s", err, p.StateOf("Bo"))
	}
	p.Clock.Set(p.Clock.Now().Add(time.Hour))
	p.Drain()
	if n := p.Mails("cannot take your application further"); n != 0 {
		t.Errorf("%d refusals went out although they were stopped", n)
	}
	if err := settle("land", false, "No again."); err != nil {
		t.Fatal(err)
	}
	p.Clock.Set(p.Clock.Now().Add(31 * time.Minute))
	p.Drain()
	if n := p.Mails("cannot take your application further"); n != 1 {
		t.Errorf("%d refusals went out", n)
	}
}
