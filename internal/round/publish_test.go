package round_test

import (
	"context"
	"errors"
	"strings"
	"testing"

	"ulvant/core/access"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/program"
	"ulvant/internal/programtest"
	"ulvant/internal/round"
)

// A round that is open is changed: wording goes quietly; what tightens is told
// to those who write; what takes away needs a reason, which they are told. All
// that they wrote is kept, what is no longer asked too.
func TestPublishingWhileOpen(t *testing.T) {
	h := programtest.New(t)
	ctx := context.Background()
	officer := h.Person("neda@ostrel-trust.example", "Neda Sparrow")
	h.Held(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, officer.ID, access.Held{Role: access.RunsRounds})
	})
	id := h.OpenRound(officer.ID, nil)
	lead := h.Person("imre@corvoe.example", "Imre Calloway")
	var entry int64
	h.Held(lead.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := h.Intake.Start(ctx, tx, "shore-2027", "Reed beds", nil)
		if err != nil {
			return err
		}
		entry = c.EntryID
		_, _, err = h.Intake.Save(ctx, tx, c, programtest.Whole("Imre Calloway"))
		return err
	})
	for _, c := range []struct {
		what   string
		op     design.Op
		reason string
		err    error
		mail   string // in the mail to those who write; "" for none
	}{
		{"a better label", design.Op{Do: design.Set, Path: "sections/place/questions/site/label",
			Value: []byte(`"What is the site called?"`)}, "", nil, ""},
		{"fewer words", design.Op{Do: design.Set, Path: "sections/work/questions/afterwards/limits",
			Value: []byte(`{"else":{"words":100}}`)}, "", nil, "“Who looks after it afterwards?”"},
		{"the closing, three days later", design.Op{Do: design.Set, Path: "calendar/closes/at",
			Value: []byte(`"2027-04-12T16:00"`)}, "", nil, "The closing is now on 12 April 2027, 16:00; it was on 9 April " +
			"2027, 16:00."},
		{"a question gone, without a word why", design.Op{Do: design.Remove, Path: "sections/work/questions/public-words"},
			"", round.ErrReason, ""},
		{"a question gone", design.Op{Do: design.Remove, Path: "sections/work/questions/area"}, "Nobody could measure it.",
			nil, "Why: Nobody could measure it."},
	} {
		before, _ := h.Tray.List("imre@corvoe.example", 0, 100)
		h.Held(officer.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Rounds.Edit(ctx, tx, id, "", []design.Op{c.op})
			return err
		})
		if err := program.Open(ctx, h.Program, db.Account(officer.ID), h.Clock.Now(), id, c.reason, false); !errors.Is(err,
			c.err) {
			t.Fatalf("%s: %v, want %v", c.what, err, c.err)
		}
		h.Drain()
		list, _ := h.Tray.List("imre@corvoe.example", 0, 100)
		if told := len(list) > len(before); told != (c.mail != "") || told && !strings.Contains(list[0].Body, c.mail) {
			t.Errorf("%s: %d mails more: %+v", c.what, len(list)-len(before), list[0])
		}
	}
	answers, err := h.Cases.Answers(ctx, h.DB, entry)
	if err != nil {
		t.Fatal(err)
	}
	kept := map[form.Key]string{}
	for _, a := range answers {
		kept[a.Question] = a.Value
	}
	if kept["area"] != "3.2" || kept["site"] != "Corvoe strand" {
		t.Errorf("what was written is not kept: %v", kept)
	}
}

// After a start the tables of open rounds are there before anybody asks: who
// comes first waits for nothing.
func TestOpenRoundsAreWorkedOutAtTheStart(t *testing.T) {
	p := programtest.SentTo(t, nil)
	gone, stop := context.WithCancel(context.Background())
	stop() // nothing can be worked out any more
	if err := p.Rounds.Warm(context.Background(), p.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	if table, err := p.Rounds.Proofs.Worked(gone, p.Form); err != nil || table.Unseen || len(table.Columns) == 0 {
		t.Errorf("%+v, %v", table, err)
	}
}
