package decision_test

import (
	"context"
	"errors"
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
	"ulvant/internal/programtest"
	"ulvant/internal/round"
)

// What an applicant sees of a decision changes when its letter leaves; a
// decision is changed with a reason, and a letter that no longer holds is never
// sent; figures and the fund follow.
func TestADecisionIsToldByItsLetterAndRevised(t *testing.T) {
	p := programtest.SentToRound(t, programtest.Unread, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "20,000"})
	if got := p.Told("Ann"); got != "eligible" {
		t.Fatalf("Ann is told %q", got)
	}
	if _, err := p.Records("", p.Choices(map[string]int64{"Ann": 6_000_000, "Bo": 4_000_000, "Cy": -1})); err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string]lifecycle.State{"Ann": lifecycle.Awarded, "Bo": lifecycle.Awarded,
		"Cy": lifecycle.Reserve} {
		if got := p.StateOf(name); got != want {
			t.Errorf("%s is %s", name, got)
		}
		if got := p.Told(name); got != "eligible" {
			t.Errorf("%s is told %q before the letter left", name, got)
		}
	}
	if err := p.Try(p.Of["Cy"].LeadID, func(ctx context.Context,
		tx *db.Tx) error {
		return p.Intake.Withdraw(ctx, tx, p.Of["Cy"])
	}); !errors.Is(err, intake.ErrBeingDecided) {
		t.Errorf("withdrawn before it was told: %v", err)
	}
	// Bo is refused after all, before any letter has left
	if _, err := p.Records(" ", p.Choices(map[string]int64{"Bo": 0})); err == nil ||
		!strings.Contains(err.Error(), "say why the decision for "+p.Of["Bo"].Ref+" is changed") {
		t.Errorf("without a reason: %v", err)
	}
	if _, err := p.Records("Bo is funded elsewhere", p.Choices(map[string]int64{"Bo": 0})); err != nil {
		t.Fatal(err)
	}
	p.After(31 * time.Minute)
	for name, want := range map[string]string{"Ann": "awarded 6000000", "Bo": "not awarded", "Cy": "reserve"} {
		if got := p.Told(name); got != want {
			t.Errorf("%s is told %q, want %q", name, got, want)
		}
	}
	if list, _ := p.Tray.List("bo@corvoe.example", 0, 9); len(list) != 2 ||
		strings.Contains(list[0].Subject, "will fund") || strings.Contains(list[0].Body, "takes the place") {
		t.Errorf("Bo has %d mails, the latest %q", len(list), list[0].Subject)
	}
	// the reserve moves up with the money that is free, and no further
	if _, err := p.Records("", p.Choices(map[string]int64{"Cy": 2_000_001})); err == nil ||
		!strings.Contains(err.Error(), "more than that") {
		t.Errorf("more than was asked: %v", err)
	}
	if _, err := p.Records("", p.Choices(map[string]int64{"Cy": 2_000_000})); err != nil {
		t.Fatalf("the reserve moves up: %v", err)
	}
	// Ann gets less, told already: the new letter says what it takes the place of
	if _, err := p.Records("A cheaper boat was found", p.Choices(map[string]int64{"Ann": 3_000_000})); err != nil {
		t.Fatal(err)
	}
	if got := p.Told("Ann"); got != "awarded 6000000" {
		t.Errorf("Ann is told %q before the new letter left", got)
	}
	p.After(31 * time.Minute)
	if got := p.Told("Ann"); got != "awarded 3000000" {
		t.Errorf("Ann is told %q", got)
	}
	if list, _ := p.Tray.List("ann@corvoe.example", 0, 1); !strings.Contains(list[0].Body,
		"takes the place of the one we sent you on 2 March 2027") {
		t.Errorf("the new letter: %s", list[0].Body)
	}
	// the fund counts the latest decision of each: 30,000 + 20,000 are given
	if _, err := p.Records("More was there", p.Choices(map[string]int64{"Bo": 5_000_000})); err != nil {
		t.Errorf("what the revision freed cannot be given: %v", err)
	}
	if last, err := p.Decisions.Latest(context.Background(), p.DB, p.Of["Bo"].EntryID); err != nil || last == nil ||
		last.Amount != 5_000_000 || last.Reason != "More was there" || last.Letter != "held" {
		t.Errorf("the case shows %+v, %v", last, err)
	}
}

