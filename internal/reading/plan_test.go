package reading_test

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
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/programtest"
	"ulvant/internal/reading"
)

// planned is a round of three cases and four readers at its closing, ready to be
// handed out to two readers each.
func planned(t *testing.T) (p *programtest.Panel, readers []int64) {
	t.Helper()
	p = programtest.SentTo(t, map[string]string{"Ann": "9,000", "Bo": "8,000", "Cy": "7,000"})
	readers = p.InviteReaders("Oriel Vane", "Teodora Brisk", "Sami Holt", "Gwyn Arkwright")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	return p, readers
}

func workOut(p *programtest.Panel, asks reading.Asks) (plan *reading.Plan, err error) {
	err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		plan, err = p.Reading.WorkOut(ctx, tx, p.Round, p.Form, asks)
		return err
	})
	return plan, err
}

func giveOut(p *programtest.Panel, version int) (out reading.HandedOut, err error) {
	err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		out, err = p.Reading.GiveOut(ctx, tx, p.Round, p.Form, version, nil)
		return err
	})
	return out, err
}

// who reads a case, by the plan's places.
func placesOf(plan *reading.Plan, entry int64) []int {
	return plan.Given[slices.Index(plan.Entries, entry)]
}

// A plan tells nobody; a change by hand is held through working it out again; given
// out, each reader has one mail, and whoever steps aside meanwhile makes it stale.
func TestAPlanBeforeAnybodyIsTold(t *testing.T) {
	t.Parallel()
	p, _ := planned(t)
	plan, err := workOut(p, reading.Asks{})
	if err != nil {
		t.Fatal(err)
	}
	loads := plan.Loads()
	if !plan.Proved() || slices.Max(loads) != 2 || slices.Min(loads) != 1 || plan.Mean() != 50 {
		t.Errorf("loads %v, fit %d, best %v", loads, plan.Mean(), plan.Proved())
	}
	told := func() (n int) {
		p.Drain()
		for _, at := range []string{"oriel", "teodora", "sami", "gwyn"} {
			list, _ := p.Tray.List(at+"@readers.example", 0, 9)
			for _, m := range list {
				if strings.Contains(m.Subject, "for you to read") {
					n++
				}
			}
		}
		return n
	}
	if given, _ := p.Reading.Of(t.Context(), p.DB, p.Of["Ann"].EntryID); len(given) != 0 || told() != 0 {
		t.Errorf("%d are given before it is given out, %d told", len(given), told())
	}
	ann := p.Of["Ann"].EntryID
	c := slices.Index(plan.Entries, ann)
	in := 0
	for slices.Contains(plan.Given[c], in) {
		in++
	}
	var m reading.Moved
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
		m, err = p.Reading.Move(ctx, tx, p.Round, p.Form, plan.Version, c, in)
		return err
	}); err != nil || m.Costs != 0 {
		t.Fatalf("%+v, %v", m, err)
	}
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Reading.Move(ctx, tx, p.Round, p.Form, plan.Version, c, in)
		return err
	}); !errors.Is(err, reading.ErrPlanStale) {
		t.Errorf("changed in another window: %v", err)
	}
	if plan, err = workOut(p, reading.Asks{Most: 2}); err != nil || !slices.Contains(placesOf(plan, ann), in) ||
		!slices.Contains(plan.Held[c], in) {
		t.Errorf("worked out again, what was held is %v, %v", placesOf(plan, ann), err)
	}
	if _, err := workOut(p, reading.Asks{Most: 1, Least: 2}); err == nil {
		t.Error("at least two and at most one")
	}
	if short, err := workOut(p, reading.Asks{Most: 1}); err != nil || len(short.Lacking) == 0 ||
		short.Lacking[0].Needed != 6 ||
		short.Lacking[0].Places != 4 || short.Lacking[0].Why != reading.TooFewPlaces {
		t.Errorf("one case each is not enough: %+v, %v", short, err)
	}
	plan, _ = workOut(p, reading.Asks{})
	if _, err := p.DB.Exec(`INSERT INTO recusal (application_id, account_id, reason, at) VALUES ($1, $2, 'knows them', now())`,
		p.Of["Ann"].ID, plan.Readers[in]); err != nil {
		t.Fatal(err)
	}
	if _, err := giveOut(p, plan.Version); err == nil || !strings.Contains(err.Error(), "must not read") {
		t.Errorf("somebody has stepped aside: %v", err)
	}
	if plan, err = workOut(p, reading.Asks{}); err != nil || slices.Contains(placesOf(plan, ann), in) {
		t.Errorf("what was held must not be: %v", err)
	}
	if out, err := giveOut(p, plan.Version); err != nil || out.Cases != 3 || told() != 4 {
		t.Errorf("%+v, %v; %d are told", out, err, told())
	}
	if _, err := p.Reading.PlanOf(t.Context(), p.DB, p.Round.ID); !errors.Is(err, reading.ErrNoPlan) {
		t.Errorf("it is done: %v", err)
	}
}

