package reference_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
	"ulvant/internal/standin/tray"
)

// others is a round in which people of four kinds answer: a teacher whose letter
// may come three weeks after the closing, an owner who confirms the plan itself,
// and guardians of whom one is enough.
func others(d *form.Design) {
	d.Rules, d.Figures, d.Request, d.Listed = nil, nil, "", form.Listing{}
	d.Field = ""
	people := func(n int) form.Cases[form.Limits] { return form.Cases[form.Limits]{Else: form.Limits{Referees: n}} }
	q := func(k form.Key, kind form.Kind, label string) form.Question {
		return form.Question{
			Key:    k,
			Kind:   kind,
			Label:  label,
			Nature: form.Chosen,
			Blank:  form.Required,
			Seen:   form.ToReaders,
		}
	}
	plan := q("plan", form.Long, "The plan")
	teacher := q("teacher", form.Referee, "A teacher")
	teacher.Limits = people(1)
	closes, _ := d.Moment(form.Closes)
	teacher.Ask = &form.Ask{Wants: "How do they work?", By: &form.Day{On: closes.At.Date.AddDays(21)}, Waits: true,
		Sight: form.SightChosen, Contact: true, Reminders: 2}
	well := q("well", form.Choice, "How well do they work with others?")
	well.Options = []form.Option{{Key: "well", Label: "Well"}, {Key: "badly", Label: "Badly"}}
	teacher.Columns = []form.Question{well}
	owner := q("owner", form.Signatory, "The owner")
	owner.Limits, owner.Ask = people(
		1,
	), &form.Ask{
		Wants: "The work may be done here.",
		Shows: []form.Key{"plan"},
		Paper: true,
	}
	guardian := q("guardian", form.Signatory, "A guardian")
	guardian.Limits, guardian.Ask = people(2), &form.Ask{Wants: "They may take part.", Enough: 1}
	d.Sections = []form.Section{
		{Key: "all", Label: "All of it", Questions: []form.Question{plan, teacher, owner, guardian}},
	}
}

func opened(t *testing.T) asked {
	h, _, c := programtest.Opened(t, others)
	a := asked{h, c}
	a.plan("We mend the wall.")
	return a
}

func (a asked) plan(text string) {
	a.T.Helper()
	a.Act(a.c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		_, _, err := a.Intake.Save(
			ctx,
			tx,
			a.c,
			[]intake.Edit{
				{Place: form.Place{Question: "plan"}, EditID: fmt.Sprintf("from-plan-%d", a.version("plan")),
					Value: text, Version: a.version("plan")},
			},
		)
		return err
	})
}

func (a asked) version(q form.Key) (n int) {
	a.DB.Get(&n, `SELECT version FROM answer WHERE entry_id = $1 AND question = $2`, a.c.EntryID, q)
	return n
}

func (a asked) names(q form.Key, p reference.Person) int64 {
	a.T.Helper()
	id, err := a.tries(q, p)
	if err != nil {
		a.T.Fatal(err)
	}
	return id
}

func (a asked) tries(q form.Key, p reference.Person) (id int64, err error) {
	err = a.Try(a.c.LeadID, func(ctx context.Context, tx *db.Tx) (err error) {
		id, err = a.Referees.Name(ctx, tx, a.c, q, p)
		return err
	})
	return id, err
}

func person(name string) reference.Person {
	kept := false
	return reference.Person{
		Name:   name,
		Email:  strings.ToLower(name) + "@hallin.example",
		Knows:  "taught me",
		Waived: &kept,
	}
}

// lacks are the codes of what stands in the way.
func (a asked) lacks() string {
	a.T.Helper()
	_, _, path, err := a.Cases.Walk(context.Background(), a.DB, a.fresh(), a.Clock.Now())
	if err != nil {
		a.T.Fatal(err)
	}
	var codes []string
	for _, o := range path.Obstacles {
		codes = append(codes, string(o.Place.Question)+" "+string(o.Code))
	}
	return strings.Join(codes, ", ")
}

