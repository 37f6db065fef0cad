package reading_test

import (
	"context"
	"errors"
	"math/rand/v2"
	"strings"
	"testing"

	"ulvant/core/calibrate"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reading"
)

// A case of another round is marked for practice: the office's marks are seen after one's
// own, cases are given to those alone who have marked it where the design wants that, and
// what they got already stays.
func TestTheSampleCase(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, func(d *form.Design) { programtest.Short(d); d.TrainFirst = true },
		map[string]string{"Ann": "5,000", "Bo": "6,000"})
	earlier := p.OpenRound(p.Officer, func(d *form.Design) {
		programtest.Short(d)
		d.Key, d.Name, d.Prefix = "earlier-2027", "Earlier", "EAR"
	})
	lead := p.Person("dee@corvoe.example", "Dee Hart")
	var ref string
	p.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := p.Intake.Start(ctx, tx, "earlier-2027", "Old groynes", nil)
		if err != nil {
			return err
		}
		if _, _, err := p.Intake.Save(ctx, tx, c, programtest.WholeShort("7,000")); err != nil {
			return err
		}
		c, err = p.Intake.Send(ctx, tx, c)
		ref = c.Ref
		return err
	})
	if earlier == p.Round.ID {
		t.Fatal("one round")
	}
	p.OpenRound(p.Officer, func(d *form.Design) {
		programtest.Short(d)
		d.Key, d.Name, d.Prefix, d.Programme = "other-2027", "Other", "OTH", "Another programme"
	})
	var other string
	p.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := p.Intake.Start(ctx, tx, "other-2027", "Old walls", nil)
		other = c.Ref
		if err != nil {
			return err
		}
		if _, _, err := p.Intake.Save(ctx, tx, c, programtest.WholeShort("7,000")); err != nil {
			return err
		}
		_, err = p.Intake.Send(ctx, tx, c)
		return err
	})
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk", "Sami Holt")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	marks := map[form.Key]reading.SampleMark{}
	mine := map[form.Key]int{}
	for i, c := range p.Form.Design.Judged("") {
		marks[c.Key] = reading.SampleMark{Value: 3, Why: "It is measured."}
		mine[c.Key] = 3 - min(i, 2)
	}
	set := func(ref string, marks map[form.Key]reading.SampleMark) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.SetSample(ctx, tx, p.Round, p.Form, ref, "Read it as if it was new.", marks)
		})
	}
	tries := func(account int64, marks map[form.Key]int) error {
		return p.Try(account, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.TrySample(ctx, tx, p.Round, p.Form, marks)
		})
	}
	if err := tries(readers[0], mine); !errors.Is(err, reading.ErrNoSample) {
		t.Errorf("before there is one: %v", err)
	}
	if _, err := p.HandsOut(); err == nil || !strings.Contains(err.Error(), "sample case first") {
		t.Errorf("handed out without a sample: %v", err)
	}
	for says, err := range map[string]error{
		"of another programme": set(other, marks),
		"one of this round":    set(p.Of["Ann"].Ref, marks), "no such number": set("XXX-1", marks),
		"not all marks": set(ref, nil),
	} {
		if err == nil {
			t.Error(says)
		}
	}
	if err := set(ref, marks); err != nil {
		t.Fatal(err)
	}
	if _, err := p.HandsOut(); err == nil || !strings.Contains(err.Error(), "nobody has marked") {
		t.Errorf("handed out to nobody: %v", err)
	}
	if tries(readers[0], map[form.Key]int{}) == nil || !errors.Is(tries(lead.ID, mine), reading.ErrNoSample) {
		t.Error("it is marked by half, or by somebody who does not read")
	}
	for _, account := range readers[:2] {
		if err := tries(account, mine); err != nil {
			t.Fatal(err)
		}
	}
	again := map[form.Key]int{} // what is said when the office's marks are known counts no more
	for k := range mine {
		again[k] = 3
	}
	if err := tries(readers[0], again); err != nil {
		t.Fatal(err)
	}
	done, err := p.Reading.TrainedIn(t.Context(), p.DB, p.Round.ID)
	if err != nil || len(done) != 2 {
		t.Fatalf("%d, %v", len(done), err)
	}
	x, err := p.Reading.SampleOf(t.Context(), p.DB, p.Round.ID)
	if err != nil || x.Title != "Old groynes" {
		t.Fatalf("%+v, %v", x, err)
	}
	n := len(mine)
	if same, far, of := x.Apart(done[readers[0]].Marks); same != 1 || of != n || far != max(0, n-2) {
		t.Errorf("%d the same, %d far, of %d", same, far, of)
	}
	if list, err := p.Reading.SamplesFor(t.Context(), p.DB, readers[2]); err != nil || len(list) != 1 {
		t.Errorf("what waits for the third: %d, %v", len(list), err)
	}
	if list, err := p.Reading.SamplesFor(t.Context(), p.DB, readers[0]); err != nil || len(list) != 0 {
		t.Errorf("what waits for the first: %d, %v", len(list), err)
	}
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	for name := range p.Of {
		given, err := p.Reading.Of(t.Context(), p.DB, p.Of[name].EntryID)
		if err != nil || len(given) != 2 {
			t.Fatalf("%s: %d, %v", name, len(given), err)
		}
		for _, g := range given {
			if g.AccountID == readers[2] {
				t.Errorf("%s goes to somebody who has not marked the sample", name)
			}
		}
	}
}

// Where the round wants it, some cases have one reader more as a control, drawn by lot.
func TestControls(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, func(d *form.Design) { programtest.Short(d); d.Control = 100 },
		map[string]string{"Ann": "5,000", "Bo": "6,000"})
	p.InviteReaders("Oriel Vane", "Teodora Brisk", "Sami Holt", "Gwyn Arkwright")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	for name := range p.Of {
		given, err := p.Reading.Of(t.Context(), p.DB, p.Of[name].EntryID)
		if err != nil || len(given) != p.Form.Design.ReadersEach+1 {
			t.Fatalf("%s: %d, %v", name, len(given), err)
		}
		for i, g := range given {
			p.MarksAs(name, g.AccountID)
			if s := p.StateOf(name); (s == lifecycle.Read) != (i == len(given)-1) {
				t.Errorf("%s is %s after %d marks", name, s, i+1)
			}
		}
	}
	draw := rand.New(rand.NewPCG(1, 2))
	s, err := p.Decisions.Scale(t.Context(), p.DB, p.Round, p.Form, "writing", draw)
	if err != nil && !errors.Is(err, calibrate.ErrTooFew) || err == nil && s.Controls != len(p.Of) {
		t.Errorf("%d controls, %v", s.Controls, err)
	}
}
