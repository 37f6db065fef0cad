package application_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

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

// A call in two stages, the second by invitation: who is invited finds it
// under the same number, with what is asked again as it was answered; who is
// not, does not. Each stage has its own closing, seal and place in the lists.
func TestACallInTwoStages(t *testing.T) {
	ctx := context.Background()
	p := programtest.SentToRound(t, programtest.InTwoStages, map[string]string{"Ann": "9000", "Bo": "7000"})
	if w := p.Form.StageWindow("plan"); !w.Opens.Equal(p.Form.At(form.ChecksBy)) || p.Form.ReadAfter("writing") ||
		!p.Form.ReadAfter("plan") {
		t.Fatalf("the second stage opens %s; read after the first: %v, after the second: %v", w.Opens,
			p.Form.ReadAfter("writing"), p.Form.ReadAfter("plan"))
	}

	// the office decides who goes on
	p.Clock.Set(p.Form.At(form.ChecksBy).Add(time.Hour))
	stage, err := p.Decisions.Stage(ctx, p.DB, p.Round, p.Form)
	if err != nil || stage != "writing" {
		t.Fatalf("the stage to decide in is %q %v", stage, err)
	}
	order, err := p.Decisions.Order(ctx, p.DB, p.Round, p.Form, stage)
	if err != nil || len(order.Rows) != 2 || order.Last {
		t.Fatalf("the order has %d rows, last: %v, %v", len(order.Rows), order.Last, err)
	}
	var choices []decision.Choice
	for _, row := range order.Rows {
		c := decision.Choice{EntryID: row.EntryID, Version: row.Version, Outcome: lifecycle.NotAwarded}
		if row.Ref == p.Of["Ann"].Ref {
			c.Outcome = lifecycle.InvitedOn
		}
		choices = append(choices, c)
	}
	record := func(stage form.Key, choices []decision.Choice) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Decisions.Record(ctx, tx, p.Round, p.Form,
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
		c, err := p.Cases.Find(ctx, p.DB, p.Of[name].Ref)
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
	if err := save(programtest.Edit("spent", "On spades.")); !errors.Is(err, intake.ErrNotDraft) {
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
	list, err := p.Desk.Register(ctx, desk.Sought{Round: p.Round.ID, Most: 10})
	if err != nil || len(list) != 2 {
		t.Fatalf("the list of two applications has %d rows, %v", len(list), err)
	}

	// written, sent after the round's own closing and before the stage's
	if err := save(programtest.Edit("spent", "On spades."), programtest.Edit("told", "To ask for less."),
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
	if path := p.Form.Walk(sealed.Decoded.Filled("Ann Hart")); len(path.Obstacles) != 0 ||
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
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Reading.Invite(ctx, tx, p.Round, "rita@readers.example", "Rita Low")
		return err
	})
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		out, err := p.Reading.HandOut(ctx, tx, p.Round, p.Form, nil)
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
	p := programtest.SentToRound(t, func(d *form.Design) { programtest.InTwoStages(d); d.Stages[2].Invited = false },
		map[string]string{"Ann": "9000", "Bo": "?7000"})
	ctx := context.Background()
	for name, want := range map[string]lifecycle.State{"Ann": lifecycle.Invited, "Bo": lifecycle.Complete} {
		c, err := p.Cases.Find(ctx, p.DB, p.Of[name].Ref)
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
	p := programtest.SentToRound(t, programtest.InTwoStages, map[string]string{"Ann": "9000"})
	ctx := context.Background()
	p.Clock.Set(p.Form.At(form.ChecksBy).Add(-time.Hour))
	c := p.Of["Ann"]
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
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
	if err := takeUp(); !errors.As(err, &early) || !early.Opens.Equal(p.Form.At(form.ChecksBy)) {
		t.Errorf("taken up before it opens: %v", err)
	}
	p.Clock.Set(p.Form.At("plans-in"))
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
		programtest.InTwoStages(d)
		if _, err := form.Compile(d); err != nil {
			t.Fatal(err)
		}
		c.change(d)
		if _, err := form.Compile(d); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", what, err)
		}
	}
}
