package intake_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/seal"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// tested is a round that asks for points of a test, which may follow until a week
// after the closing; sixty are needed.
func tested(d *form.Design) {
	closes, _ := d.Moment(form.Closes)
	hundred, none := int64(100), int64(0)
	q := form.Question{
		Key:        "points",
		Kind:       form.Number,
		Label:      "Points in the test",
		Nature:     form.Fact,
		Blank:      form.Required,
		Seen:       form.ToReaders,
		NonAnswers: []form.NonAnswer{form.ToFollow},
		FollowBy:   &form.Day{On: closes.At.Date.AddDays(7)},
	}
	q.Limits.Else.Least, q.Limits.Else.Most = &none, &hundred
	d.Sections = []form.Section{{Key: "all", Label: "All", Questions: []form.Question{q}}}
	d.Figures, d.Request, d.Listed = nil, "", form.Listing{}
	d.Field = ""
	d.Rules = []form.Rule{{Key: "sixty", Label: "Sixty points", Yes: "Sixty or more.", No: "Sixty are needed.",
		Look: "The points are to follow.", Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "points"},
			Rel: condition.AtLeast, Value: &condition.Value{Number: &condition.Number{Num: 60, Den: 1}}}}}}
}

// What was promised when an application was sent is taken afterwards until its
// day, checked like any answer, and settles what waited for it; the seal stays
// as it was signed.
func TestToFollow(t *testing.T) {
	t.Parallel()
	h, lead, c := programtest.Opened(t, tested)
	ctx := context.Background()
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error {
		if _, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: "points"}, EditID: "to-follow",
			Non: form.ToFollow}}); err != nil {
			return err
		}
		_, err := h.Intake.Send(ctx, tx, c)
		return err
	})
	h.Drain()
	follow := func(v string) error {
		return h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
			return h.Intake.Follow(ctx, tx, c, "points", map[form.Place]form.Answer{{Question: "points"}: {Raw: v}})
		})
	}
	finding := func(rule string) (s string) {
		t.Helper()
		if err := h.DB.Get(&s, `SELECT outcome || ': ' || reason FROM finding WHERE rule = $1`, rule); err != nil {
			t.Fatal(err)
		}
		return s
	}
	if h.StateOf(c) != lifecycle.Complete ||
		finding(
			"follow-points",
		) != "person: It is to follow by 16 April 2027. When it has come, this is settled by itself." {
		t.Errorf("%s %s", h.StateOf(c), finding("follow-points"))
	}
	for _, bad := range []struct{ v, says string }{{"", "Give the answer itself"}, {"seventy", "Give the answer itself"},
		{"101", "more than the most"}} {
		if err := follow(bad.v); err == nil || !strings.Contains(err.Error(), bad.says) {
			t.Errorf("%q: %v", bad.v, err)
		}
	}
	f, _ := h.Rounds.Form(ctx, h.DB, c.DesignID)
	due := f.Window().Closes.AddDate(0, 0, 7)
	sweep := func(at time.Time) (subjects []string) {
		h.Clock.Set(at)
		for range 2 { // twice is once
			if err := h.Intake.SweepPromised(ctx, at); err != nil {
				t.Fatal(err)
			}
		}
		h.Drain()
		list, _ := h.Tray.List(c.LeadEmail, 0, 20)
		for _, m := range list {
			if strings.Contains(m.Subject, "follow") {
				subjects = append(subjects, m.Subject)
			}
		}
		return subjects
	}
	midnight := time.Date(2027, 4, 17, 0, 0, 0, 0, f.Zone)
	if got := sweep(midnight.Add(-3*24*time.Hour - time.Minute)); len(got) != 0 {
		t.Errorf("reminded too early: %q", got)
	}
	if got := sweep(midnight.Add(-3 * 24 * time.Hour)); len(got) != 1 ||
		!strings.HasPrefix(got[0], "Still to follow by 16 April 2027") {
		t.Errorf("three days before: %q", got)
	}
	h.Clock.Set(midnight.Add(-time.Second))
	if err := follow("72"); err != nil {
		t.Fatal(due, err)
	}
	h.Drain()
	if h.StateOf(c) != lifecycle.Eligible || finding("sixty") != "yes: Sixty or more." ||
		finding("follow-points") != "yes: It came on 16 April 2027." {
		t.Errorf("it has come: %s, %s, %s", h.StateOf(c), finding("sixty"), finding("follow-points"))
	}
	if err := follow("73"); !errors.Is(err, intake.ErrNotPromised) {
		t.Errorf("twice: %v", err)
	}
	now, _ := h.Cases.ByEntry(ctx, h.DB, c.EntryID)
	s, err := h.Cases.Sealed(ctx, h.DB, *now.SealID)
	if err != nil || s.Decoded.Answers[0].Non != form.ToFollow ||
		!seal.Verify(h.SealKeyPublic(), s.Document, s.Signature) {
		t.Errorf("the seal changed: %+v %v", s.Decoded.Answers, err)
	}
	if s, err = h.Cases.Now(ctx, h.DB, *now.SealID); err != nil || s.Decoded.Answers[0].Raw != "72" {
		t.Errorf("what is read: %+v %v", s.Decoded.Answers, err)
	}
	if got := sweep(midnight.Add(time.Hour)); len(got) != 1 {
		t.Errorf("told that it lapsed: %q", got)
	}
}

// Nothing that was promised comes: it lapses in the very second its day is over,
// and the office decides.
func TestNothingFollows(t *testing.T) {
	t.Parallel()
	h, lead, c := programtest.Opened(t, tested)
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error {
		if _, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: "points"}, EditID: "to-follow",
			Non: form.ToFollow}}); err != nil {
			return err
		}
		_, err := h.Intake.Send(ctx, tx, c)
		return err
	})
	h.Drain()
	f, _ := h.Rounds.Form(context.Background(), h.DB, c.DesignID)
	over := time.Date(2027, 4, 17, 0, 0, 0, 0, f.Zone)
	h.Clock.Set(over)
	if err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
		return h.Intake.Follow(ctx, tx, c, "points", map[form.Place]form.Answer{{Question: "points"}: {Raw: "72"}})
	}); !errors.Is(err, intake.ErrNotPromised) {
		t.Errorf("in the second its day is over: %v", err)
	}
	if err := h.Intake.SweepPromised(context.Background(), over); err != nil {
		t.Fatal(err)
	}
	h.Drain()
	var reason string
	if err := h.DB.Get(&reason, `SELECT reason FROM finding WHERE rule = 'follow-points'`); err != nil ||
		reason != "It was to follow by 16 April 2027 and did not come. Decide whether the application goes on without it." {
		t.Errorf("%q %v", reason, err)
	}
	list, _ := h.Tray.List(c.LeadEmail, 0, 1)
	if len(list) != 1 || !strings.HasPrefix(list[0].Subject, "It did not follow") ||
		h.StateOf(c) != lifecycle.Complete {
		t.Errorf("%+v %s", list, h.StateOf(c))
	}
}