func (a asked) fresh() application.Case {
	a.T.Helper()
	c, err := a.Cases.ByEntry(context.Background(), a.DB, a.c.EntryID)
	if err != nil {
		a.T.Fatal(err)
	}
	return c
}

func (a asked) confirms(id int64) error {
	r := a.now(id)
	f, err := a.Rounds.Form(context.Background(), a.DB, a.c.DesignID)
	if err != nil {
		return err
	}
	filled, err := a.Cases.Filled(context.Background(), a.DB, a.fresh(), f, a.Clock.Now())
	if err != nil {
		return err
	}
	return a.do(func(ctx context.Context, tx *db.Tx) error {
		return a.Referees.Confirm(ctx, tx, id, f.Fingerprint(f.Question(r.Question), filled), nil)
	})
}

// A letter that may come after the closing holds no send up; the case waits for
// it, and goes on by itself when it is in.
func TestALetterMayComeLater(t *testing.T) {
	t.Parallel()
	a := opened(t)
	if _, err := a.tries("teacher", reference.Person{Name: "Ada", Email: "ada@hallin.example", Knows: "x"}); err == nil ||
		!strings.Contains(err.Error(), "give up the right") {
		t.Errorf("sight not said: %v", err)
	}
	teacher := a.names("teacher", person("Ada"))
	owner, guardian := a.names("owner", person("Bo")), a.names("guardian", person("Cy"))
	if got := a.lacks(); got != "owner referee-asked, guardian referee-asked" {
		t.Errorf("in the way: %s", got)
	}
	for _, id := range []int64{owner, guardian} {
		if err := a.confirms(id); err != nil {
			t.Fatal(err)
		}
	}
	if got := a.lacks(); got != "" {
		t.Fatalf("a letter that may come later stands in the way: %s", got)
	}
	a.Act(
		a.c.LeadID,
		func(ctx context.Context, tx *db.Tx) error { _, err := a.Intake.Send(ctx, tx, a.c); return err },
	)
	a.Drain()
	reason := func() (s string) {
		t.Helper()
		if err := a.DB.Get(&s, `SELECT outcome || ': ' || reason FROM finding WHERE rule = 'letters-teacher'`); err != nil {
			t.Fatal(err)
		}
		return s
	}
	if a.StateOf(a.c) != lifecycle.Complete || reason() !=
		"person: Awaited until 1 May 2027, 00:00: Ada. When it is in, this is settled by itself." {
		t.Errorf("%s %s", a.StateOf(a.c), reason())
	}
	f, _ := a.Rounds.Form(context.Background(), a.DB, a.c.DesignID)
	a.Clock.Set(f.Window().Closes.Add(24 * time.Hour))
	if err := a.answer(teacher, true); err != nil {
		t.Fatal(err)
	}
	err := a.do(func(ctx context.Context, tx *db.Tx) error {
		return a.Referees.Keep(
			ctx,
			tx,
			teacher,
			reference.Draft{Version: a.now(teacher).Version, Text: "They finish things.",
				Answers: map[form.Place]form.Answer{{Question: "well"}: {Raw: "nonsense"}}},
		)
	})
	if err != nil {
		t.Fatal(err)
	}
	if err := a.send(teacher); err == nil || !strings.Contains(err.Error(), "“nonsense” cannot be read") {
		t.Errorf("an answer that is none: %v", err)
	}
	version := a.now(teacher).Version
	a.Held(0, func(ctx context.Context, tx *db.Tx) error {
		return a.Referees.Keep(
			ctx,
			tx,
			teacher,
			reference.Draft{Version: version, Text: "They finish things.",
				Answers: map[form.Place]form.Answer{{Question: "well"}: {Raw: "well"}}},
		)
	})
	if err := a.send(teacher); err != nil {
		t.Fatal(err)
	}
	a.Drain()
	if a.StateOf(a.c) != lifecycle.Eligible || reason() != "yes: Everything that may come after the closing is in." {
		t.Errorf("the letter is in: %s %s", a.StateOf(a.c), reason())
	}
	s, err := a.Cases.Sealed(context.Background(), a.DB, *a.fresh().SealID)
	if err != nil {
		t.Fatal(err)
	}
	whole, err := a.Referees.Whole(context.Background(), a.DB, f, a.fresh(), &s.Decoded)
	if err != nil || len(s.Decoded.Letters) != 2 || len(whole.Letters) != 3 ||
		whole.Letters[2].Text != "They finish things." ||
		whole.Letters[2].Theirs[0].Raw != "well" {
		t.Errorf("what is read: %d under the seal, %+v %v", len(s.Decoded.Letters), whole.Letters, err)
	}
}

