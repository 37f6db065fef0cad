package decision_test

import (
	"context"
	"testing"

	"ulvant/core/lifecycle"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// The first in reserve moves up when money is free for it, and nobody before it.
func TestMovingUpFromTheReserve(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRound(t, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "40,000", "Dee": "10,000"})
	inOrder(p, "Ann", "Bo", "Cy", "Dee")
	proposed := func() *decision.Proposal {
		t.Helper()
		table, err := p.Decisions.Order(t.Context(), p.DB, p.Round, p.Form, "writing")
		if err != nil {
			t.Fatal(err)
		}
		x, err := p.Decisions.Proposed(t.Context(), p.DB, p.Form, table)
		if err != nil {
			t.Fatal(err)
		}
		return x
	}
	if x := proposed(); x != nil {
		t.Errorf("before anything is decided: %+v", x)
	}
	record := func(reason string, sums map[string]int64) {
		t.Helper()
		if _, err := p.Records(reason, p.Choices(sums)); err != nil {
			t.Fatal(err)
		}
	}
	record("", map[string]int64{"Ann": 60_000_00, "Bo": -1, "Cy": -1, "Dee": 0})
	if x := proposed(); x != nil { // 40,000 are free, and Bo asks 50,000; Cy waits its turn
		t.Errorf("somebody is passed over: %+v", x.Row.Title)
	}
	record("they gave it back", map[string]int64{"Ann": 50_000_00})
	x := proposed()
	if x == nil || x.Row.EntryID != p.Of["Bo"].EntryID || x.Sum != 50_000_00 || x.Left != 50_000_00 {
		t.Fatalf("%+v", x)
	}
	up := func(name string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Decisions.MoveUp(ctx, tx, p.Round, p.Form, "writing", p.Of[name].EntryID)
			return err
		})
	}
	if up("Cy") == nil {
		t.Error("the second in reserve moves up")
	}
	if err := up("Bo"); err != nil || p.StateOf("Bo") != lifecycle.Awarded {
		t.Fatalf("%v, %s", err, p.StateOf("Bo"))
	}
	if p.Told("Bo") == string(lifecycle.Awarded) {
		t.Error("Bo is told before the letter leaves")
	}
	if up("Bo") == nil || proposed() != nil {
		t.Error("twice, or with no money left")
	}
}
