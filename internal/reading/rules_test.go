package reading_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
)

// Nothing is handed out while more can come in; who writes an application, with
// its lead or as its lead, is never given it; and a case is read when as many
// readers as the round wants have sent their marks, no fewer.
func TestHandingOutAndReadingEnough(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "60,000", "Bo": "50,000"})
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk")
	p.StateOf("Bo")
	if _, err := p.DB.Exec(`INSERT INTO relation (application_id, account_id, kind) VALUES ($1, $2, 'teammate')`,
		p.Of["Bo"].ID, readers[0]); err != nil {
		t.Fatal(err)
	}
	from := p.Form.HandsOutFrom()
	p.Clock.Set(from.Add(-time.Second))
	if _, err := p.HandsOut(); err == nil || !strings.Contains(err.Error(), "still come in until") {
		t.Errorf("a second before the closing: %v", err)
	}
	if given, _ := p.Reading.Of(context.Background(), p.DB, p.Of["Ann"].EntryID); len(given) != 0 {
		t.Errorf("%d readers were given it before the closing", len(given))
	}
	p.Clock.Set(from)
	out, err := p.HandsOut()
	if err != nil || !slices.Equal(out.Short, []string{p.Of["Bo"].Ref}) {
		t.Fatalf("at the closing: %+v, %v", out, err)
	}
	if given, _ := p.Reading.Of(context.Background(), p.DB, p.Of["Bo"].EntryID); len(given) != 1 ||
		given[0].AccountID != readers[1] {
		t.Errorf("Bo’s is given to %+v; one of the two writes it", given)
	}
	p.MarksAs("Ann", readers[0])
	if got := p.StateOf("Ann"); got != lifecycle.Reading {
		t.Errorf("with one of two marks it is %s", got)
	}
	p.MarksAs("Ann", readers[1])
	if got := p.StateOf("Ann"); got != lifecycle.Read {
		t.Errorf("with both it is %s", got)
	}
	p.MarksAs("Bo", readers[1])
	if got := p.StateOf("Bo"); got != lifecycle.Reading {
		t.Errorf("with all the readers it has, but fewer than the round wants, it is %s", got)
	}
}

// An applicant is written to once a day, whoever presses.
func TestOneNudgeADay(t *testing.T) {
	h, _, c := programtest.Opened(t, programtest.Short)
	officer := programtest.MustAccount(t, h.DB, "neda@ostrel-trust.example")
	nudge := func() error {
		return h.Try(officer, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Nudge(ctx, tx, c); return err })
	}
	if err := nudge(); err != nil {
		t.Fatal(err)
	}
	var unfit refusal.Refusal
	h.Clock.Set(h.Clock.Now().Add(23 * time.Hour))
	if err := nudge(); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("twice within a day: %v", err)
	}
	h.Clock.Set(h.Clock.Now().Add(time.Hour + time.Second))
	if err := nudge(); err != nil {
		t.Errorf("a day later: %v", err)
	}
	h.Drain()
	if list, _ := h.Tray.List(c.LeadEmail, 0, 99); len(list) != 2 {
		t.Errorf("%d mails to the applicant", len(list))
	}
}

// Nobody vouches for themselves.
func TestOnesOwnAddressAsReferee(t *testing.T) {
	h, lead, c := programtest.Opened(t, programtest.Lettered)
	for _, email := range []string{c.LeadEmail, strings.ToUpper(c.LeadEmail)} {
		err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Referees.Name(ctx, tx, c, "site-referee", reference.Person{Name: "Dacian Rowe", Email: email,
				Knows: "neighbour"})
			return err
		})
		var problem refusal.Refusal
		if !errors.As(err, &problem) || problem.Field != "email" {
			t.Errorf("%s: %v", email, err)
		}
	}
}

// A letter waits until it is due, in the queue itself.
func TestALetterWaitsUntilItIsDue(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "60,000"})
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Post.Queue(ctx, tx, post.Letter{Kind: "query", To: "late@corvoe.example", ToName: "Late",
			Subject: "Later", Body: "Later.", Due: tx.At.Add(2 * time.Hour)})
		return err
	})
	for _, c := range []struct {
		after time.Duration
		want  int
	}{{0, 0}, {2*time.Hour - time.Second, 0}, {2 * time.Second, 1}} {
		p.After(c.after)
		if list, _ := p.Tray.List("late@corvoe.example", 0, 9); len(list) != c.want {
			t.Errorf("after %s more: %d mails, want %d", c.after, len(list), c.want)
		}
	}
	// stopped, and let go with a later due: the job of before does not send it
	var id int64
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
		if id, err = p.Post.Queue(ctx, tx, post.Letter{Kind: "query", To: "later@corvoe.example", ToName: "Late",
			Subject: "Later", Body: "Later.", Due: tx.At.Add(time.Hour)}); err != nil {
			return err
		}
		if _, err = p.Post.Cancel(ctx, tx, []int64{id}); err != nil {
			return err
		}
		return p.Post.Release(ctx, tx, []int64{id}, tx.At.Add(3*time.Hour))
	})
	for _, c := range []struct {
		after time.Duration
		want  int
	}{{2 * time.Hour, 0}, {time.Hour, 1}} {
		p.After(c.after)
		if list, _ := p.Tray.List("later@corvoe.example", 0, 9); len(list) != c.want {
			t.Errorf("let go, after %s more: %d mails, want %d", c.after, len(list), c.want)
		}
	}
}

// Nobody is invited to a stage that has closed.
func TestInvitingToAClosedStage(t *testing.T) {
	p := programtest.SentToRound(t, programtest.InTwoStages, map[string]string{"Ann": "9000"})
	next := p.Form.NextStage("writing")
	invite := func() error {
		p.StateOf("Ann")
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Decisions.Record(ctx, tx, p.Round, p.Form, decision.Sitting{Stage: "writing", Note: "Panel of 14 May",
				Choices: []decision.Choice{{EntryID: p.Of["Ann"].EntryID, Version: p.Of["Ann"].Version,
					Outcome: lifecycle.InvitedOn}}})
			return err
		})
	}
	p.Clock.Set(p.Form.At(next.To))
	if err := invite(); err == nil || !strings.Contains(err.Error(), "has closed") {
		t.Errorf("at its closing: %v", err)
	}
	p.Clock.Set(p.Form.At(next.To).Add(-time.Second))
	if err := invite(); err != nil {
		t.Errorf("a second before: %v", err)
	}
}
