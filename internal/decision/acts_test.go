package decision_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reading"
)

// Marks have their bounds and their versions; an act is recorded whole or not
// at all, never above the fund; its letters are stopped and let go again.
func TestMarksAndActs(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "20,000"})
	ctx := context.Background()
	handOut := func() error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Reading.HandOut(ctx, tx, p.Round, p.Form, nil)
			return err
		})
	}
	p.Clock.Set(p.Form.HandsOutFrom())
	if err := handOut(); err == nil || !strings.Contains(err.Error(), "invite readers first") {
		t.Errorf("with nobody to read: %v", err)
	}
	for _, name := range []string{"Oriel Vane", "Teodora Brisk"} {
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Reading.Invite(ctx, tx, p.Round, strings.ToLower(strings.Fields(name)[0])+"@readers.example", name)
			return err
		})
	}
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Reading.Invite(ctx, tx, p.Round, "ORIEL@readers.example", "Oriel Vane")
		return err
	}); err == nil {
		t.Error("a reader is invited twice")
	}
	if err := handOut(); err != nil {
		t.Fatal(err)
	}
	if err := handOut(); err != nil { // again changes nothing
		t.Fatal(err)
	}
	marks := map[string]int{"Ann": 5, "Bo": 4, "Cy": 2}
	for name, m := range marks {
		p.StateOf(name)
		c := p.Of[name]
		given, err := p.Reading.Of(ctx, p.DB, c.EntryID)
		if err != nil || len(given) != 2 {
			t.Fatalf("%s has %d readers: %v", name, len(given), err)
		}
		for _, g := range given {
			keep := func(version int, marks map[form.Key]int) (n int, err error) {
				err = p.Try(g.AccountID, func(ctx context.Context, tx *db.Tx) error {
					n, err = p.Reading.Keep(ctx, tx, c, version, reading.Marking{Marks: marks, Note: "A note."})
					return err
				})
				return n, err
			}
			if _, err := keep(g.Version, map[form.Key]int{"gain": 6}); err == nil ||
				!strings.Contains(err.Error(), "from 0 to 5") {
				t.Errorf("a mark of 6: %v", err)
			}
			n, err := keep(g.Version, map[form.Key]int{"gain": m, "lasting": m, "value": m})
			if err != nil {
				t.Fatal(err)
			}
			if _, err := keep(g.Version, map[form.Key]int{"gain": 0}); !errors.Is(err, reading.ErrStale) {
				t.Errorf("from an older page: %v", err)
			}
			p.Act(g.AccountID, func(ctx context.Context, tx *db.Tx) error { return p.Reading.Send(ctx, tx, c) })
			if _, err := keep(n, map[form.Key]int{"gain": 0}); !errors.Is(err, reading.ErrSent) {
				t.Errorf("after they were sent: %v", err)
			}
		}
		stranger := p.Person("stranger-"+strings.ToLower(name)+"@readers.example", "A Stranger")
		if err := p.Try(stranger.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Reading.Keep(ctx, tx, c, 1, reading.Marking{Marks: map[form.Key]int{"gain": 5}})
			return err
		}); !errors.Is(err, reading.ErrNotGiven) {
			t.Errorf("marks of somebody who does not read it: %v", err)
		}
	}
	order, err := p.Decisions.Order(ctx, p.DB, p.Round, p.Form, "writing")
	if err != nil || len(order.Rows) != 3 || !strings.HasPrefix(order.Rows[0].Title, "Ann") ||
		!strings.HasPrefix(order.Rows[2].Title, "Cy") {
		t.Fatalf("%+v %v", order.Rows, err)
	}
	choose := func(outcomes ...int64) (out []decision.Choice) { // sums by rank; 0: not awarded
		order, err := p.Decisions.Order(ctx, p.DB, p.Round, p.Form, "writing")
		if err != nil {
			t.Fatal(err)
		}
		for i, sum := range outcomes {
			c := decision.Choice{EntryID: order.Rows[i].EntryID, Version: order.Rows[i].Version, Outcome: lifecycle.NotAwarded,
				Amount: sum}
			if sum != 0 {
				c.Outcome = lifecycle.Awarded
			}
			out = append(out, c)
		}
		return out
	}
	record := func(note string, choices ...decision.Choice) (act int64, err error) {
		err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			act, err = p.Decisions.Record(ctx, tx, p.Round, p.Form,
				decision.Sitting{Stage: "writing", Choices: choices, Note: note})
			return err
		})
		return act, err
	}
	for _, c := range []struct {
		note    string
		choices []decision.Choice
		says    string
	}{
		{"Panel", nil, "there is nothing to record"},
		{"  ", choose(1), "say who decided and when"},
		{"Panel", choose(-5), "say how much is awarded"},
		{"Panel", choose(6_000_000, 5_000_000), "the awards come to €110,000, which is €10,000 more than the fund"},
		{"Panel", []decision.Choice{{EntryID: order.Rows[0].EntryID, Version: order.Rows[0].Version,
			Outcome: lifecycle.Draft}}, "is not an outcome"},
	} {
		if _, err := record(c.note, c.choices...); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%q %v: %v, want %q", c.note, c.choices, err, c.says)
		}
	}
	if p.StateOf("Ann") != lifecycle.Read {
		t.Errorf("what was refused left Ann %s", p.StateOf("Ann"))
	}
	act, err := record("Panel of 14 May", choose(6_000_000, 4_000_000, 0)...)
	if err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string]lifecycle.State{"Ann": lifecycle.Awarded, "Bo": lifecycle.Awarded,
		"Cy": lifecycle.NotAwarded} {
		if got := p.StateOf(name); got != want {
			t.Errorf("%s is %s, want %s", name, got, want)
		}
	}
	var stopped int64
	p.Held(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
		stopped, err = p.Decisions.StopLetters(ctx, tx, p.Round.ID, act)
		return err
	})
	if stopped != 3 {
		t.Errorf("%d letters were stopped", stopped)
	}
	p.Clock.Set(p.Clock.Now().Add(time.Hour))
	p.Drain()
	if n := p.Mails("will fund"); n != 0 {
		t.Errorf("%d letters went out although they were stopped", n)
	}
	var released int
	p.Held(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
		released, err = p.Decisions.ReleaseLetters(ctx, tx, p.Round, p.Form, act, time.Time{})
		return err
	})
	if released != 3 {
		t.Errorf("%d letters are let go", released)
	}
	p.Drain()
	if n := p.Mails("will fund"); n != 0 {
		t.Errorf("%d letters went out without a new hold", n)
	}
	p.Clock.Set(p.Clock.Now().Add(31 * time.Minute))
	p.Drain()
	if funded, not := p.Mails("will fund"), p.Mails("the answer on"); funded != 2 || not != 1 {
		t.Errorf("%d and %d letters went out, want 2 and 1", funded, not)
	}
	p.Drain()
	if n := p.Mails("will fund"); n != 2 {
		t.Errorf("letters went out again: %d", n)
	}
}
