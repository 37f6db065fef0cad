package reading_test

import (
	"context"
	"errors"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
)

// Readers whose marks are far apart talk it over: opened when all have sent and not
// before, each sees what the others gave, changes their own, and sends once more.
func TestReadersTalkACaseOver(t *testing.T) {
	t.Parallel()
	p, _ := planned(t)
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	given := givenOf(t, p, "Ann")
	open := func(why string) error {
		p.StateOf("Ann")
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.OpenTalk(ctx, tx, p.Of["Ann"],
				why)
		})
	}
	say := func(by int64, text string) error {
		p.StateOf("Ann")
		return p.Try(by, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.SayInTalk(ctx, tx, p.Of["Ann"],
				text)
		})
	}
	mark := func(by int64, m int, note string) {
		t.Helper()
		p.StateOf("Ann")
		p.Act(by, func(ctx context.Context, tx *db.Tx) error {
			g, err := p.Reading.Find(ctx, tx, p.Of["Ann"].EntryID, by)
			if err != nil {
				return err
			}
			if _, err := p.Reading.Keep(ctx, tx, p.Of["Ann"], g.Version, reading.Marking{Note: note,
				Marks: map[form.Key]int{"gain": m, "lasting": m, "value": m}}); err != nil {
				return err
			}
			return p.Reading.Send(ctx, tx, p.Of["Ann"])
		})
	}
	one, two := given[0].AccountID, given[1].AccountID
	mark(one, 1, "Not measured.")
	if err := open("Far apart."); err == nil || !strings.Contains(err.Error(), "not all of them") {
		t.Errorf("before all have sent: %v", err)
	}
	if _, err := p.Reading.TalkOf(t.Context(), p.DB, p.Of["Ann"].EntryID); !errors.Is(err, reading.ErrNoTalk) {
		t.Errorf("none is open: %v", err)
	}
	mark(two, 5, "")
	if say(one, "Hello?") == nil || open(" ") == nil {
		t.Error("said before it is open; opened without a reason")
	}
	if err := open("One saw a baseline, the other did not."); err != nil || p.StateOf("Ann") != lifecycle.Reading {
		t.Fatalf("%v: %s", err, p.StateOf("Ann"))
	}
	p.Drain()
	for _, a := range []int64{one, two} {
		if list, _ := p.Tray.List(mailOf(t, p, a), 0, 9); len(list) == 0 || !strings.Contains(list[0].Body,
			"One saw a baseline") {
			t.Errorf("they are told why: %d mails", len(list))
		}
	}
	other := givenOf(t, p, "Bo")
	for _, g := range other {
		if g.AccountID != one && g.AccountID != two && say(g.AccountID, "I read another case.") == nil {
			t.Error("somebody who does not read it takes part")
		}
	}
	if err := say(two, "It is in the annex, page 4."); err != nil {
		t.Fatal(err)
	}
	talk, err := p.Reading.TalkOf(t.Context(), p.DB, p.Of["Ann"].EntryID)
	if err != nil || len(talk.Said) != 1 || talk.Said[0].Account != two || len(talk.First) != 2 {
		t.Fatalf("%+v, %v", talk, err)
	}
	for _, x := range talk.First {
		if want := map[int64]int{one: 1, two: 5}[x.Account]; x.Marks["gain"] != want ||
			(x.Note == "Not measured.") != (x.Account == one) {
			t.Errorf("at first: %+v", x)
		}
	}
	mark(one, 4, "I had missed the annex.")
	mark(two, 5, "")
	if p.StateOf("Ann") != lifecycle.Read {
		t.Errorf("sent once more: %s", p.StateOf("Ann"))
	}
	if talk, _ = p.Reading.TalkOf(t.Context(), p.DB,
		p.Of["Ann"].EntryID); talk.First[0].Marks["gain"]+talk.First[1].Marks["gain"] != 6 {
		t.Errorf("what was given at first stays: %+v", talk.First)
	}
}
