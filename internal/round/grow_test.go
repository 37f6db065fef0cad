package round_test

import (
	"context"
	"errors"
	"slices"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/round"
)

// A list grows for all: in the design being worked on, and in the published one by that
// item and nothing else, whatever else is being worked on; once, by its label.
func TestAListGrows(t *testing.T) {
	b := newBench(t)
	grow := func(list form.Key, label string) (published *int64, err error) {
		err = b.Try(b.neda, func(ctx context.Context, tx *db.Tx) error {
			published, err = b.Rounds.GrowList(ctx, tx, b.id, list, label)
			return err
		})
		return published, err
	}
	if _, err := grow("keyword-list", "Eel grass"); !errors.Is(err, round.ErrNoList) {
		t.Errorf("a list that is none: %v", err)
	}
	d := b.working()
	d.Lists = append(d.Lists, form.List{Key: "habitats", Label: "Habitats", Items: []form.Item{
		{Code: "peat", Label: "Peat"}, {Code: "dune", Label: "Sand hill"}}})
	d.Key, d.Name = "shore-lists", "Lists"
	b.Act(b.neda, func(ctx context.Context, tx *db.Tx) (err error) {
		b.id, err = b.Rounds.Create(ctx, tx, d)
		return err
	})
	if p, err := grow("habitats", "Salt marsh"); err != nil || p != nil {
		t.Errorf("before it is published: %v %v", p, err)
	}
	b.Held(b.neda, func(ctx context.Context, tx *db.Tx) error { _, _, err := b.Rounds.Publish(ctx, tx, b.id); return err })
	if err := b.edit(b.juna, set("name", "Not ready")); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		label, code string
		number      int
	}{{" Eel grass ", "eel-grass", 2}, {"éel GRASS", "", 2}, {"Eel-grass!", "", 2}, {"Dune", "dune-2", 3}} {
		p, err := grow("habitats", c.label)
		if err != nil || p == nil {
			t.Fatalf("%s: %v %v", c.label, p, err)
		}
		n, err := b.Rounds.Number(t.Context(), b.DB, *p)
		if err != nil || c.code != "" && n != c.number {
			t.Errorf("%s: design %d, want %d, %v", c.label, n, c.number, err)
		}
		f, err := b.Rounds.Form(t.Context(), b.DB, *p)
		if err != nil {
			t.Fatal(err)
		}
		var codes []string
		for _, it := range f.Design.Lists[len(f.Design.Lists)-1].Items {
			codes = append(codes, it.Code)
		}
		if c.code != "" && !slices.Contains(codes, c.code) || f.Design.Name != "Lists" {
			t.Errorf("%s: “%s” has %v", c.label, f.Design.Name, codes)
		}
	}
	if got := b.working(); got.Name != "Not ready" || len(got.Lists[len(got.Lists)-1].Items) < 5 {
		t.Errorf("being worked on: %q with %+v", got.Name, got.Lists)
	}
}

// Rounds are seen by whoever has a role for them: all, a programme's, one, a part of one.
func TestWhoSeesWhichRounds(t *testing.T) {
	b := newBench(t)
	var other int64
	b.Act(b.neda, func(ctx context.Context, tx *db.Tx) (err error) {
		s := programtest.Settings()
		s.Key, s.Programme = "nets-2027", "Nets"
		other, err = b.Rounds.Create(ctx, tx, pattern.Grants(s))
		return err
	})
	for _, c := range []struct {
		name          string
		sight         access.Sight
		rounds, whole round.Only
		shore, nets   bool // seen whole, by their keys
	}{
		{"all", access.Sight{All: true}, nil, nil, true, true},
		{"nothing", access.Sight{}, round.Only{}, round.Only{}, false, false},
		{"a programme's", access.Sight{Programmes: []string{"Nets"}}, round.Only{other}, round.Only{other}, false, true},
		{"one", access.Sight{Rounds: []int64{b.id}}, round.Only{b.id}, round.Only{b.id}, true, false},
		{"a part of one", access.Sight{Rounds: []int64{b.id}, Parts: map[int64][]access.Part{b.id: {{Place: "Tarl"}}}},
			round.Only{b.id}, round.Only{}, false, false},
	} {
		got, err := b.Rounds.Seen(t.Context(), c.sight)
		if err != nil || !slices.Equal(got.Rounds, c.rounds) || !slices.Equal(got.Whole, c.whole) ||
			(got.Rounds == nil) != (c.rounds == nil) || got.SeesWhole("shore-2027") != c.shore ||
			got.SeesWhole("nets-2027") != c.nets {
			t.Errorf("%s: %+v, %v", c.name, got, err)
		}
	}
	for name, want := range map[string]bool{"Nets": true, "nets": false, "Kites": false} {
		if known, err := b.Rounds.Programme(t.Context(), name); err != nil || known != want {
			t.Errorf("%s: %t %v", name, known, err)
		}
	}
	all, err := b.Rounds.All(t.Context())
	if err != nil || len(all) != 2 || all[0].ID != other { // both close together: the later made stands first
		t.Errorf("%d rounds, %v", len(all), err)
	}
	b.Act(b.neda, func(ctx context.Context, tx *db.Tx) error { _, _, err := b.Rounds.Publish(ctx, tx, b.id); return err })
	r, err := b.Rounds.ByID(t.Context(), b.DB, b.id)
	if err != nil || r.ClosesAt.IsZero() {
		t.Fatal(r.ClosesAt, err)
	}
	for after, want := range map[time.Duration]int{0: 0, time.Second: 1} { // the other is not published
		list, err := b.Rounds.Before(t.Context(), r.Programme, r.ClosesAt.Add(after), 5)
		if err != nil || len(list) != want {
			t.Errorf("%s after it closes: %d before, %v", after, len(list), err)
		}
		public, err := b.Rounds.Public(t.Context(), r.ClosesAt.Add(after-time.Second))
		if err != nil || len(public) != 1-want {
			t.Errorf("%s before it closes: %d are public, %v", time.Second-after, len(public), err)
		}
	}
}
