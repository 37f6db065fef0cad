package decision_test

import (
	"context"
	"testing"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// Between meetings two decide: what one proposes is recorded when another agrees, and
// never by the same person; either can drop it.
func TestBetweenMeetings(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRound(t, map[string]string{"Ann": "60,000", "Bo": "50,000"})
	chair := p.Person("lucian@panel.example", "Lucian Abernathy").ID
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.People.GiveRole(ctx, tx, chair, access.Held{Role: access.Chairs})
	})
	propose := func(ref string, outcome lifecycle.State, sum int64, why string) error {
		return p.Try(chair, func(ctx context.Context, tx *db.Tx) error {
			return p.Decisions.Propose(ctx, tx, p.Round, p.Form, "writing", ref, outcome, sum, why)
		})
	}
	ann := p.Of["Ann"].Ref
	for _, c := range []struct {
		ref     string
		outcome lifecycle.State
		why     string
	}{{ann, lifecycle.Awarded, " "}, {"SPR-9999-X", lifecycle.Awarded, "x"}, {ann, lifecycle.Draft, "x"}, {ann, "", "x"}} {
		if propose(c.ref, c.outcome, 1, c.why) == nil {
			t.Errorf("%+v is proposed", c)
		}
	}
	if err := propose(ann, lifecycle.Awarded, 60_000_00, "the boat sails on Friday"); err != nil {
		t.Fatal(err)
	}
	if propose(ann, lifecycle.NotAwarded, 0, "x") == nil {
		t.Error("two proposals for one case")
	}
	open := func() (ids []int64) {
		list, err := p.Decisions.Betweens(t.Context(), p.DB, p.Round.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, b := range list {
			ids = append(ids, b.ID)
		}
		return ids
	}
	settle := func(by, id int64, agrees bool) error {
		return p.Try(by, func(ctx context.Context, tx *db.Tx) error {
			return p.Decisions.Settle(ctx, tx, p.Round, p.Form, id, agrees)
		})
	}
	first := open()[0]
	if settle(chair, first, true) == nil || p.StateOf("Ann") != lifecycle.Read {
		t.Error("one person decides alone")
	}
	if err := settle(p.Officer, first, true); err != nil || p.StateOf("Ann") != lifecycle.Awarded || len(open()) != 0 {
		t.Fatalf("%v, %s", err, p.StateOf("Ann"))
	}
	acts, err := p.Decisions.Acts(t.Context(), p.DB, p.Round.ID)
	if err != nil || acts[0].Note != "Between meetings, Lucian Abernathy and Neda Sparrow" ||
		acts[0].Reason != "the boat sails on Friday" {
		t.Errorf("%+v, %v", acts, err)
	}
	if settle(p.Officer, first, false) == nil {
		t.Error("settled twice")
	}
	for _, by := range []int64{chair, p.Officer} { // taken back, refused
		if err := propose(p.Of["Bo"].Ref, lifecycle.Reserve, 0, "we wait for the survey"); err != nil {
			t.Fatal(err)
		}
		if err := settle(by, open()[0], false); err != nil || p.StateOf("Bo") != lifecycle.Read {
			t.Errorf("%v, %s", err, p.StateOf("Bo"))
		}
	}
	if propose(ann, lifecycle.InvitedOn, 0, "x") == nil {
		t.Error("invited on from an award of the last stage")
	}
}
