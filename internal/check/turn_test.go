package check_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/turn"
	"ulvant/internal/check"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// bodies gives the short design two bodies that see every case, the first by the end
// of the checks.
func bodies(d *form.Design) {
	programtest.Short(d)
	d.Bodies = []form.Body{{Key: "board", Label: "The Board", By: form.ChecksBy, Marks: 10,
		Points: []form.Option{{Key: "dry", Label: "It stays dry"}}}, {Key: "guild", Label: "The Guild"}}
}

func reasons(t *testing.T, p *programtest.Panel, name string) map[form.Key]check.Finding {
	t.Helper()
	list, err := p.Checks.Of(t.Context(), p.DB, p.Of[name].EntryID)
	if err != nil {
		t.Fatal(err)
	}
	out := map[form.Key]check.Finding{}
	for _, f := range list {
		out[f.Rule] = f
	}
	return out
}

// One body after another: the second has it when the first has said yes, the case is
// eligible when both have; a no waits for the office, which may go on over it, and
// what is sent back comes to whoever asked again.
func TestBodiesReviewInTurn(t *testing.T) {
	p := programtest.SentToRound(t, bodies, map[string]string{"Ann": "20,000", "Bo": "30,000", "Cy": "10,000"})
	mark := 7
	answer := func(name, body string, s turn.State, before bool, note string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Checks.AnswerTurn(ctx, tx, p.Of[name], body, check.Answer{State: s, Before: before, Note: note,
				Mark: &mark, Points: map[form.Key]bool{"dry": s == turn.Yes}})
		})
	}
	settle := func(name string, rule form.Key, yes bool) {
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Checks.Settle(ctx, tx, p.Of[name], rule, yes, "We have talked it over.")
		})
	}
	if f := reasons(t, p, "Ann"); !strings.Contains(f["turn-board"].Reason, "The Board has it, to answer by") ||
		!strings.Contains(f["turn-guild"].Reason, "comes after others") || p.StateOf("Ann") != lifecycle.Complete {
		t.Fatalf("%+v, %s", f, p.StateOf("Ann"))
	}
	if err := answer("Ann", "guild", turn.Yes, false, ""); err == nil {
		t.Error("the second answers before it has it")
	}
	if err := answer("Ann", "board", turn.No, false, " "); err == nil {
		t.Error("a no without a note")
	}
	for _, wrong := range []int{-1, 11} {
		mark = wrong
		if err := answer("Ann", "board", turn.Yes, false, ""); err == nil || !strings.Contains(err.Error(), "from 0 to 10") {
			t.Errorf("a mark of %d: %v", wrong, err)
		}
	}
	mark = 10
	for _, step := range []struct {
		body string
		say  turn.State
	}{{"board", turn.Yes}, {"guild", turn.Yes}} {
		if err := answer("Ann", step.body, step.say, false, ""); err != nil {
			t.Fatal(step.body, err)
		}
	}
	if f := reasons(t, p, "Ann"); p.StateOf("Ann") != lifecycle.Eligible || f["turned-board"].Outcome != form.Holds ||
		!strings.Contains(f["turned-board"].Reason, "Its mark is 10 of 10. Met: It stays dry.") ||
		strings.Contains(f["turned-guild"].Reason, "mark") {
		t.Errorf("both said yes: %s, %+v", p.StateOf("Ann"), f)
	}
	// a no: nobody is refused by it, the office goes on over it, and the next has the case
	if err := answer("Bo", "board", turn.No, false, "It floods."); err != nil {
		t.Fatal(err)
	}
	if f := reasons(t, p, "Bo"); p.StateOf("Bo") != lifecycle.Complete || !strings.Contains(f["turned-board"].Reason,
		"“It floods.”") ||
		!strings.Contains(f["turn-guild"].Reason, "comes after") {
		t.Errorf("a no: %s, %+v", p.StateOf("Bo"), f)
	}
	settle("Bo", "turned-board", true)
	if f := reasons(t, p, "Bo"); !strings.Contains(f["turn-guild"].Reason, "The Guild has it") ||
		f["turned-board"].Settled == nil {
		t.Errorf("gone over: %+v", f)
	}
	// back to the body before, then on again
	if err := answer("Bo", "guild", turn.Back, true, "Look at the drain again."); err != nil {
		t.Fatal(err)
	}
	if f := reasons(t, p, "Bo"); !strings.Contains(f["turn-board"].Reason, "The Board has it") {
		t.Errorf("sent to the one before: %+v", f)
	}
	if err := answer("Bo", "board", turn.Yes, false, ""); err != nil {
		t.Fatal(err)
	}
	if err := answer("Bo", "guild", turn.Yes, false, ""); err != nil || p.StateOf("Bo") != lifecycle.Eligible {
		t.Errorf("in the end: %v, %s", err, p.StateOf("Bo"))
	}
	// sent back to the office, which answers; it is with them again
	if err := answer("Cy", "board", turn.Back, false, "Who holds the key?"); err != nil {
		t.Fatal(err)
	}
	settle("Cy", "turned-board", true)
	if f := reasons(t, p, "Cy"); !strings.Contains(f["turn-board"].Reason, "The Board has it") ||
		f["turned-board"].Rule != "" {
		t.Errorf("answered: %+v", f)
	}
	tasks := func() (n int) {
		list, err := p.Desk.TurnTasks(t.Context(), []access.Held{{Role: access.Reviews, Scope: access.Scope{Round: p.Round.ID,
			Body: "board"}}}, p.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range list {
			n += x.N
		}
		return n
	}
	if tasks() != 1 {
		t.Errorf("%d wait for the board", tasks())
	}
	settle("Cy", "turn-board", false) // the office may end it at any time, and then the board has nothing to do
	if tasks() != 0 {
		t.Errorf("%d wait for the board after the end", tasks())
	}
	if p.StateOf("Cy") != lifecycle.NotEligible {
		t.Errorf("ended by the office: %s", p.StateOf("Cy"))
	}
}

// All its people are told once what came to them, and reminded once before the day.
func TestBodiesAreToldAndReminded(t *testing.T) {
	p := programtest.SentToRound(t, bodies, map[string]string{"Ann": "20,000", "Bo": "30,000"})
	for _, name := range []string{"Beathag Moss", "Eoin Tarn"} {
		who := p.Person(name[:1]+"@board.example", name)
		p.Act(0, func(ctx context.Context, tx *db.Tx) error {
			return p.People.GiveRole(ctx, tx, who.ID, access.Held{Role: access.Reviews,
				Scope: access.Scope{Programme: p.Round.Programme, Round: p.Round.ID, Body: "board"}})
		})
	}
	sweep := func() (n int) {
		p.Answers(func(ctx context.Context) error { return p.Checks.SweepTurns(ctx, p.Clock.Now()) })
		p.Drain()
		return p.Mails("you to review") + p.Mails("to review soon")
	}
	if n := sweep(); n != 0 {
		t.Errorf("told at once: %d", n)
	}
	p.After(11 * time.Minute)
	if n := sweep(); n != 2 || p.Mails("2 applications are with you to review") != 2 {
		t.Errorf("told: %d", n)
	}
	if n := sweep(); n != 2 {
		t.Errorf("told again: %d", n)
	}
	p.Clock.Set(p.Form.At(form.ChecksBy).Add(-30 * time.Hour))
	if n := sweep(); n != 4 || p.Mails("2 applications to review soon") != 2 {
		t.Errorf("reminded: %d", n)
	}
	if n := sweep(); n != 4 {
		t.Errorf("reminded again: %d", n)
	}
}
