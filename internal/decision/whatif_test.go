package decision_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/whatif"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// readInStreams is a short round in two streams, the second with 12,000 of its own of
// a fund of 30,000; four applied, and two readers gave each the same mark.
func readInStreams(t *testing.T) *programtest.Panel {
	p := programtest.SentToRound(t, func(d *form.Design) {
		programtest.Short(d)
		d.Fund = 30_000_00
		d.Streams = []form.Stream{{Key: "old", Label: "Old"}, {Key: "new", Label: "New", Fund: 12_000_00}}
		d.Sections[0].Questions = append(d.Sections[0].Questions, form.Question{Key: "which", Kind: form.StreamPick,
			Label: "Stream", Nature: form.Chosen,
			Blank: form.MeansUnknown, Seen: form.ToReaders})
	}, map[string]string{"Ann": "9,000", "Bo": "10,000", "Cy": "8,000", "Dee": "5,000"})
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	for name := range p.Of {
		for _, a := range readers {
			p.MarksAs(name, a)
		}
	}
	inOrder(p, "Ann", "Bo", "Cy", "Dee")
	for name, stream := range map[string]string{"Ann": "old", "Bo": "old", "Cy": "new", "Dee": "new"} {
		if _, err := p.DB.ExecContext(t.Context(),
			`UPDATE known SET facts = facts || jsonb_build_object('q.which', $2::text) WHERE entry_id = $1`,
			p.Of[name].EntryID, stream); err != nil {
			t.Fatal(err)
		}
	}
	return p
}

// inOrder has cases marked so that they stand in an order.
func inOrder(p *programtest.Panel, names ...string) {
	p.T.Helper()
	for i, name := range names {
		if _, err := p.DB.ExecContext(p.T.Context(), `UPDATE mark SET value = $2 WHERE entry_id = $1`, p.Of[name].EntryID,
			5-i); err != nil {
			p.T.Fatal(err)
		}
	}
}

func tries(p *programtest.Panel, x decision.Tried) map[string]int64 {
	p.T.Helper()
	trial, err := p.Decisions.Try(p.T.Context(), p.DB, p.Round, p.Form, "writing", x)
	if err != nil {
		p.T.Fatal(err)
	}
	out := map[string]int64{}
	for i, row := range trial.Table.Rows {
		out[strings.Fields(strings.ReplaceAll(row.Title, "’", " "))[0]] = trial.Result.Gives[i]
	}
	return out
}

