package program_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/decision"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/round"
)

// unread is the short round without readers, so that eligible cases are decided.
func unread(d *form.Design) {
	short(d)
	d.Stages = slices.DeleteFunc(d.Stages, func(s form.Stage) bool { return s.Does == form.Read })
}

// choices for cases by name; a sum of -1 holds it in reserve, 0 refuses it.
func (p *panel) choices(sums map[string]int64) (out []decision.Choice) {
	p.T.Helper()
	for name, sum := range sums {
		p.state(name)
		c := decision.Choice{EntryID: p.cases[name].EntryID, Version: p.cases[name].Version, Outcome: lifecycle.NotAwarded}
		switch {
		case sum > 0:
			c.Outcome, c.Amount = lifecycle.Awarded, sum
		case sum < 0:
			c.Outcome = lifecycle.Reserve
		}
		out = append(out, c)
	}
	return out
}

func (p *panel) record(reason string, choices []decision.Choice) (act int64, err error) {
	err = p.Try(p.officer, func(ctx context.Context, tx *db.Tx) error {
		act, err = p.Decisions.Record(ctx, tx, p.round, p.form,
			decision.Sitting{Stage: "writing", Choices: choices, Note: "Panel of 14 May", Reason: reason})
		return err
	})
	return act, err
}

// told is what an applicant sees of their case, and the sum they were told.
func (p *panel) told(name string) string {
	p.T.Helper()
	p.state(name)
	list, err := p.Desk.Mine(context.Background(), p.cases[name].LeadID)
	if err != nil || len(list) != 1 {
		p.T.Fatalf("%d in the list of %s, %v", len(list), name, err)
	}
	if list[0].State != p.cases[name].Told {
		p.T.Errorf("%s: the list says %s, the case %s", name, list[0].State, p.cases[name].Told)
	}
	if list[0].Given != nil {
		return fmt.Sprintf("%s %d", list[0].State, *list[0].Given)
	}
	return string(list[0].State)
}

func (p *panel) after(d time.Duration) {
	p.Clock.Set(p.Clock.Now().Add(d))
	p.Drain()
}

// What an applicant sees of a decision changes when its letter leaves; a
// decision is changed with a reason, and a letter that no longer holds is never
// sent; figures and the fund follow.
func TestADecisionIsToldByItsLetterAndRevised(t *testing.T) {
	p := sentToRound(t, unread, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "20,000"})
	if got := p.told("Ann"); got != "eligible" {
		t.Fatalf("Ann is told %q", got)
	}
	if _, err := p.record("", p.choices(map[string]int64{"Ann": 6_000_000, "Bo": 4_000_000, "Cy": -1})); err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string]lifecycle.State{"Ann": lifecycle.Awarded, "Bo": lifecycle.Awarded,
		"Cy": lifecycle.Reserve} {
		if got := p.state(name); got != want {
			t.Errorf("%s is %s", name, got)
		}
		if got := p.told(name); got != "eligible" {
			t.Errorf("%s is told %q before the letter left", name, got)
		}
	}
	if err := p.Try(p.cases["Cy"].LeadID, func(ctx context.Context,
		tx *db.Tx) error {
		return p.Intake.Withdraw(ctx, tx, p.cases["Cy"])
	}); !errors.Is(err, intake.ErrBeingDecided) {
		t.Errorf("withdrawn before it was told: %v", err)
	}
	// Bo is refused after all, before any letter has left
	if _, err := p.record(" ", p.choices(map[string]int64{"Bo": 0})); err == nil ||
		!strings.Contains(err.Error(), "say why the decision for "+p.cases["Bo"].Ref+" is changed") {
		t.Errorf("without a reason: %v", err)
	}
	if _, err := p.record("Bo is funded elsewhere", p.choices(map[string]int64{"Bo": 0})); err != nil {
		t.Fatal(err)
	}
	p.after(31 * time.Minute)
	for name, want := range map[string]string{"Ann": "awarded 6000000", "Bo": "not awarded", "Cy": "reserve"} {
		if got := p.told(name); got != want {
			t.Errorf("%s is told %q, want %q", name, got, want)
		}
	}
	if list, _ := p.Tray.List("bo@corvoe.example", 0, 9); len(list) != 2 ||
		strings.Contains(list[0].Subject, "will fund") || strings.Contains(list[0].Body, "takes the place") {
		t.Errorf("Bo has %d mails, the latest %q", len(list), list[0].Subject)
	}
	// the reserve moves up with the money that is free, and no further
	if _, err := p.record("", p.choices(map[string]int64{"Cy": 2_000_001})); err == nil ||
		!strings.Contains(err.Error(), "more than that") {
		t.Errorf("more than was asked: %v", err)
	}
	if _, err := p.record("", p.choices(map[string]int64{"Cy": 2_000_000})); err != nil {
		t.Fatalf("the reserve moves up: %v", err)
	}
	// Ann gets less, told already: the new letter says what it takes the place of
	if _, err := p.record("A cheaper boat was found", p.choices(map[string]int64{"Ann": 3_000_000})); err != nil {
		t.Fatal(err)
	}
	if got := p.told("Ann"); got != "awarded 6000000" {
		t.Errorf("Ann is told %q before the new letter left", got)
	}
	p.after(31 * time.Minute)
	if got := p.told("Ann"); got != "awarded 3000000" {
		t.Errorf("Ann is told %q", got)
	}
	if list, _ := p.Tray.List("ann@corvoe.example", 0, 1); !strings.Contains(list[0].Body,
		"takes the place of the one we sent you on 2 March 2027") {
		t.Errorf("the new letter: %s", list[0].Body)
	}
	// the fund counts the latest decision of each: 30,000 + 20,000 are given
	if _, err := p.record("More was there", p.choices(map[string]int64{"Bo": 5_000_000})); err != nil {
		t.Errorf("what the revision freed cannot be given: %v", err)
	}
	if last, err := p.Decisions.Latest(context.Background(), p.DB, p.cases["Bo"].EntryID); err != nil || last == nil ||
		last.Amount != 5_000_000 || last.Reason != "More was there" || last.Letter != "held" {
		t.Errorf("the case shows %+v, %v", last, err)
	}
}

