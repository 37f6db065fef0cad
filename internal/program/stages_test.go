package program_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/pattern"
	"ulvant/internal/application"
	"ulvant/internal/decision"
	"ulvant/internal/desk"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/programtest"
)

// inTwoStages adds to the short round a second stage by invitation: the
// request is asked again there, and whoever asks much says how it is spent.
func inTwoStages(d *form.Design) {
	short(d)
	wall := func(k form.Key) calendar.Wall { m, _ := d.Moment(k); return m.At }
	d.Calendar = append(d.Calendar, form.Moment{Key: "plans-in", Label: "the closing of plans",
		At: calendar.Wall{Date: wall(form.ChecksBy).Date.AddDays(3), Second: 16 * 3600}})
	second := form.Stage{Key: "plan", Label: "Full plan", Does: form.Apply, From: form.ChecksBy, To: "plans-in",
		Invited: true}
	d.Stages = slices.Insert(d.Stages, 2, second)
	d.Stages[3].From = "plans-in"
	ask := form.Question{Key: "spent", Kind: form.Long, Label: "How is it spent?", Nature: form.Chosen,
		Blank: form.Required, Seen: form.ToReaders,
		Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "land-leave"}, Rel: condition.Is,
			Value: &condition.Value{Yes: new(true)}}}}
	told := form.Question{Key: "told", Kind: form.Short, Label: "What did we ask you to change?", Nature: form.Chosen,
		Blank: form.Required, Seen: form.ToReaders,
		Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Stage: "writing"}, Rel: condition.Is,
			Value: &condition.Value{Text: string(lifecycle.InvitedOn)}}}}
	request := d.Sections[0].Questions[0]
	d.Sections = []form.Section{
		{Key: "money", Label: "Money", Again: []form.Key{"plan"}, Questions: []form.Question{request}},
		{Key: "all", Label: "All", Questions: d.Sections[0].Questions[1:]},
		{Key: "plan-section", Label: "The plan", Stage: "plan", Questions: []form.Question{ask, told}},
	}
}