// A stopped letter is not told either; another decision, and the release of the
// first act, send the second letter alone.
func TestStoppedAndDecidedAnew(t *testing.T) {
	p := programtest.SentToRound(t, programtest.Unread, map[string]string{"Ann": "60,000"})
	first, err := p.Records("", p.Choices(map[string]int64{"Ann": 6_000_000}))
	if err != nil {
		t.Fatal(err)
	}
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Decisions.StopLetters(ctx, tx, p.Round.ID, first)
		return err
	})
	p.After(time.Hour)
	if got := p.Told("Ann"); got != "eligible" {
		t.Errorf("with the letter stopped she is told %q", got)
	}
	if _, err := p.Records("A conflict of interest", p.Choices(map[string]int64{"Ann": 0})); err != nil {
		t.Fatal(err)
	}
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Decisions.ReleaseLetters(ctx, tx, p.Round, p.Form, first, time.Time{})
		return err
	}); err == nil {
		t.Error("a letter that no longer holds is let go")
	}
	p.After(time.Hour)
	if n := p.Mails("will fund"); n != 0 || p.Told("Ann") != "not awarded" {
		t.Errorf("%d letters of the first act went, and she is told %q", n, p.Told("Ann"))
	}
	acts, err := p.Decisions.Acts(context.Background(), p.DB, p.Round.ID)
	if err != nil || len(acts) != 2 || acts[1].Over != 1 || acts[1].Stopped != 0 || acts[1].StoppedAt == nil ||
		acts[0].Sent != 1 || acts[0].Reason != "A conflict of interest" {
		t.Errorf("the acts: %+v, %v", acts, err)
	}
}

// Acts side by side never pass the fund.
func TestActsSideBySideKeepTheFund(t *testing.T) {
	asks := map[string]string{}
	for _, name := range []string{"Ann", "Bo", "Cy", "Dee", "Eve", "Fay"} {
		asks[name] = "40,000"
	}
	p := programtest.SentToRound(t, programtest.Unread, asks) // a fund of 100,000
	var wg sync.WaitGroup
	errs := make(chan error, len(asks))
	for name := range asks {
		choices := p.Choices(map[string]int64{name: 4_000_000})
		wg.Go(func() { _, err := p.Records("", choices); errs <- err })
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
	p := programtest.SentToRound(t, func(d *form.Design) {
		programtest.Unread(d)
		d.Request = ""
		for i := range d.Letters {
			d.Letters[i].Body = "Dear {name},\n\nabout {ref}.\n"
		}
	}, map[string]string{"Ann": "60,000"})
	if _, err := p.Records("", p.Choices(map[string]int64{"Ann": 0})); err != nil {
		t.Fatal(err)
	}
	place := p.Choices(map[string]int64{"Ann": 0})
	place[0].Outcome = lifecycle.Awarded
	if _, err := p.Records("There was one left", place); err != nil {
		t.Fatalf("a place: %v", err)
	}
	p.After(time.Hour)
	if got := p.Told("Ann"); got != "awarded 0" {
		t.Errorf("she is told %q", got)
	}
}

// An invitation to the next stage is found when its letter has left; it is taken
// back when the decision is revised before anything was begun there.
func TestAnInvitationIsRevised(t *testing.T) {
	p := programtest.SentToRound(t, func(d *form.Design) {
		programtest.InTwoStages(d)
	}, map[string]string{"Ann": "9000", "Bo": "7000"})
	invite := func(name string, outcome lifecycle.State, reason string) error {
		first, err := p.Cases.FindStage(context.Background(), p.DB, p.Of[name].Ref, "writing")
		if err != nil {
			t.Fatal(err)
		}
		_, err = p.Records(reason, []decision.Choice{{EntryID: first.EntryID, Version: first.Version, Outcome: outcome}})
		return err
	}
	for _, name := range []string{"Ann", "Bo"} {
		if err := invite(name, lifecycle.InvitedOn, ""); err != nil {
			t.Fatal(err)
		}
		if c, _ := p.Cases.Find(context.Background(), p.DB, p.Of[name].Ref); c.Stage != "writing" ||
			c.Told == lifecycle.InvitedOn {
			t.Errorf("before the letter %s is in %s, told %s", name, c.Stage, c.Told)
		}
	}
	p.After(time.Hour)
	for _, name := range []string{"Ann", "Bo"} {
		if c, _ := p.Cases.Find(context.Background(), p.DB, p.Of[name].Ref); c.Stage != "plan" ||
			c.State != lifecycle.Invited {
			t.Fatalf("after the letter %s is %s in %s", name, c.State, c.Stage)
		}
	}
	bo, _ := p.Cases.Find(context.Background(), p.DB, p.Of["Bo"].Ref)
	p.Clock.Set(p.Form.At("plans-in").Add(-24 * time.Hour))
	p.Act(bo.LeadID, func(ctx context.Context, tx *db.Tx) error { return p.Intake.TakeUp(ctx, tx, bo) })
	if err := invite("Bo", lifecycle.NotAwarded, "A mistake"); err == nil ||
		!strings.Contains(err.Error(), "begun already") {
		t.Errorf("taken back after it was begun: %v", err)
	}
	if err := invite("Ann", lifecycle.NotAwarded, "A mistake"); err != nil {
		t.Fatal(err)
	}
	p.After(time.Hour)
	if got := p.Told("Ann"); got != "not awarded" {
		t.Errorf("Ann is told %q", got)
	}
	list, err := p.Desk.Mine(context.Background(), p.Of["Ann"].LeadID)
	if err != nil || len(list) != 1 || list[0].State != lifecycle.NotAwarded || list[0].Stage != "writing" {
		t.Errorf("her list: %+v, %v", list, err)
	}
}

// Not being eligible is told by its letter too.
func TestARefusalIsToldByItsLetter(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Bo": "?30,000"})
	p.StateOf("Bo")
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Checks.Settle(ctx, tx, p.Of["Bo"], "land", false, "The owner has not agreed.")
	})
	if p.StateOf("Bo") != lifecycle.NotEligible || p.Told("Bo") != "complete" {
		t.Errorf("Bo is %s and told %q", p.StateOf("Bo"), p.Told("Bo"))
	}
	p.After(time.Hour)
	if got := p.Told("Bo"); got != "not eligible" {
		t.Errorf("after the letter Bo is told %q", got)
	}
}

