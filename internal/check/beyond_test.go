package check_test

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	core "ulvant/core/profile"
	"ulvant/internal/check"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/profile"
	"ulvant/internal/programtest"
)

// proposing is the short design with keywords from a list that takes proposals.
func proposing(d *form.Design) {
	programtest.Short(d)
	d.Lists = append(d.Lists, form.List{Key: "fields", Label: "Fields", Items: []form.Item{{Code: "peat", Label: "Peat"}}})
	d.Sections[0].Questions = append(d.Sections[0].Questions, form.Question{Key: "words", Kind: form.Keywords,
		Label:  "Keywords",
		Nature: form.Chosen, Blank: form.MeansNo, Seen: form.ToReaders, List: "fields", Proposals: true})
}

func sends(p *programtest.Panel, name string, edits ...intake.Edit) {
	lead := p.Person(strings.ToLower(name)+"@"+strings.ToLower(name)+".example", name+" Hart")
	p.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := p.Intake.Start(ctx, tx, "shore-2027", name+"’s work", nil)
		if err != nil {
			return err
		}
		if _, _, err = p.Intake.Save(ctx, tx, c, append(programtest.WholeShort("5,000"), edits...)); err != nil {
			return err
		}
		p.Of[name], err = p.Intake.Send(ctx, tx, c)
		return err
	})
	p.Drain()
}

// What is proposed for a list waits; taken, it stands in the list for everybody and
// every case that proposes it goes on; once, for that case alone; refused, with a
// reason, for all.
func TestProposalsToAList(t *testing.T) {
	p := programtest.SentToRound(t, proposing, nil)
	sends(p, "Ann", programtest.Edit("words", "peat\nnew: Salt marsh"))
	sends(p, "Bo", programtest.Edit("words", "new: salt  Marsh"))
	sends(p, "Cy", programtest.Edit("words", "new: Kites"))
	list, err := p.Checks.Proposals(t.Context(), p.DB, p.Round.ID, 10)
	if err != nil || len(list) != 3 || p.StateOf("Ann") != lifecycle.Complete {
		t.Fatalf("%+v, %v, %s", list, err, p.StateOf("Ann"))
	}
	of := map[string]check.Proposal{}
	for _, x := range list {
		of[x.Title] = x
	}
	if of["Ann’s work"].Others != 1 || of["Cy’s work"].Others != 0 {
		t.Errorf("others: %+v", of)
	}
	rule := func(name string, r check.Ruling, reason string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Checks.RuleProposal(ctx, tx, p.Round.ID, of[name+"’s work"].ID, r, reason)
		})
	}
	if err := rule("Cy", check.Refused, ""); err == nil {
		t.Error("refused without a reason")
	}
	if err := rule("Cy", check.Refused, "We do not fund kites."); err != nil || p.StateOf("Cy") != lifecycle.Eligible {
		t.Errorf("refused: %v, %s", err, p.StateOf("Cy"))
	}
	if err := rule("Ann", check.Taken, ""); err != nil || p.StateOf("Ann") != lifecycle.Eligible ||
		p.StateOf("Bo") != lifecycle.Eligible {
		t.Fatalf("taken: %v, %s, %s", err, p.StateOf("Ann"), p.StateOf("Bo"))
	}
	r, err := p.Rounds.ByID(t.Context(), p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	f, err := p.Rounds.Published(t.Context(), p.DB, r)
	if err != nil {
		t.Fatal(err)
	}
	if it, ok := f.Called("fields", "SALT-MARSH"); !ok || it.Code != "salt-marsh" || *r.DesignID == *p.Round.DesignID {
		t.Errorf("the list: %+v %v", it, ok)
	}
	if w, _, err := p.Rounds.Working(r); err != nil {
		t.Error(err)
	} else if _, ok := w.Called("fields", "Salt marsh"); !ok {
		t.Error("the design that is worked on lacks it")
	}
	if err := rule("Ann", check.Refused, "After all not."); err == nil {
		t.Error("what others may have picked is taken away")
	}
	// handed back and sent without it, nothing waits for a ruling any more
	sends(p, "Eve", programtest.Edit("words", "new: Rope"))
	lead := p.Of["Eve"]
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Cases.Ask(ctx, tx, lead, "Which of ours is it?", []form.Key{"words"}, 5)
		return err
	})
	p.Act(lead.LeadID, func(ctx context.Context, tx *db.Tx) error {
		picked := programtest.Edit("words", "peat")
		picked.Version, picked.EditID = 1, "picked"
		if _, _, err := p.Intake.Save(ctx, tx, lead, []intake.Edit{picked}); err != nil {
			return err
		}
		_, err := p.Intake.SendBack(ctx, tx, lead, "Peat.")
		return err
	})
	p.Drain()
	if again, err := p.Checks.ProposalsOf(t.Context(), p.DB, lead.EntryID); err != nil || len(again) != 0 ||
		p.StateOf("Eve") != lifecycle.Eligible {
		t.Errorf("%+v, %v, %s", again, err, p.StateOf("Eve"))
	}
	// it is no proposal any more, and what was refused is refused at once
	sends(p, "Dee", programtest.Edit("words", "new: Salt marsh\nnew: kites"))
	left, err := p.Checks.ProposalsOf(t.Context(), p.DB, p.Of["Dee"].EntryID)
	if err != nil || len(left) != 1 || left[0].Ruling != check.Refused || p.StateOf("Dee") != lifecycle.Eligible {
		t.Errorf("%+v, %v, %s", left, err, p.StateOf("Dee"))
	}
}

