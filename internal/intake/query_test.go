package intake_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// queried is a panel in which the office has asked Ann about her request.
func queried(t *testing.T) (*programtest.Panel, func(version int, q form.Key, value string) error) {
	t.Helper()
	p := programtest.SentTo(t, map[string]string{"Ann": "9000"})
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Cases.Ask(ctx, tx, p.Of["Ann"], "Is it 9,000 or 8,000?", []form.Key{"request"}, 3)
		return err
	})
	p.StateOf("Ann")
	return p, func(version int, q form.Key, value string) error {
		return p.Try(p.Of["Ann"].LeadID, func(ctx context.Context, tx *db.Tx) error {
			results, _, err := p.Intake.Save(ctx, tx, p.Of["Ann"],
				[]intake.Edit{{Place: form.Place{Question: q}, Version: version, EditID: "after-" + string(q), Value: value}})
			if err == nil && results[0].Fault != "" {
				return refusal.Unfit(results[0].Fault)
			}
			return err
		})
	}
}

// A query reopens what it names until the end of its last working day, and
// nothing else; the answer is sealed beside what was sent, and the rules are
// worked through again.
func TestAQueryIsAnswered(t *testing.T) {
	ctx := context.Background()
	p, save := queried(t)
	c := p.Of["Ann"]
	// Tuesday 2 March and three working days: Friday, 17:00 in Dublin
	if want := time.Date(2027, 3, 5, 17, 0, 0, 0, time.UTC); c.State != lifecycle.HandedBack || c.QueryDue == nil ||
		!c.QueryDue.Equal(want) {
		t.Fatalf("it is %s, due %v", c.State, c.QueryDue)
	}
	p.Drain()
	if n := p.Mails("A question about"); n != 1 {
		t.Errorf("%d mails went out", n)
	}
	var unfit refusal.Refusal
	if err := save(1, "land-leave", "no"); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("another question: %v", err)
	}
	if err := save(1, "request", "8000"); err != nil {
		t.Fatal(err)
	}
	again := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Cases.Ask(ctx, tx, p.Of["Ann"], "And?", []form.Key{"request"}, 3)
		return err
	})
	if !errors.As(again, &unfit) {
		t.Errorf("a second query while one is open: %v", again)
	}
	first := *c.SealID
	tooLong := p.Try(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Intake.SendBack(ctx, tx, c, strings.Repeat("x", 4001))
		return err
	})
	if !refusal.AsUnfit(tooLong, &unfit) || p.StateOf("Ann") != lifecycle.HandedBack {
		t.Errorf("a reply of 4,001 characters: %v", tooLong)
	}
	p.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Intake.SendBack(ctx, tx, c, "It is 8,000.")
		return err
	})
	p.Drain()
	if s := p.StateOf("Ann"); s != lifecycle.Eligible {
		t.Errorf("afterwards it is %s", s)
	}
	before, err := p.Cases.Sealed(ctx, p.DB, first)
	if err != nil {
		t.Fatal(err)
	}
	after, err := p.Cases.Sealed(ctx, p.DB, *p.Of["Ann"].SealID)
	if err != nil {
		t.Fatal(err)
	}
	changes := seal.Changes(p.Form, &before.Decoded, &after.Decoded)
	if len(changes) != 1 || changes[0].Question != "request" {
		t.Errorf("what changed: %+v", changes)
	}
	list, err := p.Cases.Queries(ctx, p.DB, c.EntryID)
	if err != nil || len(list) != 1 || list[0].Ended != application.Answered || list[0].Reply != "It is 8,000." {
		t.Errorf("the query: %+v %v", list, err)
	}
	waits, err := p.Desk.AnsweredQueries(ctx)
	if err != nil || len(waits) != 1 || waits[0].Ref != c.Ref {
		t.Errorf("answers to read: %+v %v", waits, err)
	}
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Cases.SeeQuery(ctx, tx, c.EntryID,
			list[0].ID)
	})
	if waits, _ = p.Desk.AnsweredQueries(ctx); len(waits) != 0 {
		t.Errorf("read, it still waits: %+v", waits)
	}
	if err := save(2, "request", "7000"); !errors.Is(err, application.ErrNotDraft) {
		t.Errorf("after it was sent back: %v", err)
	}
}

// Taken back or run out, the application stands as it was sent; what had been
// typed is kept as an earlier version.
func TestAQueryEndsUnanswered(t *testing.T) {
	for how, end := range map[application.Ended]func(p *programtest.Panel){
		application.TakenBack: func(p *programtest.Panel) {
			p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
				return p.Intake.TakeQueryBack(ctx, tx,
					p.Of["Ann"])
			})
		},
		application.RanOut: func(p *programtest.Panel) {
			due := time.Date(2027, 3, 5, 17, 0, 0, 0, time.UTC)
			if err := p.Intake.SweepQueries(context.Background(), due.Add(-time.Second)); err != nil {
				p.T.Fatal(err)
			}
			if s := p.StateOf("Ann"); s != lifecycle.HandedBack {
				p.T.Errorf("a second before it is due it is %s", s)
			}
			p.Clock.Set(due)
			if err := p.Intake.SweepQueries(context.Background(), p.Clock.Now()); err != nil {
				p.T.Fatal(err)
			}
		},
	} {
		t.Run(string(how), func(t *testing.T) {
			ctx := context.Background()
			p, save := queried(t)
			if err := save(1, "request", "8000"); err != nil {
				t.Fatal(err)
			}
			sealed := *p.Of["Ann"].SealID
			end(p)
			p.Drain()
			if s := p.StateOf("Ann"); s != lifecycle.Eligible || *p.Of["Ann"].SealID != sealed {
				t.Errorf("afterwards it is %s, with seal %d, not %d", s, *p.Of["Ann"].SealID, sealed)
			}
			rows, err := p.Cases.Answers(ctx, p.DB, p.Of["Ann"].EntryID)
			if err != nil {
				t.Fatal(err)
			}
			for _, a := range rows {
				if a.Question == "request" && a.Value != "9000" {
					t.Errorf("it asks %s", a.Value)
				}
			}
			earlier, err := p.Intake.EarlierOf(ctx, p.DB, p.Of["Ann"].EntryID, "request")
			if err != nil || len(earlier) == 0 || earlier[0].Value != "8000" {
				t.Errorf("earlier versions: %+v %v", earlier, err)
			}
			list, _ := p.Cases.Queries(ctx, p.DB, p.Of["Ann"].EntryID)
			if len(list) != 1 || list[0].Ended != how {
				t.Errorf("the query: %+v", list)
			}
		})
	}
}