// A what-if is tried, kept, changed, compared by its figures, adopted and recorded.
// Each stream ends where its own money ends.
func TestWhatIfs(t *testing.T) {
	t.Parallel()
	p := readInStreams(t)
	// 18,000 for Old: Ann 9,000, and Bo’s 10,000 do not fit; 12,000 for New: Cy 8,000, and Dee’s 5,000 do not
	if got := tries(p, decision.AsItIs()); got["Ann"] != 9_000_00 || got["Bo"] != 0 || got["Cy"] != 8_000_00 ||
		got["Dee"] != 0 {
		t.Errorf("as it is: %v", got)
	}
	part := decision.Tried{Part: true, Down: 80, Reserves: 1}
	if got := tries(p, part); got["Bo"] != 9_000_00 || got["Dee"] != 4_000_00 {
		t.Errorf("in parts down to 80%%: %v", got)
	}
	if got := tries(p, decision.Tried{Part: true, Down: 81}); got["Bo"] != 9_000_00 || got["Dee"] != 0 {
		t.Errorf("in parts down to 81%%: %v", got)
	}
	if got := tries(p, decision.Tried{Cut: 10, Down: 50}); got["Ann"] != 8_100_00 || got["Bo"] != 9_000_00 ||
		got["Cy"] != 7_200_00 || got["Dee"] != 4_500_00 {
		t.Errorf("a tenth less for everybody: %v", got)
	}
	one := 1
	quota := decision.Tried{Quotas: []decision.TriedQuota{{Field: "which", Value: "old", Most: new(0)},
		{Field: "which", Value: "new", Money: true, Least: 10, Most: &one}}}
	if err := quota.Fault(p.Form); err == nil {
		t.Error("a quota whose least is above its most")
	}
	quota.Quotas = quota.Quotas[:1]
	if got := tries(p, quota); got["Ann"] != 0 || got["Bo"] != 0 || got["Cy"] != 8_000_00 {
		t.Errorf("none of the old: %v", got)
	}
	held := decision.Tried{Reserves: 1, Held: map[int64]decision.TriedHeld{p.Of["Ann"].EntryID: {How: decision.HoldNo},
		p.Of["Dee"].EntryID: {How: decision.HoldGive, Sum: 4_000_00}, p.Of["Cy"].EntryID: {How: decision.HoldReserve}}}
	if got := tries(p, held); got["Ann"] != 0 || got["Bo"] != 10_000_00 || got["Dee"] != 4_000_00 || got["Cy"] != 0 {
		t.Errorf("by hand: %v", got)
	}
	keep := func(id int64, version int, name string, x decision.Tried) (int64, error) {
		err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
			id, err = p.Decisions.KeepWhatIf(ctx, tx, p.Round, p.Form, "writing", id, version, name, x)
			return err
		})
		return id, err
	}
	id, err := keep(0, 0, "In parts", part)
	if err != nil {
		t.Fatal(err)
	}
	if again, err := keep(0, 0, "In parts", part); err != nil || again != id {
		t.Errorf("the button is pressed twice: %d, %v", again, err)
	}
	if _, err := keep(0, 0, "In parts", decision.Tried{Past: true}); err == nil {
		t.Error("two what-ifs of one name")
	}
	if _, err := keep(0, 0, " In parts ", held); err == nil {
		t.Error("two of one name")
	}
	if _, err := keep(0, 0, " ", held); err == nil {
		t.Error("without a name")
	}
	if no, ok := refusal.Of(func() error { _, err := keep(0, 0, "Wrong", decision.Tried{Cut: 91}); return err }()); !ok ||
		no.Field != "cut" {
		t.Errorf("a cut of 91%%: %v", no)
	}
	if _, err := keep(id, 1, "In parts", part); err != nil {
		t.Error(err)
	}
	if _, err := keep(id, 1, "In parts", part); err == nil {
		t.Error("changed in two windows")
	}
	list, err := p.Decisions.WhatIfs(t.Context(), p.DB, p.Round.ID, "writing")
	if err != nil || len(list) != 1 || !list[0].Tried.Part || list[0].Tried.Down != 80 || list[0].By != "Neda Sparrow" ||
		list[0].Adopted != nil {
		t.Fatalf("%+v, %v", list, err)
	}
	// more than a stream has of its own is not recorded, though the round has it
	if _, err := p.Records("", p.Choices(map[string]int64{"Cy": 8_000_00, "Dee": 5_000_00})); err == nil ||
		!strings.Contains(err.Error(), "“New”") {
		t.Errorf("13,000 from a stream of 12,000: %v", err)
	}
	n := 0
	adopt := func(id int64) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
			n, err = p.Decisions.Adopt(ctx, tx, p.Round, p.Form, "writing", id)
			return err
		})
	}
	if err := adopt(id + 1); !errors.Is(err, decision.ErrNoWhatIf) {
		t.Errorf("one that is not there: %v", err)
	}
	if err := adopt(id); err != nil || n != 4 {
		t.Fatalf("%d adopted, %v", n, err)
	}
	table, err := p.Decisions.Order(t.Context(), p.DB, p.Round, p.Form, "writing")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := p.Records("", table.Chosen()); err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string]lifecycle.State{"Ann": lifecycle.Awarded, "Bo": lifecycle.Awarded,
		"Cy": lifecycle.Awarded, "Dee": lifecycle.Awarded} {
		if got := p.StateOf(name); got != want {
			t.Errorf("%s is %s", name, got)
		}
	}
	// what is recorded stays, whatever is tried
	if got := tries(p, held); got["Ann"] != 9_000_00 || got["Bo"] != 9_000_00 {
		t.Errorf("after recording: %v", got)
	}
	p.Held(p.Officer, func(ctx context.Context, tx *db.Tx) error { return p.Decisions.DropWhatIf(ctx, tx, p.Round, id) })
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Decisions.DropWhatIf(ctx, tx,
			p.Round, id)
	}); !errors.Is(err, decision.ErrNoWhatIf) {
		t.Errorf("gone twice: %v", err)
	}
}

// What the order costs: the best set beside it, and the cases in and out.
func TestWhatTheOrderCosts(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRound(t, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "50,000"})
	inOrder(p, "Ann", "Bo", "Cy")
	trial, err := p.Decisions.Try(t.Context(), p.DB, p.Round, p.Form, "writing", decision.AsItIs())
	if err != nil {
		t.Fatal(err)
	}
	best := trial.Best()
	if !best.Proved || best.Worth != 700 || trial.Result.Worth != 500 {
		t.Errorf("the order is worth %d, the best %d (%v)", trial.Result.Worth, best.Worth, best.Proved)
	}
	d := whatif.Compare(trial.Result, &whatif.Result{Gives: best.Gives})
	if len(d) != 3 || slices.ContainsFunc(d, func(x whatif.Differs) bool { return x.A > 0 && x.B > 0 }) {
		t.Errorf("%+v", d)
	}
}
