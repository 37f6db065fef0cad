package interview_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/interview"
	"ulvant/internal/platform/db"
)

// Who must not meet somebody does not: their own panel is left out, and by hand it is
// refused; a member who steps out marks nothing, and the rest is enough.
func TestInterestsAtInterviews(t *testing.T) {
	t.Parallel()
	m := readRound(t, "Ann", "Ben")
	barred := m.readers[0]
	if _, err := m.DB.ExecContext(t.Context(),
		`INSERT INTO recusal (application_id, account_id, reason, at) VALUES ($1, $2, 'my cousin', now())`, m.Of["Ann"].ID,
		barred); err != nil {
		t.Fatal(err)
	}
	other := m.lays(m.readers[2:], 1)
	late := m.slot(0)
	m.day = 0
	first := m.lays(m.readers[:2], 2)
	if err := m.invites(nil, "Ann", "Ben"); err != nil {
		t.Fatal(err)
	}
	if g := m.gives(); g != (interview.Given{Given: 2}) || *m.of("Ann").DayID != other || *m.of("Ben").DayID != first {
		t.Errorf("%+v, Ann with %d, not %d", g, *m.of("Ann").DayID, other)
	}
	if err := m.by(m.Officer, "Ann", func(ctx context.Context, tx *db.Tx) error {
		return m.Interviews.Move(ctx, tx, m.Of["Ann"], m.slot(1).ID, "a better time")
	}); err == nil || !strings.Contains(err.Error(), "Oriel Vane") {
		t.Errorf("moved to a panel that must not meet her: %v", err)
	}
	free, err := m.Interviews.Free(t.Context(), m.DB, m.Of["Ann"], m.Form, m.Clock.Now())
	if err != nil || slices.ContainsFunc(free, func(s interview.Slot) bool { return s.DayID == first }) {
		t.Errorf("she can choose %v, %v", free, err)
	}
	// two rooms at once
	if err := m.Try(m.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := m.Interviews.AddDay(ctx, tx, m.Round, "talk", interview.Laid{Panel: "Third", Place: "x",
			Members: m.readers[2:], Minutes: 30,
			Times: []time.Time{late.Starts.Add(29 * time.Minute)}})
		return err
	}); err == nil || !strings.Contains(err.Error(), "Sami Holt") {
		t.Errorf("somebody is in two rooms: %v", err)
	}
	m.After(m.slot(0).Starts.Sub(m.Clock.Now()) + time.Hour)
	out := func(account int64, name, why string) error {
		return m.by(account, name, func(ctx context.Context, tx *db.Tx) error {
			return m.Interviews.StepOut(ctx, tx,
				m.Of[name], why)
		})
	}
	if err := out(m.readers[0], "Ben", ""); err == nil {
		t.Error("stepped out without a reason")
	}
	if err := out(m.readers[0], "Ben", "he rents from me"); err != nil {
		t.Fatal(err)
	}
	if err := m.marks(m.readers[0], "Ben", 3); !errors.Is(err, interview.ErrSent) {
		t.Errorf("marked by who stepped out: %v", err)
	}
	if err := out(m.readers[1], "Ben", "so do I"); err == nil {
		t.Error("nobody is left in the room")
	}
	if err := m.marks(m.readers[1], "Ben", 2); err != nil || m.StateOf("Ben") != lifecycle.Read {
		t.Fatalf("%v, %s", err, m.StateOf("Ben"))
	}
	// opened again, with a reason, and sent once more
	if err := m.by(m.Officer, "Ben", func(ctx context.Context, tx *db.Tx) error {
		return m.Interviews.Reopen(ctx, tx, m.Of["Ben"], m.readers[1], "she meant somebody else")
	}); err != nil || m.StateOf("Ben") != lifecycle.Interview {
		t.Fatalf("%v, %s", err, m.StateOf("Ben"))
	}
	if scores, err := m.Interviews.Scores(t.Context(), m.DB, m.Round.ID, m.Form, "writing"); err != nil ||
		len(scores) != 0 {
		t.Errorf("an open one counts: %v %v", scores, err)
	}
	if err := m.marks(m.readers[1], "Ben", 1); err != nil || m.StateOf("Ben") != lifecycle.Read {
		t.Errorf("%v, %s", err, m.StateOf("Ben"))
	}
	scores, err := m.Interviews.Scores(t.Context(), m.DB, m.Round.ID, m.Form, "writing")
	if err != nil || scores[m.Of["Ben"].EntryID].Score.Float() != 1 || scores[m.Of["Ben"].EntryID].Members != 1 {
		t.Errorf("%+v %v", scores, err)
	}
}