// What there would be without a reader, and with one more; nothing is kept.
func TestWhatIfOneReaderLess(t *testing.T) {
	t.Parallel()
	p, _ := planned(t)
	plan, err := workOut(p, reading.Asks{})
	if err != nil {
		t.Fatal(err)
	}
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		without, err := p.Reading.WhatIf(ctx, tx, p.Round, p.Form, plan, 0, false)
		if err != nil {
			return err
		}
		if got := without.Loads(4); got[0] != 0 || got[1] != 2 || got[2] != 2 || got[3] != 2 {
			t.Errorf("without the first: %v", got)
		}
		more, err := p.Reading.WhatIf(ctx, tx, p.Round, p.Form, plan, 0, true)
		if err != nil {
			return err
		}
		if got := more.Loads(5); slices.Max(got) != 2 || slices.Min(got) != 1 {
			t.Errorf("with one more: %v", got)
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
}

// A reader who is taken off keeps what they sent, gives back the rest, and is told;
// the case goes on with those there are, or to somebody else.
func TestAReaderIsTakenOff(t *testing.T) {
	t.Parallel()
	p, _ := planned(t)
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	given, err := p.Reading.Of(t.Context(), p.DB, p.Of["Ann"].EntryID)
	if err != nil || len(given) != 2 {
		t.Fatal(given, err)
	}
	first, second := given[0].AccountID, given[1].AccountID
	p.MarksAs("Ann", first)
	off := func(account int64, why string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.TakeOff(ctx, tx, p.Round,
				account, why)
		})
	}
	if off(second, " ") == nil {
		t.Error("without a reason")
	}
	if err := off(second, "Ill since Monday."); err != nil {
		t.Fatal(err)
	}
	if now, _ := p.Reading.Of(t.Context(), p.DB, p.Of["Ann"].EntryID); len(now) != 1 || now[0].AccountID != first {
		t.Errorf("%+v is left", now)
	}
	if off(second, "Once more.") == nil {
		t.Error("twice")
	}
	if p.StateOf("Ann") != lifecycle.Reading {
		t.Errorf("one of two marks: %s", p.StateOf("Ann"))
	}
	if err := off(first, "Left the trust."); err != nil {
		t.Fatal(err)
	}
	if now, _ := p.Reading.Of(t.Context(), p.DB, p.Of["Ann"].EntryID); len(now) != 1 || now[0].SentAt == nil {
		t.Errorf("what was sent stands: %+v", now)
	}
	p.Drain()
	if list, _ := p.Tray.List(mailOf(t, p, given[1].AccountID), 0, 9); len(list) == 0 ||
		!strings.Contains(list[0].Subject, "Nothing waits") {
		t.Errorf("they are told: %d mails", len(list))
	}
	// the office ends it with the marks there are, or gives it to others
	end := func(name, why string) error {
		p.StateOf(name)
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.EndReading(ctx, tx,
				p.Of[name], why)
		})
	}
	if end("Ann", "") == nil || end("Bo", "Nobody has marked it.") == nil {
		t.Error("without a reason, and without a mark")
	}
	if err := end("Ann", "The second reader is ill."); err != nil || p.StateOf("Ann") != lifecycle.Read {
		t.Errorf("%v: %s", err, p.StateOf("Ann"))
	}
	if out, err := p.HandsOut(); err != nil || len(out.Short) != 0 {
		t.Errorf("the others are enough for the rest: %+v, %v", out, err)
	}
	p.Held(p.Officer, func(ctx context.Context, tx *db.Tx) error { return p.Reading.Return(ctx, tx, p.Round, second) })
	list, err := p.Reading.Readers(t.Context(), p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range list {
		if x.Reads() != (x.Account != first) {
			t.Errorf("%s reads: %v", x.Name, x.Reads())
		}
	}
}

