package intake_test

import (
	"context"
	"testing"

	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// Whoever leaves takes their drafts along, and nothing that was sent; who works at the
// office, or has cases left to mark, is told what comes first.
func TestLeaving(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "9,000"})
	ann := p.Of["Ann"].LeadID
	draft := p.Draft("ann@corvoe.example")
	p.Act(ann, func(ctx context.Context, tx *db.Tx) error {
		_, _, err := p.Intake.Save(ctx, tx, draft, programtest.WholeShort("7000"))
		return err
	})
	reader := p.InviteReaders("Oriel Vane")[0]
	p.InviteReaders("Teodora Brisk")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	leave := func(account int64) error {
		return p.Try(account, func(ctx context.Context, tx *db.Tx) error {
			a, err := p.People.Find(ctx, tx, account)
			if err != nil {
				return err
			}
			return p.Intake.Leave(ctx, tx, a)
		})
	}
	for who, account := range map[string]int64{"an officer": p.Officer, "a reader with a case left": reader} {
		if no, ok := refusal.Of(leave(account)); !ok || no.Field != "leave" {
			t.Errorf("%s leaves: %+v", who, no)
		}
	}
	p.MarksWhole("Ann", reader)
	if err := leave(reader); err != nil {
		t.Errorf("once the marks are sent: %v", err)
	}
	would, err := p.Intake.WouldLeave(t.Context(), p.DB, ann)
	if err != nil || len(would) != 2 || would[0].Erased() || !would[1].Erased() {
		t.Errorf("leaving would do %+v, %v", would, err)
	}
	sealed := *p.Of["Ann"].SealID
	if err := leave(ann); err != nil {
		t.Fatal(err)
	}
	if answers, err := p.Cases.Answers(t.Context(), p.DB, draft.EntryID); err != nil || len(answers) != 0 {
		t.Errorf("of the draft %d answers are left, %v", len(answers), err)
	}
	if p.StateOf("Ann"); *p.Of["Ann"].SealID != sealed {
		t.Error("what was sent is sealed otherwise")
	}
	if _, err := p.Cases.Sealed(t.Context(), p.DB, sealed); err != nil {
		t.Errorf("what was sent: %v", err)
	}
	var left int
	if err := p.DB.Get(&left, `SELECT count(*) FROM account WHERE email = 'ann@corvoe.example'`); err != nil || left != 0 {
		t.Errorf("their address is still there: %d, %v", left, err)
	}
}