// A stopped letter is not told either; another decision, and the release of the
// first act, send the second letter alone.
func TestStoppedAndDecidedAnew(t *testing.T) {
	p := sentToRound(t, unread, map[string]string{"Ann": "60,000"})
	first, err := p.record("", p.choices(map[string]int64{"Ann": 6_000_000}))
	if err != nil {
		t.Fatal(err)
	}
	p.Act(p.officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Decisions.StopLetters(ctx, tx, p.round.ID, first)
		return err
	})
	p.after(time.Hour)
	if got := p.told("Ann"); got != "eligible" {
		t.Errorf("with the letter stopped she is told %q", got)
	}
	if _, err := p.record("A conflict of interest", p.choices(map[string]int64{"Ann": 0})); err != nil {
		t.Fatal(err)
	}
	if err := p.Try(p.officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Decisions.ReleaseLetters(ctx, tx, p.round, p.form, first)
		return err
	}); err == nil {
		t.Error("a letter that no longer holds is let go")
	}
	p.after(time.Hour)
	if n := p.mails("will fund"); n != 0 || p.told("Ann") != "not awarded" {
		t.Errorf("%d letters of the first act went, and she is told %q", n, p.told("Ann"))
	}
	acts, err := p.Decisions.Acts(context.Background(), p.DB, p.round.ID)
	if err != nil || len(acts) != 2 || acts[1].Over != 1 || acts[1].Stopped != 0 || acts[1].StoppedAt == nil ||
		acts[0].Sent != 1 || acts[0].Reason != "A conflict of interest" {
		t.Errorf("the acts: %+v, %v", acts, err)
	}
}

// Acts side by side never pass the fund.
func TestActsSideBySideKeepTheFund(t *testing.T) {
	asks := map[string]string{}
	for i := range 6 {
		asks[fmt.Sprintf("Ann%c", 'a'+i)] = "40,000"
	}
	p := sentToRound(t, unread, asks) // a fund of 100,000
	var wg sync.WaitGroup
	errs := make(chan error, len(asks))
	for name := range asks {
		choices := p.choices(map[string]int64{name: 4_000_000})
		wg.Go(func() { _, err := p.record("", choices); errs <- err })
	}
	wg.Wait()
	close(errs)
	done := 0
	for err := range errs {
		if err == nil {
			done++
		} else if !strings.Contains(err.Error(), "more than the fund") {
			t.Error(err)
		}
	}
	var sum int64
	if err := p.DB.Get(&sum, `SELECT sum(amount) FROM decision`); err != nil || done != 2 || sum != 8_000_000 {
		t.Errorf("%d acts gave %d, %v", done, sum, err)
	}
}

// A place, or a prize in kind, is given without a sum where none was asked.
func TestAPlaceWithoutASum(t *testing.T) {
	p := sentToRound(t, func(d *form.Design) {
		unread(d)
		d.Request = ""
		for i := range d.Letters {
			d.Letters[i].Body = "Dear {name},\n\nabout {ref}.\n"
		}
	}, map[string]string{"Ann": "60,000"})
	if _, err := p.record("", p.choices(map[string]int64{"Ann": 0})); err != nil {
		t.Fatal(err)
	}
	place := p.choices(map[string]int64{"Ann": 0})
	place[0].Outcome = lifecycle.Awarded
	if _, err := p.record("There was one left", place); err != nil {
		t.Fatalf("a place: %v", err)
	}
	p.after(time.Hour)
	if got := p.told("Ann"); got != "awarded 0" {
		t.Errorf("she is told %q", got)
	}
}