// A call in two stages, the second by invitation: who is invited finds it
// under the same number, with what is asked again as it was answered; who is
// not, does not. Each stage has its own closing, seal and place in the lists.
func TestACallInTwoStages(t *testing.T) {
	ctx := context.Background()
	p := sentToRound(t, inTwoStages, map[string]string{"Ann": "9000", "Bo": "7000"})
	if w := p.form.StageWindow("plan"); !w.Opens.Equal(p.form.At(form.ChecksBy)) || p.form.ReadAfter("writing") ||
		!p.form.ReadAfter("plan") {
		t.Fatalf("the second stage opens %s; read after the first: %v, after the second: %v", w.Opens,
			p.form.ReadAfter("writing"), p.form.ReadAfter("plan"))
	}

	// the office decides who goes on
	p.Clock.Set(p.form.At(form.ChecksBy).Add(time.Hour))
	stage, err := p.Decisions.Stage(ctx, p.DB, p.round, p.form)
	if err != nil || stage != "writing" {
		t.Fatalf("the stage to decide in is %q %v", stage, err)
	}
	order, err := p.Decisions.Order(ctx, p.DB, p.round, p.form, stage)
	if err != nil || len(order.Rows) != 2 || order.Last {
		t.Fatalf("the order has %d rows, last: %v, %v", len(order.Rows), order.Last, err)
	}
	var choices []decision.Choice
	for _, row := range order.Rows {
		c := decision.Choice{EntryID: row.EntryID, Version: row.Version, Outcome: lifecycle.NotAwarded}
		if row.Ref == p.cases["Ann"].Ref {
			c.Outcome = lifecycle.InvitedOn
		}
		choices = append(choices, c)
	}
	record := func(stage form.Key, choices []decision.Choice) error {
		return p.Try(p.officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Decisions.Record(ctx, tx, p.round, p.form,
				decision.Sitting{Stage: stage, Choices: choices, Note: "Panel of 14 May"})
			return err
		})
	}
	wrong := slices.Clone(choices)
	wrong[0].Outcome, wrong[0].Amount = lifecycle.Awarded, 100
	if err := record("writing", wrong); err == nil {
		t.Error("something was awarded in the first of two stages")
	}
	if err := record("writing", choices); err != nil {
		t.Fatal(err)
	}
	p.Clock.Set(p.Clock.Now().Add(time.Hour))
	p.Drain()
	if list, _ := p.Tray.List("ann@corvoe.example", 0, 1); !strings.Contains(list[0].Body, "Full plan") ||
		!strings.Contains(list[0].Body, "23 April 2027, 16:00") {
		t.Error("the letter to the one invited does not name the stage")
	}

	// the applicant's side
	find := func(name string) application.Case {
		c, err := p.Cases.Find(ctx, p.DB, p.cases[name].Ref)
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	if c := find("Bo"); c.State != lifecycle.NotAwarded || c.Stage != "writing" {
		t.Errorf("who was not invited is %s in %s", c.State, c.Stage)
	}
	ann := find("Ann")
	if ann.State != lifecycle.Invited || ann.Stage != "plan" || !ann.Latest {
		t.Fatalf("who was invited is %s in %s", ann.State, ann.Stage)
	}
	lead := ann.LeadID
	save := func(edits ...intake.Edit) error {
		return p.Try(lead, func(ctx context.Context, tx *db.Tx) error {
			_, _, err := p.Intake.Save(ctx, tx, ann, edits)
			return err
		})
	}
	if err := save(edit("spent", "On spades.")); !errors.Is(err, intake.ErrNotDraft) {
		t.Errorf("written before it was taken up: %v", err)
	}
	takeUp := func() error {
		return p.Try(lead, func(ctx context.Context, tx *db.Tx) error { return p.Intake.TakeUp(ctx, tx, ann) })
	}
	for range 2 { // twice is once
		if err := takeUp(); err != nil {
			t.Fatal(err)
		}
	}
	ann = find("Ann")
	_, filled, path, err := p.Cases.Walk(ctx, p.DB, ann, p.Clock.Now())
	if err != nil {
		t.Fatal(err)
	}
	if got := filled.Answers[form.Place{Question: "request"}].Raw; got != "9000" {
		t.Errorf("what is asked again starts as %q", got)
	}
	for q, want := range map[form.Key]condition.Tri{"request": condition.Yes, "land-leave": condition.No,
		"spent": condition.Yes, "told": condition.Yes} {
		if st := path.Find(q); st.Asked != want {
			t.Errorf("%s is asked: %v", q, st.Asked)
		}
	}
	if len(path.Obstacles) != 2 || len(path.Rules) != 0 {
		t.Errorf("in the way of the second stage: %+v; rules %+v", path.Obstacles, path.Rules)
	}
	list, _, err := p.Desk.Applications(ctx, desk.Query{Round: p.round.ID, Most: 10})
	if err != nil || len(list) != 2 {
		t.Fatalf("the list of two applications has %d rows, %v", len(list), err)
	}

	// written, sent after the round's own closing and before the stage's
	if err := save(edit("spent", "On spades."), edit("told", "To ask for less."),
		intake.Edit{Place: form.Place{Question: "request"}, Version: 1, EditID: "e-request-2", Value: "8000"}); err != nil {
		t.Fatal(err)
	}
	p.Act(lead, func(ctx context.Context, tx *db.Tx) error { _, err := p.Intake.Send(ctx, tx, ann); return err })
	p.Drain()
	ann = find("Ann")
	if ann.State != lifecycle.Eligible || ann.SealID == nil {
		t.Fatalf("sent and checked, it is %s", ann.State)
	}
	sealed, err := p.Cases.Sealed(ctx, p.DB, *ann.SealID)
	if err != nil {
		t.Fatal(err)
	}
	if d := sealed.Decoded; d.Stage != "plan" || len(d.Answers) != 3 || d.Before == nil ||
		d.Before.Results["writing"] != string(lifecycle.InvitedOn) {
		t.Errorf("the seal of the second stage: %+v", d)
	}
	if path := p.form.Walk(sealed.Decoded.Filled("Ann Hart")); len(path.Obstacles) != 0 ||
		path.Find("spent").Asked != condition.Yes {
		t.Errorf("the seal cannot be read on its own: %+v", path.Obstacles)
	}
	first, err := p.Cases.FindStage(ctx, p.DB, ann.Ref, "writing")
	if err != nil || first.State != lifecycle.InvitedOn || first.Latest || first.Query() != "?stage=writing" {
		t.Errorf("the first stage is %s, latest %v, %v", first.State, first.Latest, err)
	}
	_, pdf, err := p.Program.Copy(ctx, *ann.SealID)
	if err != nil || len(pdf) < 1000 {
		t.Errorf("the copy has %d bytes: %v", len(pdf), err)
	}

	// the second stage is handed out to readers; nobody is invited further
	p.Act(p.officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Reading.Invite(ctx, tx, p.round, "rita@readers.example", "Rita Low")
		return err
	})
	p.Clock.Set(p.form.HandsOutFrom())
	p.Act(p.officer, func(ctx context.Context, tx *db.Tx) error {
		out, err := p.Reading.HandOut(ctx, tx, p.round, p.form, nil)
		if out.Cases != 1 {
			t.Errorf("%d cases were handed out", out.Cases)
		}
		return err
	})
	if c := find("Ann"); c.State != lifecycle.Reading {
		t.Errorf("handed out, it is %s", c.State)
	}
}

