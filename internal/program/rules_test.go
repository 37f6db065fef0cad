package program_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/reading"
)

// invite readers, who are there at once.
func (p *panel) invite(names ...string) (accounts []int64) {
	p.T.Helper()
	for _, name := range names {
		p.Act(p.officer, func(ctx context.Context, tx *db.Tx) error {
			a, err := p.Reading.Invite(ctx, tx, p.round, strings.ToLower(strings.Fields(name)[0])+"@readers.example", name)
			accounts = append(accounts, a.ID)
			return err
		})
	}
	return accounts
}

func (p *panel) handOut() (out reading.HandedOut, err error) {
	err = p.Try(p.officer, func(ctx context.Context, tx *db.Tx) error {
		out, err = p.Reading.HandOut(ctx, tx, p.round, p.form, nil)
		return err
	})
	return out, err
}

// mark a case for a reader, and send the marks.
func (p *panel) mark(name string, account int64) {
	p.T.Helper()
	p.state(name)
	p.Act(account, func(ctx context.Context, tx *db.Tx) error {
		g, err := p.Reading.Find(ctx, tx, p.cases[name].EntryID, account)
		if err != nil {
			return err
		}
		if _, err := p.Reading.Keep(ctx, tx, p.cases[name], g.Version, map[form.Key]int{"gain": 3, "lasting": 3, "value": 3},
			""); err != nil {
			return err
		}
		return p.Reading.Send(ctx, tx, p.cases[name])
	})
}

// Nothing is handed out while more can come in; who writes an application, with
// its lead or as its lead, is never given it; and a case is read when as many
// readers as the round wants have sent their marks, no fewer.
func TestHandingOutAndReadingEnough(t *testing.T) {
	p := sentTo(t, map[string]string{"Ann": "60,000", "Bo": "50,000"})
	readers := p.invite("Oriel Vane", "Teodora Brisk")
	p.state("Bo")
	if _, err := p.DB.Exec(`INSERT INTO relation (application_id, account_id, kind) VALUES ($1, $2, 'teammate')`,
		p.cases["Bo"].ID, readers[0]); err != nil {
		t.Fatal(err)
	}
	from := p.form.HandsOutFrom()
	p.Clock.Set(from.Add(-time.Second))
	if _, err := p.handOut(); err == nil || !strings.Contains(err.Error(), "still come in until") {
		t.Errorf("a second before the closing: %v", err)
	}
	if given, _ := p.Reading.Of(context.Background(), p.DB, p.cases["Ann"].EntryID); len(given) != 0 {
		t.Errorf("%d readers were given it before the closing", len(given))
	}
	p.Clock.Set(from)
	out, err := p.handOut()
	if err != nil || !slices.Equal(out.Short, []string{p.cases["Bo"].Ref}) {
		t.Fatalf("at the closing: %+v, %v", out, err)
	}
	if given, _ := p.Reading.Of(context.Background(), p.DB, p.cases["Bo"].EntryID); len(given) != 1 ||
		given[0].AccountID != readers[1] {
		t.Errorf("Bo’s is given to %+v; one of the two writes it", given)
	}
	p.mark("Ann", readers[0])
	if got := p.state("Ann"); got != lifecycle.Reading {
		t.Errorf("with one of two marks it is %s", got)
	}
	p.mark("Ann", readers[1])
	if got := p.state("Ann"); got != lifecycle.Read {
		t.Errorf("with both it is %s", got)
	}
	p.mark("Bo", readers[1])
	if got := p.state("Bo"); got != lifecycle.Reading {
		t.Errorf("with all the readers it has, but fewer than the round wants, it is %s", got)
	}
}

// An applicant is written to once a day, whoever presses.
func TestOneNudgeADay(t *testing.T) {
	h, _, c := opened(t, short)
	officer := mustAccount(t, h.DB, "neda@ostrel-trust.example")
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
	h, lead, c := opened(t, lettered)
	for _, email := range []string{c.LeadEmail, strings.ToUpper(c.LeadEmail)} {
		err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Referees.Name(ctx, tx, c, "site-referee", "Dacian Rowe", email, "neighbour")
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
	p := sentTo(t, map[string]string{"Ann": "60,000"})
	p.Act(p.officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Post.Queue(ctx, tx, post.Letter{Kind: "query", To: "late@corvoe.example", ToName: "Late",
			Subject: "Later", Body: "Later.", Due: tx.At.Add(2 * time.Hour)})
		return err
	})
	for _, c := range []struct {
		after time.Duration
		want  int
	}{{0, 0}, {2*time.Hour - time.Second, 0}, {2 * time.Second, 1}} {
		p.after(c.after)
		if list, _ := p.Tray.List("late@corvoe.example", 0, 9); len(list) != c.want {
			t.Errorf("after %s more: %d mails, want %d", c.after, len(list), c.want)
		}
	}
	// stopped, and let go with a later due: the job of before does not send it
	var id int64
	p.Act(p.officer, func(ctx context.Context, tx *db.Tx) (err error) {
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
		p.after(c.after)
		if list, _ := p.Tray.List("later@corvoe.example", 0, 9); len(list) != c.want {
			t.Errorf("let go, after %s more: %d mails, want %d", c.after, len(list), c.want)
		}
	}
}

// Nobody is invited to a stage that has closed.
func TestInvitingToAClosedStage(t *testing.T) {
	p := sentToRound(t, inTwoStages, map[string]string{"Ann": "9000"})
	next := p.form.NextStage("writing")
	invite := func() error {
		p.state("Ann")
		return p.Try(p.officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Decisions.Record(ctx, tx, p.round, p.form, decision.Sitting{Stage: "writing", Note: "Panel of 14 May",
				Choices: []decision.Choice{{EntryID: p.cases["Ann"].EntryID, Version: p.cases["Ann"].Version,
					Outcome: lifecycle.InvitedOn}}})
			return err
		})
	}
	p.Clock.Set(p.form.At(next.To))
	if err := invite(); err == nil || !strings.Contains(err.Error(), "has closed") {
		t.Errorf("at its closing: %v", err)
	}
	p.Clock.Set(p.form.At(next.To).Add(-time.Second))
	if err := invite(); err != nil {
		t.Errorf("a second before: %v", err)
	}
}