// Days: what cannot be kept says so; a day whose place changes is told to whoever is
// met, one on which people are met stays.
func TestDays(t *testing.T) {
	t.Parallel()
	m := readRound(t, "Ann")
	good := interview.Laid{Panel: "North", Place: "Hall", Members: m.readers[:1], Minutes: 30,
		Times: []time.Time{m.Clock.Now().Add(100 * time.Hour)}}
	for _, c := range []struct {
		field string
		with  func(*interview.Laid)
	}{
		{"panel", func(l *interview.Laid) { l.Panel = " " }}, {"place", func(l *interview.Laid) { l.Place = "" }},
		{"link", func(l *interview.Laid) { l.Link = "http://x.example" }}, {"members",
			func(l *interview.Laid) { l.Members = nil }},
		{"members", func(l *interview.Laid) { l.Members = []int64{m.Officer} }},
	} {
		l := good
		c.with(&l)
		err := m.Try(m.Officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := m.Interviews.AddDay(ctx, tx, m.Round, "talk", l)
			return err
		})
		if no, ok := refusal.Of(err); !ok || no.Field != c.field {
			t.Errorf("%+v: %v", l, err)
		}
	}
	day := m.lays(m.readers[:1], 2)
	m.Drain()
	if m.Mailed("oriel@readers.example", "You meet people") != 1 {
		t.Error("the member is not told")
	}
	if err := m.invites(nil, "Ann"); err != nil {
		t.Fatal(err)
	}
	m.gives()
	drop := func(id int64) error {
		return m.Try(m.Officer, func(ctx context.Context, tx *db.Tx) error {
			return m.Interviews.DropDay(ctx, tx, m.Round,
				id)
		})
	}
	if err := drop(day); err == nil {
		t.Error("a day on which somebody is met is gone")
	}
	change := func(l interview.Laid) (told int) {
		m.Held(m.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
			told, err = m.Interviews.ChangeDay(ctx, tx, m.Round, m.Form, day, l)
			return err
		})
		m.Drain()
		return told
	}
	same := interview.Laid{Panel: "North", Place: "The Customs House; room 2", Members: m.readers[:2]}
	if told := change(same); told != 0 || m.Mailed("teodora@readers.example", "You meet people") != 1 ||
		m.Mailed("oriel@readers.example", "You meet people") != 1 {
		t.Errorf("%d told of another member", told)
	}
	same.Link = "https://meet.example/north"
	if told := change(same); told != 1 || len(m.calendars("ann@corvoe.example")) != 2 ||
		m.Mailed("ann@corvoe.example", "has changed") != 1 {
		t.Errorf("%d told of the link", told)
	}
	empty := m.slot(1)
	if empty.Meeting != nil {
		empty = m.slot(0)
	}
	m.Held(m.Officer, func(ctx context.Context, tx *db.Tx) error {
		return m.Interviews.DropSlot(ctx, tx, m.Round, day, empty.ID)
	})
	if d, err := m.Interviews.Day(t.Context(), m.DB, m.Round.ID, day); err != nil || len(d.Slots) != 1 ||
		len(d.Members) != 2 {
		t.Errorf("%+v, %v", d, err)
	}
	if err := drop(0); !errors.Is(err, interview.ErrNoDay) {
		t.Errorf("a day that is not there: %v", err)
	}
	for zone, ok := range map[string]bool{"Asia/Tokyo": true, "": true, "Local": false, "Nowhere/At": false} {
		err := m.by(m.Of["Ann"].LeadID, "Ann", func(ctx context.Context, tx *db.Tx) error {
			return m.Interviews.SetZone(ctx,
				tx, m.Of["Ann"], zone)
		})
		if (err == nil) != ok {
			t.Errorf("zone %q: %v", zone, err)
		}
	}
}