// A second stage that is open to all is reached by everybody who is found
// eligible in the first, at once.
func TestAStageOpenToAll(t *testing.T) {
	p := sentToRound(t, func(d *form.Design) { inTwoStages(d); d.Stages[2].Invited = false },
		map[string]string{"Ann": "9000", "Bo": "?7000"})
	ctx := context.Background()
	for name, want := range map[string]lifecycle.State{"Ann": lifecycle.Invited, "Bo": lifecycle.Complete} {
		c, err := p.Cases.Find(ctx, p.DB, p.cases[name].Ref)
		if err != nil || c.State != want {
			t.Errorf("%s is %s in %s, %v", name, c.State, c.Stage, err)
		}
	}
	if list, _ := p.Tray.List("ann@corvoe.example", 0, 1); !strings.Contains(list[0].Subject, "invite you") {
		t.Errorf("the latest letter says %q", list[0].Subject)
	}
}

// What is not taken up, or not sent, lapses at the stage's own closing.
func TestAStageLapses(t *testing.T) {
	p := sentToRound(t, inTwoStages, map[string]string{"Ann": "9000"})
	ctx := context.Background()
	p.Clock.Set(p.form.At(form.ChecksBy).Add(-time.Hour))
	c := p.cases["Ann"]
	p.Act(p.officer, func(ctx context.Context, tx *db.Tx) error {
		now, err := p.Cases.ByEntry(ctx, tx, c.EntryID)
		if err == nil {
			_, _, err = p.Cases.Transition(ctx, tx, now, lifecycle.InviteOn, nil)
		}
		if err == nil {
			err = p.Cases.LetterSent(ctx, tx, post.About{Kind: "invited", Application: now.ID, Entry: now.EntryID,
				Holds: "invited on"})
		}
		return err
	})
	ann, err := p.Cases.Find(ctx, p.DB, c.Ref)
	if err != nil {
		t.Fatal(err)
	}
	takeUp := func() error {
		return p.Try(ann.LeadID, func(ctx context.Context, tx *db.Tx) error { return p.Intake.TakeUp(ctx, tx, ann) })
	}
	var early intake.NotOpen
	if err := takeUp(); !errors.As(err, &early) || !early.Opens.Equal(p.form.At(form.ChecksBy)) {
		t.Errorf("taken up before it opens: %v", err)
	}
	p.Clock.Set(p.form.At("plans-in"))
	if err := takeUp(); !errors.Is(err, intake.ErrClosed) {
		t.Errorf("taken up at the closing: %v", err)
	}
	if err := p.Cases.Sweep(ctx, p.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	if st, err := p.Cases.Standing(ctx, p.DB, ann.EntryID); err != nil || st.State != lifecycle.Lapsed {
		t.Errorf("it is %s, %v", st.State, err)
	}
}

// Conditions read only what is known by then.
func TestWhatAStageCanRead(t *testing.T) {
	for what, c := range map[string]struct {
		change func(*form.Design)
		says   string
	}{
		"a later stage's answer": {func(d *form.Design) {
			d.Sections[0], d.Sections[2] = d.Sections[2], d.Sections[0]
			d.Sections[0].Questions[0].Asked = condition.Cond{}
			d.Sections[1].Questions[0].Asked = condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "told"},
				Rel: condition.Is, Value: &condition.Value{Text: "x"}}}
		}, "asked in a later stage"},
		"its own result": {func(d *form.Design) {
			d.Sections[2].Questions[0].Asked = condition.Cond{Test: &condition.Test{Of: condition.Ref{Stage: "plan"},
				Rel: condition.Is, Value: &condition.Value{Text: "invited on"}}}
		}, "not known yet"},
		"asked again before it was asked": {func(d *form.Design) { d.Sections[2].Again = []form.Key{"writing"} },
			"after its own"},
	} {
		d := pattern.Grants(programtest.Settings())
		inTwoStages(d)
		if _, err := form.Compile(d); err != nil {
			t.Fatal(err)
		}
		c.change(d)
		if _, err := form.Compile(d); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", what, err)
		}
	}
}
