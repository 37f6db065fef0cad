package trail_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/trail"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// Writing in one section by one person is a row a quarter of an hour.
func TestWroteIsNotWrittenWithEveryLetter(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	c := h.Draft("imre@corvoe.example")
	other := h.Person("ysolde@tarl.example", "Ysolde Fenn").ID
	from, begun := h.Clock.Now(), 0
	count := func() (n int) {
		rows, err := trail.Of(t.Context(), h.DB, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range rows {
			if r.Verb == "wrote" {
				n++
			}
		}
		return n
	}
	for _, x := range []struct {
		name, section string
		by            int64
		after         time.Duration
		more          int
	}{
		{"the first", "work", c.LeadID, 0, 1},
		{"a minute later", "work", c.LeadID, time.Minute, 0},
		{"in another section", "place", c.LeadID, time.Minute, 1},
		{"somebody else", "work", other, time.Minute, 1},
		{"a moment before the quarter is over", "work", c.LeadID, 15*time.Minute - time.Second, 0},
		{"when it is over", "work", c.LeadID, 15 * time.Minute, 1},
	} {
		h.Clock.Set(from.Add(x.after))
		h.Held(x.by, func(ctx context.Context, tx *db.Tx) error { return trail.Wrote(ctx, tx, c.ID, c.RoundID, x.section) })
		if got := count() - begun; got != x.more {
			t.Errorf("%s: %d more rows, want %d", x.name, got, x.more)
		}
		begun = count()
	}
}

// Verbs are those of the catalogue; many rows are as many rows of their own.
func TestWriting(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	c := h.Draft("imre@corvoe.example")
	for name, write := range map[string]func(ctx context.Context, tx *db.Tx) error{
		"one": func(ctx context.Context, tx *db.Tx) error { return trail.Write(ctx, tx, "danced", c.ID, 0, nil) },
		"of many": func(ctx context.Context, tx *db.Tx) error {
			return trail.WriteAll(ctx, tx, []trail.Entry{{Verb: "sent", Application: c.ID}, {Verb: "danced", Application: c.ID}})
		},
	} {
		if err := h.Try(c.LeadID, write); err == nil || !strings.Contains(err.Error(), "danced") {
			t.Errorf("%s: a verb that is not in the catalogue: %v", name, err)
		}
	}
	before, err := trail.Of(t.Context(), h.DB, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	h.Held(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		if err := trail.WriteAll(ctx, tx, nil); err != nil {
			return err
		}
		return trail.WriteAll(ctx, tx, []trail.Entry{{Verb: "sent", Application: c.ID, Round: c.RoundID},
			{Verb: "given-to", Application: c.ID, Figures: map[string]string{"reader": "7"}}})
	})
	rows, err := trail.Of(t.Context(), h.DB, c.ID)
	if err != nil || len(rows) != len(before)+2 {
		t.Fatal(len(rows), err)
	}
	a, b := rows[len(rows)-2], rows[len(rows)-1]
	if a.Verb != "sent" || string(a.Figures) != "{}" || a.ByID != c.LeadID || a.ByKind != "account" ||
		!a.At.Equal(h.Clock.Now()) {
		t.Errorf("%+v", a)
	}
	if b.Verb != "given-to" || string(b.Figures) != `{"reader": "7"}` {
		t.Errorf("%+v", b)
	}
}
