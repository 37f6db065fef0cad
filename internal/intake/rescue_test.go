package intake_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
)

// A draft that lacks only a letter: the one press writes to the referee, not
// twice within a day, and what it brought in is counted.
func TestTheRescueList(t *testing.T) {
	ctx := context.Background()
	h, lead, c := programtest.Opened(t, programtest.Lettered)
	officer := programtest.MustAccount(t, h.DB, "neda@ostrel-trust.example")
	var referee int64
	h.Held(lead, func(ctx context.Context, tx *db.Tx) (err error) {
		if _, _, err = h.Intake.Save(ctx, tx, c, []intake.Edit{programtest.Edit("request", "9000"),
			programtest.Edit("land-leave", "yes")}); err != nil {
			return err
		}
		referee, err = h.Referees.Name(ctx, tx, c, "site-referee", reference.Person{Name: "Dacian Rowe",
			Email: "dacian@wardens.example", Knows: "neighbour"})
		return err
	})
	vouch := func(f func(ctx context.Context, tx *db.Tx) error) {
		if err := h.DB.Do(ctx, db.Actor{Kind: "link", ID: referee}, h.Clock.Now(), f); err != nil {
			t.Fatal(err)
		}
	}
	vouch(func(ctx context.Context, tx *db.Tx) error { return h.Referees.Accept(ctx, tx, referee) })
	vouch(func(ctx context.Context, tx *db.Tx) error {
		return h.Referees.Keep(ctx, tx, referee, reference.Draft{Version: 3, Text: "Good people."})
	})
	list, err := h.Desk.Rescue(ctx, c.RoundID, h.Clock.Now(), 10)
	if err != nil || len(list) != 1 || list[0].Whom != lifecycle.Third || list[0].Blocks != "Dacian Rowe" ||
		list[0].Letter != form.Uploaded {
		t.Fatalf("the list: %+v %v", list, err)
	}
	h.Drain()
	before, _ := h.Tray.List("dacian@wardens.example", 0, 99)
	nudge := func() (whom string, err error) {
		err = h.Try(officer, func(ctx context.Context, tx *db.Tx) (err error) {
			whom,
				err = h.Intake.Nudge(ctx, tx, c)
			return err
		})
		h.Drain()
		return whom, err
	}
	if whom, err := nudge(); err != nil || whom != "Dacian Rowe" {
		t.Errorf("nudged %q, %v", whom, err)
	}
	var unfit refusal.Refusal
	if _, err := nudge(); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("twice within a day: %v", err)
	}
	if after, _ := h.Tray.List("dacian@wardens.example", 0, 99); len(after) != len(before)+1 {
		t.Errorf("%d mails to the referee, then %d", len(before), len(after))
	}
	h.Clock.Set(h.Clock.Now().Add(time.Hour))
	vouch(func(ctx context.Context, tx *db.Tx) error { return h.Referees.Send(ctx, tx, referee) })
	h.Clock.Set(h.Clock.Now().Add(24 * time.Hour))
	if whom, err := nudge(); err != nil || whom != "Imre Calloway" { // now it only has to be sent
		t.Errorf("then nudged %q, %v", whom, err)
	}
	h.Clock.Set(h.Clock.Now().Add(time.Hour))
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	if n, sent, err := h.Desk.Nudged(ctx, c.RoundID); err != nil || n != 1 || sent != 1 {
		t.Errorf("%d nudged, %d sent afterwards, %v", n, sent, err)
	}
	if _, err := nudge(); !errors.Is(err, application.ErrNotDraft) {
		t.Errorf("after it was sent: %v", err)
	}
}

// Who looks after a place is said beside its cases, and finds them; a place
// without anybody of its own falls to whoever looks after all the others.
func TestWhoLooksAfterWhat(t *testing.T) {
	ctx := context.Background()
	p := programtest.SentTo(t, map[string]string{"Ann": "9000", "Bo": "7000"})
	other := p.Person("piran@ostrel-trust.example", "Piran Lode")
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.People.GiveRole(ctx, tx, other.ID, access.Held{Role: access.RunsRounds})
	})
	for _, c := range []struct {
		place   string
		account int64
		want    string
	}{{"", p.Officer, "Neda Sparrow"}, {"Corvoe", other.ID, "Neda Sparrow"}, {"", 0, ""}, {"", p.Of["Ann"].LeadID,
		""}} {
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Rounds.LooksAfter(ctx, tx, p.Round.ID, c.place, c.account)
		})
		if got, err := p.Desk.CarerOf(ctx, 0, p.Round.ID, "", p.Clock.Now()); err != nil || got != c.want {
			t.Errorf("%q to %d: %q looks after the rest, want %q, %v", c.place, c.account, got, c.want, err)
		}
	}
	if got, _ := p.Desk.CarerOf(ctx, 0, p.Round.ID, "Corvoe", p.Clock.Now()); got != "Piran Lode" {
		t.Errorf("%q looks after Corvoe", got)
	}
}