// A rule that changes: what it would do to each case is said, what a person settled
// stands where it comes out as before, and an eligible case that fails now is looked
// at by a person.
func TestRulesWorkedAnew(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "20,000", "Bo": "?30,000"})
	p.Held(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Checks.Settle(ctx, tx, p.Of["Bo"], "land", true, "Seen.")
	})
	change := func(ops ...design.Op) {
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			if _, err := p.Rounds.Edit(ctx, tx, p.Round.ID, "", ops); err != nil {
				return err
			}
			_, _, err := p.Rounds.Publish(ctx, tx, p.Round.ID)
			return err
		})
		var err error
		if p.Round, err = p.Rounds.ByID(t.Context(), p.DB, p.Round.ID); err != nil {
			t.Fatal(err)
		}
		if p.Form, err = p.Rounds.Published(t.Context(), p.DB, p.Round); err != nil {
			t.Fatal(err)
		}
	}
	outdated := func() int {
		list, err := p.Checks.Outdated(t.Context(), p.DB, p.Round, p.Form)
		if err != nil {
			t.Fatal(err)
		}
		return len(list)
	}
	rework := func(name string) (says string, err error) {
		err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
			says, _, err = p.Checks.Rework(ctx, tx, p.Of[name])
			return err
		})
		return says, err
	}
	p.Clock.Set(p.Form.Window().Closes.Add(-time.Hour))
	change(design.Op{Do: design.Set, Path: "about", Value: []byte(`"Another text."`)})
	if n := outdated(); n != 0 {
		t.Errorf("no rule has changed: %d", n)
	}
	most := form.Rule{Key: "small", Label: "Small enough", Holds: condition.Cond{Test: &condition.Test{
		Of: condition.Ref{Answer: "request"}, Rel: condition.AtMost,
		Value: &condition.Value{Number: &condition.Number{Num: 2_500_000, Den: 1}}}},
		Yes: "It is.", No: "It asks for too much.", Look: "Somebody will look."}
	change(design.Op{Do: design.Add, Path: "rules", Value: mustJSON(t, most)})
	if n := outdated(); n != 2 {
		t.Errorf("%d are outdated", n)
	}
	says, err := rework("Bo")
	if err != nil || !strings.Contains(says, "“Small enough” was not asked and is not met") ||
		p.StateOf("Bo") != lifecycle.Complete {
		t.Errorf("%q, %v, %s", says, err, p.StateOf("Bo"))
	}
	found := reasons(t, p, "Bo")
	if found["land"].Settled == nil || found["small"].Outcome != form.Fails {
		t.Errorf("%+v", found)
	}
	if says, err = rework("Ann"); err != nil || !strings.Contains(says, "is met; it stays eligible") ||
		p.StateOf("Ann") != lifecycle.Eligible {
		t.Errorf("%q, %v, %s", says, err, p.StateOf("Ann"))
	}
	if _, err = rework("Ann"); err == nil || outdated() != 0 {
		t.Errorf("a second time: %v, %d", err, outdated())
	}
	// a rule for which nothing changes is worked all the same: nobody is asked about it again
	change(design.Op{Do: design.Set, Path: "rules/small/no", Value: []byte(`"Ask for less."`)})
	if n := outdated(); n != 2 {
		t.Errorf("%d are outdated by words", n)
	}
	if says, err = rework("Ann"); err != nil || says != "nothing changes for it" || outdated() != 1 {
		t.Errorf("%q, %v, %d", says, err, outdated())
	}
	// the rule is taken out again: what it held up goes on
	change(design.Op{Do: design.Remove, Path: "rules/small"})
	if says, err = rework("Bo"); err != nil || p.StateOf("Bo") != lifecycle.Eligible ||
		!strings.Contains(says, "is not asked") {
		t.Errorf("%q, %v, %s", says, err, p.StateOf("Bo"))
	}
}