// Marks that were sent are opened again with a reason: the case waits for them, what
// they were is kept, and the reader is told.
func TestMarksAreOpenedAgain(t *testing.T) {
	t.Parallel()
	p, _ := planned(t)
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	given, _ := p.Reading.Of(t.Context(), p.DB, p.Of["Ann"].EntryID)
	for _, g := range given {
		p.MarksAs("Ann", g.AccountID)
	}
	first := given[0].AccountID
	reopen := func(why string) error {
		p.StateOf("Ann")
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.Reopen(ctx, tx, p.Of["Ann"], first, why)
		})
	}
	if p.StateOf("Ann") != lifecycle.Read || reopen("") == nil {
		t.Error("it is read, and a reason is asked for")
	}
	if err := reopen("You marked another case."); err != nil || p.StateOf("Ann") != lifecycle.Reading {
		t.Fatalf("%v: %s", err, p.StateOf("Ann"))
	}
	if reopen("Again.") == nil {
		t.Error("they are open already")
	}
	before, err := p.Reading.Before(t.Context(), p.DB, p.Of["Ann"].EntryID, first)
	if err != nil || len(before) != 1 || before[0]["gain"] != 3 {
		t.Errorf("what they were: %v, %v", before, err)
	}
	p.Held(first, func(ctx context.Context, tx *db.Tx) error {
		g, err := p.Reading.Find(ctx, tx, p.Of["Ann"].EntryID, first)
		if err != nil {
			return err
		}
		if _, err := p.Reading.Keep(ctx, tx, p.Of["Ann"], g.Version, reading.Marking{Marks: map[form.Key]int{"gain": 1,
			"lasting": 3, "value": 3}}); err != nil {
			return err
		}
		return p.Reading.Send(ctx, tx, p.Of["Ann"])
	})
	if p.StateOf("Ann") != lifecycle.Read {
		t.Errorf("sent once more: %s", p.StateOf("Ann"))
	}
	p.Drain()
	if list, _ := p.Tray.List(mailOf(t, p, given[0].AccountID), 0, 9); len(list) == 0 ||
		!strings.Contains(list[0].Body, "You marked another case.") {
		t.Errorf("the reader is told why: %d mails", len(list))
	}
}

// A reader says what they know; days away and a greatest load keep.
func TestWhatIsKnownOfAReader(t *testing.T) {
	t.Parallel()
	p, readers := planned(t)
	day := func(d int) *time.Time { x := time.Date(2027, 4, d, 0, 0, 0, 0, time.UTC); return &x }
	describe := func(x reading.Reader) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.Describe(ctx, tx, p.Round,
				p.Form, x)
		})
	}
	none := 0
	for name, x := range map[string]reading.Reader{
		"away": {Account: readers[0], AwayFrom: day(9), AwayTo: day(8)}, "most": {Account: readers[0], OwnMost: new(-1)},
		"knows": {Account: readers[0], Knows: strings.Repeat("peat ", 500)}} {
		var no refusal.Refusal
		if err := describe(x); !refusal.AsUnfit(err, &no) || no.Field != name {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := describe(reading.Reader{Account: readers[0], OwnMost: &none}); err != nil {
		t.Fatal(err)
	}
	if err := describe(reading.Reader{Account: readers[1], AwayFrom: day(1),
		AwayTo: func() *time.Time { x := p.Form.At(form.ReadingEnd); return &x }()}); err != nil {
		t.Fatal(err)
	}
	plan, err := workOut(p, reading.Asks{})
	if err != nil {
		t.Fatal(err)
	}
	for i, n := range plan.Loads() {
		if out := plan.Readers[i] == readers[0] || plan.Readers[i] == readers[1]; out != (n == 0) {
			t.Errorf("reader %d has %d", plan.Readers[i], n)
		}
	}
}

func mailOf(t *testing.T, p *programtest.Panel, account int64) (email string) {
	t.Helper()
	if err := p.DB.Get(&email, `SELECT email FROM account WHERE id = $1`, account); err != nil {
		t.Fatal(err)
	}
	return email
}

// Readers who have not sent everything are reminded three working days before the
// end and once when it is over; by hand not twice within a day.
func TestLateReadersAreReminded(t *testing.T) {
	t.Parallel()
	p, _ := planned(t)
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	first := givenOf(t, p, "Ann")[0]
	for _, name := range []string{"Ann", "Bo", "Cy"} {
		for _, g := range givenOf(t, p, name) {
			if g.AccountID != first.AccountID {
				p.MarksAs(name, g.AccountID)
			}
		}
	}
	count := func(email string) (n int) {
		p.Drain()
		list, _ := p.Tray.List(email, 0, 20)
		for _, m := range list {
			if strings.Contains(m.Subject, "not marked yet") {
				n++
			}
		}
		return n
	}
	email := mailOf(t, p, first.AccountID)
	ends := p.Form.At(form.ReadingEnd) // Friday 7 May 2027, 17:00
	for _, c := range []struct {
		at   time.Time
		want int
	}{{ends.AddDate(0, 0, -3).Add(-8*time.Hour - time.Second), 0}, {ends.AddDate(0, 0, -3).Add(-8 * time.Hour), 1},
		{ends.Add(-time.Second), 1}, {ends, 2}, {ends.AddDate(0, 0, 9), 2}} {
		p.Clock.Set(c.at)
		if err := p.Reading.SweepReaders(t.Context(), c.at); err != nil {
			t.Fatal(err)
		}
		if got := count(email); got != c.want {
			t.Errorf("by %s: %d mails, want %d", c.at, got, c.want)
		}
	}
	remind := func() (n int, err error) {
		err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			n, err = p.Reading.RemindLate(ctx, tx, p.Round, p.Form)
			return err
		})
		return n, err
	}
	if n, err := remind(); n != 1 || err != nil || count(email) != 3 {
		t.Errorf("by hand: %d, %v", n, err)
	}
	if _, err := remind(); err == nil {
		t.Error("twice within a day")
	}
	other := givenOf(t, p, "Ann")[1]
	if n := count(mailOf(t, p, other.AccountID)); n != 0 {
		t.Errorf("who has sent everything had %d reminders", n)
	}
}