// An invitation to the next stage is found when its letter has left; it is taken
// back when the decision is revised before anything was begun there.
func TestAnInvitationIsRevised(t *testing.T) {
	p := sentToRound(t, func(d *form.Design) {
		inTwoStages(d)
	}, map[string]string{"Ann": "9000", "Bo": "7000"})
	invite := func(name string, outcome lifecycle.State, reason string) error {
		first, err := p.Cases.FindStage(context.Background(), p.DB, p.cases[name].Ref, "writing")
		if err != nil {
			t.Fatal(err)
		}
		_, err = p.record(reason, []decision.Choice{{EntryID: first.EntryID, Version: first.Version, Outcome: outcome}})
		return err
	}
	for _, name := range []string{"Ann", "Bo"} {
		if err := invite(name, lifecycle.InvitedOn, ""); err != nil {
			t.Fatal(err)
		}
		if c, _ := p.Cases.Find(context.Background(), p.DB, p.cases[name].Ref); c.Stage != "writing" ||
			c.Told == lifecycle.InvitedOn {
			t.Errorf("before the letter %s is in %s, told %s", name, c.Stage, c.Told)
		}
	}
	p.after(time.Hour)
	for _, name := range []string{"Ann", "Bo"} {
		if c, _ := p.Cases.Find(context.Background(), p.DB, p.cases[name].Ref); c.Stage != "plan" ||
			c.State != lifecycle.Invited {
			t.Fatalf("after the letter %s is %s in %s", name, c.State, c.Stage)
		}
	}
	bo, _ := p.Cases.Find(context.Background(), p.DB, p.cases["Bo"].Ref)
	p.Clock.Set(p.form.At("plans-in").Add(-24 * time.Hour))
	p.Act(bo.LeadID, func(ctx context.Context, tx *db.Tx) error { return p.Intake.TakeUp(ctx, tx, bo) })
	if err := invite("Bo", lifecycle.NotAwarded, "A mistake"); err == nil ||
		!strings.Contains(err.Error(), "begun already") {
		t.Errorf("taken back after it was begun: %v", err)
	}
	if err := invite("Ann", lifecycle.NotAwarded, "A mistake"); err != nil {
		t.Fatal(err)
	}
	p.after(time.Hour)
	if got := p.told("Ann"); got != "not awarded" {
		t.Errorf("Ann is told %q", got)
	}
	list, err := p.Desk.Mine(context.Background(), p.cases["Ann"].LeadID)
	if err != nil || len(list) != 1 || list[0].State != lifecycle.NotAwarded || list[0].Stage != "writing" {
		t.Errorf("her list: %+v, %v", list, err)
	}
}

// Not being eligible is told by its letter too.
func TestARefusalIsToldByItsLetter(t *testing.T) {
	p := sentTo(t, map[string]string{"Bo": "?30,000"})
	p.state("Bo")
	p.Act(p.officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Checks.Settle(ctx, tx, p.cases["Bo"], "land", false, "The owner has not agreed.")
	})
	if p.state("Bo") != lifecycle.NotEligible || p.told("Bo") != "complete" {
		t.Errorf("Bo is %s and told %q", p.state("Bo"), p.told("Bo"))
	}
	p.after(time.Hour)
	if got := p.told("Bo"); got != "not eligible" {
		t.Errorf("after the letter Bo is told %q", got)
	}
}

// Many decisions are a job with progress: all of them or none, once.
func TestManyDecisionsAreAJob(t *testing.T) {
	p := sentToRound(t, unread, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "20,000"})
	later := func(choices []decision.Choice) (w work.Work) {
		p.Act(p.officer, func(ctx context.Context, tx *db.Tx) (err error) {
			w.ID, err = p.Decisions.RecordLater(ctx, tx, p.round,
				decision.Sitting{Stage: "writing", Choices: choices, Note: "Panel"})
			return err
		})
		if w, _ = p.Work.Find(context.Background(), p.round.ID, w.ID); w.EndedAt != nil || w.Total != len(choices) {
			t.Errorf("before it ran: %+v", w)
		}
		p.Drain()
		w, err := p.Work.Find(context.Background(), p.round.ID, w.ID)
		if err != nil {
			t.Fatal(err)
		}
		return w
	}
	if w := later(p.choices(map[string]int64{"Ann": 6_000_000, "Bo": 5_000_000})); !w.Failed ||
		!strings.Contains(w.Says, "more than the fund") || p.state("Ann") != lifecycle.Eligible {
		t.Errorf("more than the fund: %+v", w)
	}
	if w := later(p.choices(map[string]int64{"Ann": 6_000_000, "Cy": 0})); w.Failed || w.Done != 2 ||
		w.Percent() != 100 || p.state("Ann") != lifecycle.Awarded || p.state("Cy") != lifecycle.NotAwarded {
		t.Errorf("recorded: %+v, Ann %s", w, p.state("Ann"))
	}
	again := func(context.Context, *db.Tx, round.Round, *form.Form, func(int)) (string, error) {
		t.Error("work that has ended is done again")
		return "", nil
	}
	if err := p.Decisions.Later.Do(context.Background(), p.Clock.Now(),
		round.Long{Work: 2, Round: p.round.ID, By: 1, At: p.Clock.Now()}, again); err != nil {
		t.Error(err)
	}
}