// Many decisions are a job with progress: all of them or none, once.
func TestManyDecisionsAreAJob(t *testing.T) {
	p := programtest.SentToRound(t, programtest.Unread, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "20,000"})
	later := func(choices []decision.Choice) (w work.Work) {
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
			w.ID, err = p.Decisions.RecordLater(ctx, tx, p.Round,
				decision.Sitting{Stage: "writing", Choices: choices, Note: "Panel"})
			return err
		})
		if w, _ = p.Work.Find(context.Background(), p.Round.ID, w.ID); w.EndedAt != nil || w.Total != len(choices) {
			t.Errorf("before it ran: %+v", w)
		}
		p.Drain()
		w, err := p.Work.Find(context.Background(), p.Round.ID, w.ID)
		if err != nil {
			t.Fatal(err)
		}
		return w
	}
	if w := later(p.Choices(map[string]int64{"Ann": 6_000_000, "Bo": 5_000_000})); !w.Failed ||
		!strings.Contains(w.Says, "more than the fund") || p.StateOf("Ann") != lifecycle.Eligible {
		t.Errorf("more than the fund: %+v", w)
	}
	if w := later(p.Choices(map[string]int64{"Ann": 6_000_000, "Cy": 0})); w.Failed || w.Done != 2 ||
		w.Percent() != 100 || p.StateOf("Ann") != lifecycle.Awarded || p.StateOf("Cy") != lifecycle.NotAwarded {
		t.Errorf("recorded: %+v, Ann %s", w, p.StateOf("Ann"))
	}
	again := func(context.Context, *db.Tx, round.Round, *form.Form, func(int)) (string, error) {
		t.Error("work that has ended is done again")
		return "", nil
	}
	if err := p.Decisions.Later.Do(context.Background(), p.Clock.Now(),
		round.Long{Work: 2, Round: p.Round.ID, By: 1, At: p.Clock.Now()}, again); err != nil {
		t.Error(err)
	}
}