// asked is a register that says what it is told to.
type asked struct {
	entry profile.Entry
	err   error
}

func (a *asked) Entry(context.Context, string, string) (profile.Entry, error) { return a.entry, a.err }

// A register is asked about the body of a case, again while it does not answer, and
// again at the offer; what it says otherwise then waits for a person.
func TestARegisterThatChangesItsMind(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "20,000"})
	c := p.Of["Ann"]
	register := &asked{err: errors.New("silent")}
	p.Profiles.Asks = register
	p.Crowd(`INSERT INTO profile (kind, name, state, made_at, facts_at, facts) VALUES ('organisation', 'Corvoe Common', 'known', now(), now(), '{}')`)
	p.Crowd(`INSERT INTO profile_number (profile_id, scheme, value, finding, register) SELECT id, 'gb-coh', '00445790', 'found', '' FROM profile WHERE name = 'Corvoe Common'`)
	p.Crowd(`UPDATE application SET profile_id = (SELECT id FROM profile WHERE name = 'Corvoe Common') WHERE id = $1`,
		c.ID)
	p.Crowd(`UPDATE entry SET state = 'sent' WHERE id = $1`, c.EntryID)
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.Jobs.Enqueue(ctx, tx, intake.Sent{Entry: c.EntryID}, tx.At)
	})
	p.Drain()
	if f := reasons(t, p, "Ann")[form.RegisterRule]; f.Outcome != form.Person ||
		!strings.Contains(f.Reason, "does not answer") {
		t.Fatalf("silent: %+v", f)
	}
	sweep := func(after time.Duration) {
		p.After(after)
		if err := p.Checks.SweepRegisters(t.Context(), p.Clock.Now()); err != nil {
			t.Fatal(err)
		}
		p.Drain()
	}
	register.err, register.entry = nil, profile.Entry{Name: "Corvoe Common"}
	sweep(time.Minute)
	if f := reasons(t, p, "Ann")[form.RegisterRule]; f.Outcome != form.Person {
		t.Errorf("asked again at once: %+v", f)
	}
	sweep(30 * time.Minute)
	if f := reasons(t, p, "Ann")[form.RegisterRule]; f.Outcome != form.Holds || p.StateOf("Ann") != lifecycle.Eligible {
		t.Errorf("found: %+v, %s", f, p.StateOf("Ann"))
	}
	// awarded, and struck off meanwhile
	register.entry.Struck = true
	p.Crowd(`UPDATE entry SET state = 'awarded', state_at = '` + p.Clock.Now().Format(time.RFC3339) +
		`' WHERE state = 'eligible'`)
	sweep(time.Minute)
	turned, err := p.Checks.TurnedRegisters(t.Context(), p.DB)
	if err != nil || len(turned) != 1 || turned[0].Ref != c.Ref {
		t.Fatalf("%+v, %v", turned, err)
	}
	list, err := p.Checks.Registers(t.Context(), p.DB, c.EntryID)
	if err != nil || len(list) != 3 || list[2].Finding != core.StruckOff || !list[2].Offer {
		t.Errorf("%+v, %v", list, err)
	}
	sweep(time.Minute)
	if again, _ := p.Checks.Registers(t.Context(), p.DB, c.EntryID); len(again) != 3 ||
		!again[2].AskedAt.Equal(list[2].AskedAt) {
		t.Errorf("asked once for an award: %+v", again)
	}
	see := func(note string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error { return p.Checks.SeeRegisters(ctx, tx, c, note) })
	}
	if err := see(""); !errors.Is(err, check.ErrNote) {
		t.Errorf("without a note: %v", err)
	}
	if err := see("They merged; the new number is asked for."); err != nil {
		t.Fatal(err)
	}
	if turned, _ = p.Checks.TurnedRegisters(t.Context(), p.DB); len(turned) != 0 {
		t.Errorf("%+v", turned)
	}
}

func mustJSON(t *testing.T, v any) []byte {
	t.Helper()
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}
