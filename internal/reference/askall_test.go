package reference_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"ulvant/core/refusal"
	"ulvant/core/request"
	"ulvant/internal/platform/db"
	"ulvant/internal/reference"
)

// Whoever is named is asked once, alone or with all; whom nothing is heard of is reminded
// by hand, and not again within a day.
func TestAskingAllAndRemindingByHand(t *testing.T) {
	a := ask(t)
	id, err := a.name("Oswin Thrale", "oswin@wardens.example", "He surveyed the shore.")
	if err != nil {
		t.Fatal(err)
	}
	all := func() (names []string) {
		t.Helper()
		a.Held(a.c.LeadID, func(ctx context.Context, tx *db.Tx) (err error) {
			names, err = a.Referees.AskAll(ctx, tx, a.c)
			return err
		})
		return names
	}
	one := func() error {
		return a.Try(a.c.LeadID, func(ctx context.Context, tx *db.Tx) error { return a.Referees.Ask(ctx, tx, a.c, id) })
	}
	asked := a.mails("oswin@wardens.example", "")
	if got := all(); asked == 0 && !slices.Equal(got, []string{"Oswin Thrale"}) || asked > 0 && len(got) != 0 {
		t.Errorf("all are asked: %v, after %d mails", got, asked)
	}
	if got := all(); len(got) != 0 {
		t.Errorf("asked twice: %v", got)
	}
	if _, said := refusal.Of(one()); !said || a.mails("oswin@wardens.example", "") != 1 {
		t.Errorf("asked once more: %d mails", a.mails("oswin@wardens.example", ""))
	}
	f, err := a.Rounds.Form(t.Context(), a.DB, a.c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	remind := func() (names []string) {
		t.Helper()
		a.Held(a.c.LeadID, func(ctx context.Context, tx *db.Tx) (err error) {
			names, err = a.Referees.RemindAwaited(ctx, tx, a.c, f)
			return err
		})
		return names
	}
	for _, c := range []struct {
		what  string
		later time.Duration
		says  []string
		mails int
	}{
		{"at once, by hand", 0, []string{"Oswin Thrale"}, 2},
		{"again", 0, nil, 2},
		{"a second before it may be again", request.Apart - time.Second, nil, 2},
		{"when it may be again", time.Second, []string{"Oswin Thrale"}, 3},
	} {
		a.Clock.Set(a.Clock.Now().Add(c.later))
		if got := remind(); !slices.Equal(got, c.says) || a.mails("oswin@wardens.example", "") != c.mails {
			t.Errorf("%s: %v, %d mails", c.what, got, a.mails("oswin@wardens.example", ""))
		}
	}
}

func TestWhatNudgingSays(t *testing.T) {
	for _, c := range []struct {
		written, of int
		want        string
	}{
		{0, 3, "Nobody was written to: all of them were reminded lately, have had their reminders, or have answered"},
		{1, 1, "1 reminder is on the way"}, {2, 3, "2 reminders are on the way; 1 other was passed over"},
		{1, 3, "1 reminder is on the way; 2 others were passed over"},
	} {
		if got := reference.Nudged(c.written, c.of); got != c.want {
			t.Errorf("%d of %d: %q", c.written, c.of, got)
		}
	}
}
