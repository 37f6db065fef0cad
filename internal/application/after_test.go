package application_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// What cannot be asked is said in a sentence, and nothing happens.
func TestQueriesThatAreRefused(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "9000"})
	for _, c := range []struct {
		text      string
		questions []form.Key
		days      int
	}{
		{"", []form.Key{"request"}, 3}, {" \n", []form.Key{"request"}, 3}, {"Which?", nil, 3},
		{strings.Repeat("x", 4001), []form.Key{"request"}, 3}, {"Which?", []form.Key{"request"}, 0},
		{"Which?", []form.Key{"request"}, 61}, {"Which?", []form.Key{"no-such"}, 3},
		{"Which?", []form.Key{"request", "no-such"}, 3},
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
	for days, due := range map[int]string{1: "2027-03-03", 60: "2027-05-28"} { // by hand: Easter Monday and May Day are off
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			q, err := p.Cases.Ask(ctx, tx, p.Of["Ann"], strings.Repeat("x", 4000), []form.Key{"request"}, days)
			if got := q.DueAt.In(p.Form.Zone).Format("2006-01-02 15:04"); got != due+" 17:00" {
				t.Errorf("%d working days from Tuesday 2 March: %s, want %s", days, got, due)
			}
			return err
		})
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Intake.TakeQueryBack(ctx, tx, p.Of["Ann"])
		})
		p.StateOf("Ann")
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
