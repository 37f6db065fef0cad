package application_test

import (
	"context"
	"errors"
	"fmt"
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
			p.Clock.Set(time.Date(2027, 3, 5, 17, 0, 0, 0, time.UTC))
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

// What cannot be asked is said in a sentence, and nothing happens.
func TestQueriesThatAreRefused(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "9000"})
	for _, c := range []struct {
		text      string
		questions []form.Key
		days      int
	}{
		{"", []form.Key{"request"}, 3}, {"Which?", nil, 3}, {"Which?", []form.Key{"request"}, 0}, {"Which?",
			[]form.Key{"request"}, 61}, {"Which?", []form.Key{"no-such"}, 3},
	} {
		err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Cases.Ask(ctx, tx, p.Of["Ann"], c.text, c.questions, c.days)
			return err
		})
		var unfit refusal.Refusal
		if !refusal.AsUnfit(err, &unfit) {
			t.Errorf("%+v: %v", c, err)
		}
	}
	if s := p.StateOf("Ann"); s != lifecycle.Eligible {
		t.Errorf("it is %s", s)
	}
}

// More time is one applicant's: theirs alone can be written and sent after the
// round's closing, until the instant they were given.
func TestMoreTime(t *testing.T) {
	h, lead, c := programtest.Opened(t, programtest.Short)
	officer := programtest.MustAccount(t, h.DB, "neda@ostrel-trust.example")
	ask := func() error {
		return h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
			return h.Cases.AskTime(ctx, tx, c, "The ferry does not sail.")
		})
	}
	if err := ask(); err != nil {
		t.Fatal(err)
	}
	var unfit refusal.Refusal
	if err := ask(); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("asked twice: %v", err)
	}
	ctx := context.Background()
	f, err := h.Rounds.Form(ctx, h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	closes := c.Window(f).Closes
	give := func(until time.Time, why string) error {
		return h.Try(officer, func(ctx context.Context, tx *db.Tx) error { return h.Cases.GiveTime(ctx, tx, c, until, why) })
	}
	if err := give(closes, "No."); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("until it closes anyway: %v", err)
	}
	if err := give(closes.Add(48*time.Hour), ""); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("without a reason: %v", err)
	}
	if err := give(closes.Add(48*time.Hour), "The harbour's notice is with us."); err != nil {
		t.Fatal(err)
	}
	if c, err = h.Cases.Find(ctx, h.DB, c.Ref); err != nil {
		t.Fatal(err)
	}
	for _, at := range []struct {
		after time.Duration
		want  error
	}{{48*time.Hour - time.Millisecond, nil}, {48 * time.Hour, intake.ErrClosed}} {
		h.Clock.Set(closes.Add(at.after))
		err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
			_, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{programtest.Edit("request", "9000")})
			return err
		})
		if !errors.Is(err, at.want) {
			t.Errorf("%s after the closing: %v", at.after, err)
		}
	}
	other := h.Person("bo@corvoe.example", "Bo Hart")
	h.Clock.Set(closes.Add(time.Hour))
	if err := h.Try(other.ID, func(ctx context.Context, tx *db.Tx) error {
		_, err := h.Intake.Start(ctx, tx, "shore-2027", "Bo’s work", nil)
		return err
	}); !errors.Is(err, intake.ErrClosed) {
		t.Errorf("somebody else begins after the closing: %v", err)
	}
}

// A text that is cut down can be brought back, as often as one likes.
func TestEarlierVersions(t *testing.T) {
	h, lead, c := programtest.Opened(t, nil)
	const long = "We replant the reed bed along the whole of the Corvoe shore in two seasons."
	h.Act(lead, func(ctx context.Context, tx *db.Tx) error {
		for i, v := range []string{long, "We replant."} {
			if _, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: "describe"}, Version: i,
				EditID: fmt.Sprint("edit-", i), Value: v}}); err != nil {
				return err
			}
		}
		return nil
	})
	ctx := context.Background()
	bring := func(version int) error {
		return h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
			return h.Intake.BringBack(ctx, tx, c, form.Place{Question: "describe"}, version)
		})
	}
	if err := bring(1); err != nil {
		t.Fatal(err)
	}
	var now string
	if err := h.DB.Get(&now, `SELECT value FROM answer WHERE question = 'describe'`); err != nil || now != long {
		t.Errorf("it reads %q %v", now, err)
	}
	list, err := h.Intake.EarlierOf(ctx, h.DB, c.EntryID, "describe")
	if err != nil || len(list) != 2 || list[0].Value != "We replant." || list[0].By != "Imre Calloway" {
		t.Errorf("earlier: %+v %v", list, err)
	}
	if err := bring(99); !errors.Is(err, application.ErrNotFound) {
		t.Errorf("a version that never was: %v", err)
	}
}

// A question about a round is answered once, by mail, and for all without a name.
func TestEnquiries(t *testing.T) {
	h, lead, _ := programtest.Opened(t, nil)
	officer := programtest.MustAccount(t, h.DB, "neda@ostrel-trust.example")
	ctx := context.Background()
	r, err := h.Rounds.Find(ctx, h.DB, "shore-2027")
	if err != nil {
		t.Fatal(err)
	}
	ask := func(text string) error {
		return h.Try(lead, func(ctx context.Context, tx *db.Tx) error { return h.Enquiries.Ask(ctx, tx, r, text) })
	}
	var unfit refusal.Refusal
	if err := ask("  "); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("nothing asked: %v", err)
	}
	for range 5 {
		if err := ask("May two commons apply together?"); err != nil {
			t.Fatal(err)
		}
	}
	if err := ask("And a sixth?"); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("a sixth while five wait: %v", err)
	}
	list, err := h.Enquiries.Of(ctx, h.DB, r.ID)
	if err != nil || len(list) != 5 {
		t.Fatalf("%d wait, %v", len(list), err)
	}
	for i, public := range []bool{true, false} {
		h.Act(officer, func(ctx context.Context, tx *db.Tx) error {
			return h.Enquiries.Answer(ctx, tx, r, list[i].ID, "May commons apply together?", "They may; one of them leads.",
				public)
		})
	}
	h.Drain()
	all, err := h.Enquiries.Public(ctx, h.DB, r.ID)
	if err != nil || len(all) != 1 || all[0].Text != "May commons apply together?" {
		t.Errorf("for all: %+v %v", all, err)
	}
	mails, _ := h.Tray.List("imre@corvoe.example", 0, 100)
	n := 0
	for _, m := range mails {
		if m.Subject == "Your question about "+r.Name {
			n++
		}
	}
	if n != 2 {
		t.Errorf("%d answers by mail", n)
	}
	waits, err := h.Desk.OpenEnquiries(ctx)
	if err != nil || len(waits) != 1 || waits[0].N != 3 {
		t.Errorf("waiting: %+v %v", waits, err)
	}
}
