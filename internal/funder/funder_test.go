package funder_test

import (
	"context"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// What is set counts at once: in letters, in working days, and not before its
// transaction does; of two who change the same the later is told.
func TestSet(t *testing.T) {
	h := programtest.New(t)
	ann := h.Person("ann@ostrel-trust.example", "Ann Hart").ID
	now, version := h.Funder.Now(), h.Funder.Version()
	set := func(version int, change func()) error {
		change()
		return h.Try(ann, func(ctx context.Context, tx *db.Tx) error { return h.Funder.Set(ctx, tx, version, now) })
	}
	wednesday := calendar.NewDate(2027, 3, 24)
	if h.Funder.Off(wednesday) || !h.Funder.Off(wednesday.AddDays(3)) || !h.Funder.Off(calendar.NewDate(2027, 3, 17)) {
		t.Error("a Wednesday, a Saturday or Saint Patrick’s day is not what it is")
	}
	if err := set(version, func() {
		now.Name, now.Closed, now.Foot = "The Moss Fund", "2027-03-24",
			"Harbour Row, Hallin"
	}); err != nil {
		t.Fatal(err)
	}
	if h.Funder.Name() != "The Ostrel Isles Trust" {
		t.Error("it counts before it is read")
	}
	if err := h.Funder.Load(t.Context()); err != nil {
		t.Fatal(err)
	}
	if h.Funder.Name() != "The Moss Fund" || !h.Funder.Off(wednesday) || h.Funder.Version() != version+1 {
		t.Errorf("now it is %q, version %d", h.Funder.Name(), h.Funder.Version())
	}
	if err := set(version, func() { now.Name = "The Peat Fund" }); err == nil ||
		!strings.Contains(err.Error(), "meanwhile") {
		t.Errorf("a change of what was changed meanwhile: %v", err)
	}
	if err := set(version+1, func() { now.Zone = "Isles/Hallin" }); err == nil {
		t.Error("a zone that is none is kept")
	}
	if c, err := h.Funder.Changed(t.Context()); err != nil || c == nil || c.By != "Ann Hart" {
		t.Errorf("%+v %v", c, err)
	}
	// the next letter says it
	h.Held(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.SignUp(ctx, tx, "new@b.example", "Bo Hart", "")
	})
	h.Drain()
	if list, _ := h.Tray.List("new@b.example", 0, 1); len(list) != 1 ||
		!strings.HasSuffix(strings.TrimSpace(list[0].Body), "Harbour Row, Hallin") {
		t.Errorf("the letter: %+v", list)
	}
}
