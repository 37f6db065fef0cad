package intake_test

import (
	"context"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
)

// Of drafts that came to a halt it is kept what stood in their way, and what was
// done for those for whom it does no more.
func TestWhatHelpsThoseWhoAreStuck(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	officer := h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID
	h.OpenRound(officer, nil)
	nudged, alone, still := h.Draft("ann@a.example"), h.Draft("bo@b.example"), h.Draft("cy@c.example")
	sweep := func(after time.Duration) {
		t.Helper()
		h.Clock.Set(h.Clock.Now().Add(after))
		if err := h.Intake.SweepHurdles(t.Context(), h.Clock.Now()); err != nil {
			t.Fatal(err)
		}
	}
	halted := func() (n int) {
		if err := h.DB.Get(&n, `SELECT count(DISTINCT entry_id) FROM hurdle WHERE over_at IS NULL`); err != nil {
			t.Fatal(err)
		}
		return n
	}
	sweep(47 * time.Hour)
	if halted() != 0 {
		t.Errorf("within two days %d came to a halt", halted())
	}
	sweep(time.Hour)
	if halted() != 3 {
		t.Errorf("after two days %d came to a halt", halted())
	}
	h.Held(officer, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Nudge(ctx, tx, nudged); return err })
	name := func(c application.Case) {
		h.Held(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Referees.Name(ctx, tx, c, "site-referee", reference.Person{Name: "Dacian Rowe",
				Email: "dacian@wardens.example", Knows: "neighbour"})
			return err
		})
	}
	h.Clock.Set(h.Clock.Now().Add(20 * time.Hour))
	before := h.StateOf(still)
	name(nudged)
	name(alone)
	sweep(time.Hour)
	got, err := h.Desk.Mended(t.Context(), nudged.RoundID, func(form.Code) string { return "something" })
	if err != nil {
		t.Fatal(err)
	}
	if n := got["something"]; n[say.Nudged] != 1 || n[say.Alone] != 1 || h.StateOf(still) != before || halted() != 3 {
		t.Errorf("%v helped; %d are at a halt", got, halted())
	}
}