// When nothing has come by its date, the office decides; it may give more time.
func TestALetterThatNeverComes(t *testing.T) {
	t.Parallel()
	a := opened(t)
	teacher := a.names("teacher", person("Ada"))
	for _, q := range []form.Key{"owner", "guardian"} {
		if err := a.confirms(a.names(q, person(strings.ToUpper(string(q[:1]))+string(q[1:])))); err != nil {
			t.Fatal(err)
		}
	}
	a.Act(
		a.c.LeadID,
		func(ctx context.Context, tx *db.Tx) error { _, err := a.Intake.Send(ctx, tx, a.c); return err },
	)
	a.Drain()
	f, _ := a.Rounds.Form(context.Background(), a.DB, a.c.DesignID)
	due := a.now(teacher).Due(f, a.fresh())
	a.Clock.Set(due)
	if err := a.answer(teacher, true); !errors.Is(err, reference.ErrClosed) {
		t.Errorf("at its very instant: %v", err)
	}
	if err := a.Checks.SweepLetters(context.Background(), due.Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	var reason string
	if err := a.DB.Get(&reason, `SELECT reason FROM finding WHERE rule = 'letters-teacher'`); err != nil ||
		reason != "It did not come by 1 May 2027, 00:00: Ada. Decide whether the application goes on without it." {
		t.Errorf("%q %v", reason, err)
	}
	office := a.Person("office@trust.example", "Maren Quist")
	more := func(until time.Time, why string) error {
		return a.Try(office.ID, func(ctx context.Context, tx *db.Tx) error {
			return a.Referees.MoreTime(ctx, tx, a.fresh(), teacher, until, why)
		})
	}
	if more(due.Add(48*time.Hour), " ") == nil || more(due.Add(-time.Hour), "ill") == nil {
		t.Error("without a reason, or into the past")
	}
	if err := more(due.Add(48*time.Hour), "She was ill."); err != nil {
		t.Fatal(err)
	}
	if err := a.answer(teacher, true); err != nil {
		t.Errorf("within the time that was given: %v", err)
	}
	a.Clock.Set(due.Add(48 * time.Hour))
	if err := a.keep(teacher, a.now(teacher).Version, "Late."); !errors.Is(err, reference.ErrClosed) {
		t.Errorf("after it: %v", err)
	}
}

// What was confirmed is frozen; what is changed afterwards must be confirmed again.
func TestWhatWasConfirmedIsFrozen(t *testing.T) {
	t.Parallel()
	a := opened(t)
	owner := a.names("owner", person("Bo"))
	seen := a.now(owner)
	if err := a.do(func(ctx context.Context, tx *db.Tx) error {
		return a.Referees.Confirm(ctx, tx, seen.ID, "of another page", nil)
	}); !errors.Is(err, reference.ErrOther) {
		t.Errorf("what stood on no page: %v", err)
	}
	if err := a.confirms(owner); err != nil {
		t.Fatal(err)
	}
	w, ok := a.now(owner).WordOf()
	if !ok || w.Wants != "The work may be done here." || len(w.Shown) != 1 || w.Shown[0].Text != "We mend the wall." {
		t.Errorf("%+v", w)
	}
	again := func() error {
		return a.Try(
			a.c.LeadID,
			func(ctx context.Context, tx *db.Tx) error { return a.Referees.AskAgain(ctx, tx, a.c, owner) },
		)
	}
	if again() == nil {
		t.Error("asked again for what stands as it was")
	}
	a.plan("We build a tower.")
	if got := a.lacks(); !strings.Contains(got, "owner confirmed-other") {
		t.Errorf("changed since: %s", got)
	}
	if w, _ := a.now(owner).WordOf(); w.Shown[0].Text != "We mend the wall." {
		t.Error("what was confirmed changed with the answer")
	}
	if err := again(); err != nil {
		t.Fatal(err)
	}
	if got := a.lacks(); !strings.Contains(got, "owner referee-asked") {
		t.Errorf("asked again: %s", got)
	}
	if err := a.confirms(owner); err != nil {
		t.Fatal(err)
	}
	if got := a.lacks(); strings.Contains(got, "owner") {
		t.Error(got)
	}
	f, _ := a.Rounds.Form(context.Background(), a.DB, a.c.DesignID)
	e, err := a.Referees.EvidenceOf(context.Background(), a.DB, a.now(owner), a.fresh(), f)
	if err != nil || e.Name != "Bo" || e.Word.Shown[0].Text != "We build a tower." || e.LinkID == 0 || e.Paper ||
		len(e.Fingerprint) != 64 {
		t.Errorf("%+v %v", e, err)
	}
}

// One of two is enough, whoever of them it is; and no more than that is asked for.
func TestEnough(t *testing.T) {
	t.Parallel()
	a := opened(t)
	guardians := func() string {
		for _, l := range strings.Split(a.lacks(), ", ") {
			if strings.HasPrefix(l, "guardian") {
				return l
			}
		}
		return ""
	}
	if got := guardians(); got != "guardian referee-missing" {
		t.Error(got)
	}
	one, two := a.names("guardian", person("Cy")), a.names("guardian", person("Di"))
	if got := guardians(); got != "guardian referee-asked" {
		t.Error(got)
	}
	if err := a.do(func(ctx context.Context, tx *db.Tx) error {
		return a.Referees.Decline(ctx, tx, one, "We moved away.", "Their aunt")
	}); err != nil {
		t.Fatal(err)
	}
	if got := guardians(); got != "guardian referee-asked" {
		t.Errorf("the other can still: %s", got)
	}
	a.Drain()
	mails, _ := a.Tray.List(a.c.LeadEmail, 0, 1)
	if !strings.Contains(mails[0].Body, "Why: We moved away.") || !strings.Contains(mails[0].Body, "Their aunt") {
		t.Error(mails[0].Body)
	}
	if err := a.confirms(two); err != nil {
		t.Fatal(err)
	}
	if got := guardians(); got != "" {
		t.Error(got)
	}
}

// However somebody is reminded, it is never more often than the round says: two.
func TestRemindersAreCountedOverAllWays(t *testing.T) {
	t.Parallel()
	a := opened(t)
	teacher := a.names("teacher", person("Ada"))
	sweep := func(at time.Time) {
		a.Clock.Set(at)
		if err := a.Referees.Sweep(context.Background(), at); err != nil {
			t.Fatal(err)
		}
		a.Drain()
	}
	began := a.Clock.Now()
	sweep(began.Add(6*24*time.Hour - time.Minute))
	if n := a.now(teacher).Reminders; n != 0 {
		t.Errorf("too early: %d", n)
	}
	sweep(began.Add(6 * 24 * time.Hour))
	sweep(began.Add(6 * 24 * time.Hour))
	if n := a.now(teacher).Reminders; n != 1 {
		t.Errorf("after six days: %d", n)
	}
	byHand := func() error {
		return a.Try(
			a.c.LeadID,
			func(ctx context.Context, tx *db.Tx) error { return a.Referees.Remind(ctx, tx, a.c, teacher) },
		)
	}
	if byHand() == nil {
		t.Error("twice within a day")
	}
	a.Clock.Set(began.Add(8 * 24 * time.Hour))
	if err := byHand(); err != nil {
		t.Fatal(err)
	}
	a.Clock.Set(began.Add(10 * 24 * time.Hour))
	if err := byHand(); err == nil || !strings.Contains(err.Error(), "all the reminders this round allows") {
		t.Errorf("a third: %v", err)
	}
	var rd struct{ ID int64 }
	if err := a.DB.Get(&rd, `SELECT id FROM round LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	round, err := a.Rounds.ByID(context.Background(), a.DB, rd.ID)
	if err != nil {
		t.Fatal(err)
	}
	a.Held(0, func(ctx context.Context, tx *db.Tx) error {
		n, err := a.Referees.Nudge(ctx, tx, round, []int64{teacher}, nil)
		if n != 0 {
			t.Errorf("a third by the office: %d", n)
		}
		return err
	})
	for d := 10; d < 60; d++ {
		sweep(began.Add(time.Duration(d) * 24 * time.Hour))
	}
	a.Drain()
	list, _ := a.Tray.List("ada@hallin.example", 0, 50)
	n, last := 0, ""
	for i := len(list) - 1; i >= 0; i-- {
		if strings.HasPrefix(list[i].Subject, "Still open") {
			n, last = n+1, list[i].Body
		}
	}
	if n != 2 || !strings.Contains(last, "This is the last reminder") {
		t.Errorf("%d reminders; the last says %q", n, last)
	}
}

// A mail that comes back is the applicant's to mend, with the address that was
// probably meant; corrected, the same person is asked anew.
func TestAMailThatComesBack(t *testing.T) {
	t.Parallel()
	a := opened(t)
	wrong := person("Ada")
	wrong.Email = "ada@corvo.example"
	teacher := a.names("teacher", wrong)
	a.Drain()
	var token string
	if err := a.DB.Get(&token, `SELECT bounce_token FROM post WHERE to_address = 'ada@corvo.example'`); err != nil {
		t.Fatal(err)
	}
	mails, _ := a.Tray.List("ada@corvo.example", 0, 1)
	raw := func(to string) []byte {
		return tray.Report(
			"bounce+"+token+"@trust.example",
			to,
			"5.1.2",
			"550 no such domain",
			[]byte("Message-ID: <x@y>\r\n\r\n"),
		)
	}
	link := mails[0].Body[strings.Index(mails[0].Body, "/letter/"):]
	link, _, _ = strings.Cut(link, "\n")
	back := func(token, to string) {
		t.Helper()
		if err := a.Post.Bounced(context.Background(), a.Clock.Now(), token, raw(to)); err != nil {
			t.Fatal(err)
		}
	}
	back("of-nobody", "ada@corvo.example")
	back(token, "somebody@else.example") // a copy's fate is not its
	if a.now(teacher).Bounced() {
		t.Fatal("taken for another's")
	}
	back(token, "Ada@corvo.example")
	back(token, "ada@corvo.example") // said twice
	if got := a.lacks(); !strings.HasPrefix(got, "teacher referee-bounced") {
		t.Errorf("in the way: %s", got)
	}
	var standing struct {
		Move      lifecycle.Move
		Obstacles string
	}
	if err := a.DB.Get(&standing, `SELECT move, obstacles::text FROM standing WHERE entry_id = $1`,
		a.c.EntryID); err != nil ||
		standing.Move != lifecycle.Applicant ||
		!strings.Contains(standing.Obstacles, "referee-bounced") {
		t.Errorf("in lists: %+v %v", standing, err)
	}
	a.Drain()
	told, _ := a.Tray.List(a.c.LeadEmail, 0, 5)
	if len(told) != 1 || !strings.Contains(told[0].Body, "Was it meant to be ada@corvoe.example?") ||
		!strings.Contains(told[0].Body, "There is no such domain") {
		t.Errorf("%d mails, %+v", len(told), told[0])
	}
	correct := func(email string) error {
		return a.Try(a.c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			return a.Referees.Correct(ctx, tx, a.c, teacher, email)
		})
	}
	if correct("ada@corvo.example") == nil {
		t.Error("corrected to what it was")
	}
	if err := correct("ada@corvoe.example"); err != nil {
		t.Fatal(err)
	}
	list, err := a.Referees.Of(context.Background(), a.DB, a.c.EntryID)
	if err != nil || len(list) != 2 || list[0].State != form.Replaced || list[1].State != form.Asked ||
		list[1].Email != "ada@corvoe.example" || list[1].Name != "Ada" || list[1].Waived == nil || *list[1].Waived {
		t.Errorf("%+v %v", list, err)
	}
	if got := a.lacks(); strings.Contains(got, "teacher") {
		t.Error(got)
	}
	// of the new one nothing comes back, and the old report changes nothing there
	back(token, "ada@corvo.example")
	if a.now(list[1].ID).Bounced() {
		t.Error("the new request took the old one's fate")
	}
}

// What comes by post is put in by the office with the day it arrived; it counts
// like what comes by a link, and says that it came on paper.
func TestByPost(t *testing.T) {
	t.Parallel()
	a := opened(t)
	teacher := a.names("teacher", person("Ada"))
	office := a.Person("office@trust.example", "Maren Quist")
	enter := func(q form.Key, p reference.ByPost, file string) error {
		p.File, p.Size, p.Body = "scan.pdf", int64(len(file)), bytes.NewReader([]byte(file))
		_, err := a.Referees.Enter(context.Background(), db.Account(office.ID), a.Clock.Now(), a.c, q, p)
		return err
	}
	today := calendar.DateOf(a.Clock.Now(), time.UTC)
	for _, c := range []struct {
		name string
		q    form.Key
		p    reference.ByPost
		says string
	}{
		{"no reason", "owner", reference.ByPost{Name: "Bo", Arrived: today}, "Say why"},
		{"no day", "owner", reference.ByPost{Name: "Bo", Why: "no mail"}, "Give the day it arrived"},
		{"a day ahead", "owner", reference.ByPost{Name: "Bo", Why: "no mail", Arrived: today.AddDays(1)},
			"Give the day it arrived"},
		{"nobody", "owner", reference.ByPost{Why: "no mail", Arrived: today}, "Give the name"},
		{"another's request", "owner", reference.ByPost{Referee: teacher, Why: "no mail", Arrived: today}, "no such request"},
	} {
		if err := enter(c.q, c.p, string(programtest.Plan)); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", c.name, err)
		}
	}
	if err := enter("owner", reference.ByPost{Name: "Bo", Why: "He has no mail.", Arrived: today.AddDays(-1)},
		string(programtest.Plan)); err != nil {
		t.Fatal(err)
	}
	if err := enter("teacher", reference.ByPost{Referee: teacher, Why: "She wrote by hand.", Arrived: today},
		string(programtest.Plan)); err != nil {
		t.Fatal(err)
	}
	if err := enter("teacher", reference.ByPost{Referee: teacher, Why: "Twice.", Arrived: today},
		string(programtest.Plan)); !errors.Is(err, reference.ErrIsIn) {
		t.Errorf("twice: %v", err)
	}
	if got := a.lacks(); got != "guardian referee-missing" {
		t.Error(got)
	}
	if w, ok := a.now(teacher).WordOf(); ok || !a.now(teacher).Paper || a.now(teacher).Arrived == nil {
		t.Errorf("%+v", w)
	}
	var figures []string
	if err := a.DB.Select(&figures,
		`SELECT verb || ' ' || (figures->>'reason') FROM trail WHERE verb IN ('letter-entered', 'confirmed-on-paper') ORDER BY id`); err != nil ||
		strings.Join(figures, "; ") != "confirmed-on-paper He has no mail.; letter-entered She wrote by hand." {
		t.Errorf("%q %v", figures, err)
	}
}

// A letter is used again with its writer's leave: they put it up themselves, and
// its age is judged anew.
func TestALetterIsUsedAgain(t *testing.T) {
	t.Parallel()
	a := opened(t)
	first := a.names("teacher", person("Ada"))
	a.answer(first, true)
	a.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return a.Referees.Keep(
			ctx,
			tx,
			first,
			reference.Draft{Version: a.now(first).Version, Text: "They finish things.",
				Answers: map[form.Place]form.Answer{{Question: "well"}: {Raw: "well"}}},
		)
	})
	if _, err := a.Referees.PutPage(context.Background(), db.Actor{Kind: "link", ID: 1}, a.Clock.Now(), first, "page.pdf",
		int64(len(programtest.Plan)), bytes.NewReader(programtest.Plan)); err != nil {
		t.Fatal(err)
	}
	if err := a.send(first); err != nil {
		t.Fatal(err)
	}
	var second application.Case
	a.Act(a.c.LeadID, func(ctx context.Context, tx *db.Tx) (err error) {
		second, err = a.Intake.Start(ctx, tx, "shore-2027", "Another", nil)
		return err
	})
	b := asked{a.House, second}
	again := b.names("teacher", person("Ada"))
	stranger := b.names("owner", person("Bo"))
	reuse := func(id int64) error {
		return a.do(func(ctx context.Context, tx *db.Tx) error { return a.Referees.Reuse(ctx, tx, id, first) })
	}
	if err := reuse(stranger); !errors.Is(err, reference.ErrNotFound) {
		t.Errorf("another's letter: %v", err)
	}
	b.answer(again, true)
	if err := reuse(again); err != nil {
		t.Fatal(err)
	}
	r := a.now(again)
	pages, err := a.Materials.OfReferee(context.Background(), a.DB, again)
	if r.State != form.Uploaded || r.Letter != "They finish things." || r.Reused == nil || *r.Reused != first ||
		err != nil ||
		len(pages) != 1 ||
		r.Dated == nil {
		t.Errorf("%+v, %d pages, %v", r, len(pages), err)
	}
	if err := a.send(again); err == nil { // what is asked beside it is answered for each
		t.Error("sent without the answers that this one asks for")
	}
	var p refusal.Refusal
	if !errors.As(a.send(again), &p) {
		t.Error("no sentence")
	}
	if raw, _ := json.Marshal(a.now(first)); !bytes.Contains(raw, []byte("They finish things.")) {
		t.Error("the first was changed")
	}
}

// A letter that was set aside with its question when the application was sent is
// read by nobody, though its writer had sent it.
func TestALetterSetAsideStaysAside(t *testing.T) {
	t.Parallel()
	h, _, c := programtest.Opened(t, func(d *form.Design) {
		others(d)
		q := &d.Sections[0].Questions[1]
		q.Asked = condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "plan"}, Rel: condition.Is,
			Value: &condition.Value{Text: "We mend the wall."}}}
		d.Sections[0].Questions = d.Sections[0].Questions[:2]
		d.Sections[0].Questions[0].Kind = form.Short
	})
	a := asked{h, c}
	a.plan("We mend the wall.")
	teacher := a.names("teacher", person("Ada"))
	a.answer(teacher, true)
	a.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return a.Referees.Keep(ctx, tx, teacher, reference.Draft{Version: a.now(teacher).Version, Text: "They finish things.",
			Answers: map[form.Place]form.Answer{{Question: "well"}: {Raw: "well"}}})
	})
	if err := a.send(teacher); err != nil {
		t.Fatal(err)
	}
	a.plan("We build a tower.")
	a.Act(a.c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := a.Intake.Send(ctx, tx, a.c); return err })
	s, err := a.Cases.Sealed(context.Background(), a.DB, *a.fresh().SealID)
	if err != nil {
		t.Fatal(err)
	}
	f, _ := a.Rounds.Form(context.Background(), a.DB, a.c.DesignID)
	whole, err := a.Referees.Whole(context.Background(), a.DB, f, a.fresh(), &s.Decoded)
	if err != nil || len(s.Decoded.Letters) != 0 || len(whole.Letters) != 0 {
		t.Errorf("under the seal %d, read %+v, %v", len(s.Decoded.Letters), whole.Letters, err)
	}
}