func givenOf(t *testing.T, p *programtest.Panel, name string) []reading.Given {
	t.Helper()
	list, err := p.Reading.Of(t.Context(), p.DB, p.Of[name].EntryID)
	if err != nil || len(list) == 0 {
		t.Fatal(list, err)
	}
	return list
}

// A plan for many cases is given out by a job, if it is as it was seen.
func TestALargePlanIsGivenOutLater(t *testing.T) {
	t.Parallel()
	p, _ := planned(t)
	plan, err := workOut(p, reading.Asks{})
	if err != nil {
		t.Fatal(err)
	}
	later := func() {
		p.Held(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.GiveOutLater(ctx, tx, p.Round, plan)
		})
		p.Drain()
	}
	given := func() int {
		list, err := p.Reading.Of(t.Context(), p.DB, p.Of["Ann"].EntryID)
		if err != nil {
			t.Fatal(err)
		}
		return len(list)
	}
	stale := *plan
	stale.Version--
	plan, seen := &stale, plan
	later()
	if w, err := p.Work.Latest(t.Context(), p.Round.ID, work.HandingOut); err != nil || w == nil || !w.Failed ||
		given() != 0 {
		t.Errorf("a plan that has changed: %+v, %v; %d are given", w, err, given())
	}
	plan = seen
	later()
	if w, err := p.Work.Latest(t.Context(), p.Round.ID, work.HandingOut); err != nil || w == nil || w.Failed ||
		!strings.Contains(w.Says, "3 cases are with 4 readers") || given() != 2 {
		t.Errorf("%+v, %v; %d are given", w, err, given())
	}
}

// Whoever loses a case is told why, and no jury is taken that there is none of.
func TestWhoeverLosesACaseIsTold(t *testing.T) {
	t.Parallel()
	p, readers := planned(t)
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	g := givenOf(t, p, "Ann")
	p.StateOf("Ann")
	p.Held(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Reading.TakeBack(ctx, tx, p.Of["Ann"], g[0].AccountID, "You are her neighbour.")
	})
	p.Drain()
	if list, _ := p.Tray.List(mailOf(t, p, g[0].AccountID), 0, 1); len(list) != 1 ||
		!strings.Contains(list[0].Body, "her neighbour") {
		t.Errorf("they are not told: %+v", list)
	}
	var no refusal.Refusal
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Reading.Describe(ctx, tx, p.Round, p.Form, reading.Reader{Account: readers[0], Jury: "Nowhere"})
	}); !refusal.AsUnfit(err, &no) || no.Field != "jury" {
		t.Errorf("a jury that there is none of: %v", err)
	}
	for field, typed := range map[string]reading.Typed{"most": {Most: "many"}, "away": {From: "soon"}} {
		if _, err := (reading.Reader{}).With(typed); !refusal.AsUnfit(err, &no) || no.Field != field {
			t.Errorf("%+v: %v", typed, err)
		}
	}
}
