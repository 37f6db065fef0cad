package intake_test

import (
	"context"
	"crypto/ed25519"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/condition"
	"ulvant/internal/standin/tray"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

func send(h *programtest.House, c application.Case) (application.Case, error) {
	err := h.Try(c.LeadID, func(ctx context.Context, tx *db.Tx) (err error) {
		c, err = h.Intake.Send(ctx, tx, c)
		return err
	})
	return c, err
}

// What is sent is sealed whole: who, what, when, every answer on the path, the
// file, the letter; signed, once, with a receipt, and a second press is nothing.
func TestWhatIsSealed(t *testing.T) {
	h := programtest.New(t)
	officer := h.Person("neda@ostrel-trust.example", "Neda Sparrow")
	h.OpenRound(officer.ID, nil)
	ready := h.Ready("imre@corvoe.example")
	ctx := context.Background()
	c, err := send(h, ready)
	if err != nil || c.State != lifecycle.Sent {
		t.Fatal(c.State, err)
	}
	if c, err = send(h, ready); err != nil || c.State != lifecycle.Sent {
		t.Errorf("pressed twice: %s %v", c.State, err)
	}
	var seals, verbs int
	if err := h.DB.QueryRow(`SELECT (SELECT count(*) FROM seal), (SELECT count(*) FROM trail WHERE verb = 'sent')`).
		Scan(&seals, &verbs); err != nil || seals != 1 || verbs != 1 {
		t.Errorf("%d seals, %d in the trail, %v", seals, verbs, err)
	}
	c, err = h.Cases.Find(ctx, h.DB, c.Ref)
	if err != nil {
		t.Fatal(err)
	}
	kept, err := h.Cases.Sealed(ctx, h.DB, *c.SealID)
	if err != nil || !seal.Verify(h.SealKey.Public().(ed25519.PublicKey), kept.Document, kept.Signature) {
		t.Fatalf("the seal does not hold: %v", err)
	}
	doc := kept.Decoded
	if doc.Ref != c.Ref || doc.Title != "Reed beds" || doc.By != "Imre Calloway" || doc.Round != "shore-2027" ||
		doc.Design != 1 || doc.Stage != "writing" || !doc.At.Equal(h.Clock.Now()) || doc.Before != nil {
		t.Errorf("sealed: %+v", doc)
	}
	answers := map[form.Key]string{}
	for _, a := range doc.Answers {
		answers[a.Question] += a.Raw
	}
	if answers["site"] != "strand" || answers["request"] != "5000" || answers["signed"] != "Imre Calloway" {
		t.Errorf("answers: %v", answers)
	}
	if len(doc.Files) != 1 || doc.Files[0].Slot != "site-plan" || doc.Files[0].Size != int64(len(programtest.Plan)) ||
		doc.Files[0].Facts.Pages != 2 {
		t.Errorf("files: %+v", doc.Files)
	}
	if len(doc.Letters) != 1 || doc.Letters[0].Name != "Dacian Rowe" || doc.Letters[0].Text != "Good people." ||
		doc.Letters[0].Knows != "neighbour" || doc.Letters[0].Confirms || doc.Letters[0].File != nil {
		t.Errorf("letters: %+v", doc.Letters)
	}
	h.Drain()
	list, _ := h.Tray.List("imre@corvoe.example", 0, 1)
	if !strings.Contains(list[0].Subject, c.Ref) {
		t.Errorf("no receipt: %s", list[0].Subject)
	}
	if h.StateOf(c) == lifecycle.Sent {
		t.Error("what was sent is not checked")
	}
}

// What is no longer on the path is not sealed, though it stays in the draft.
func TestOnlyThePathIsSealed(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, func(d *form.Design) {
		for i := range d.Sections {
			for j := range d.Sections[i].Questions {
				if q := &d.Sections[i].Questions[j]; q.Key == "site-plan" || q.Key == "site-referee" {
					q.Asked = condition.Cond{
						Test: &condition.Test{
							Of:    condition.Ref{Answer: "repair-kind"},
							Rel:   condition.Is,
							Value: &condition.Value{Text: "peat"},
						},
					}
				}
			}
		}
	})
	c, err := send(h, h.Ready("imre@corvoe.example")) // a shore: neither plan nor referee is asked
	if err != nil {
		t.Fatal(err)
	}
	kept, err := h.Cases.Sealed(context.Background(), h.DB, *c.SealID)
	if err != nil || len(kept.Decoded.Files)+len(kept.Decoded.Letters) != 0 {
		t.Errorf("%v: %+v", err, kept.Decoded)
	}
}

// At the closing instant nothing is taken, just before it is; what stands in the
// way is said; how late it was is kept.
func TestSendingAtTheClosing(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	empty := h.Draft("ysolde@tarl.example")
	var stopped intake.Stopped
	if _, err := send(h, empty); !errors.As(err, &stopped) || len(stopped.Obstacles) < 10 ||
		!strings.Contains(err.Error(), "still stand in the way") {
		t.Errorf("an empty one: %v", err)
	}
	a, b := h.Ready("imre@corvoe.example"), h.Ready("bo@corvoe.example")
	closes := time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC) // 16:00 in Dublin
	h.Clock.Set(closes.Add(-time.Millisecond))
	if c, err := send(h, a); err != nil || c.State != lifecycle.Sent {
		t.Errorf("a thousandth before: %s %v", c.State, err)
	}
	h.Clock.Set(closes)
	if c, err := send(h, b); err == nil || c.State == lifecycle.Sent {
		t.Errorf("at the instant: %s %v", c.State, err)
	}
	if _, err := send(h, a); err != nil {
		t.Errorf("what is in is in: %v", err)
	}
	f, err := h.Rounds.Form(context.Background(), h.DB, b.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	h.Clock.Set(closes.Add(1500 * time.Millisecond))
	h.Held(b.LeadID, func(ctx context.Context, tx *db.Tx) error { return h.Intake.Late(ctx, tx, b, f) })
	var late string
	if err := h.DB.Get(&late, `SELECT figures->>'late' FROM trail WHERE verb = 'late'`); err != nil || late != "1500" {
		t.Errorf("late by %q, %v", late, err)
	}
}

// Withdrawing is open until something is decided, and is confirmed by mail.
func TestWithdrawing(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	withdraw := func(c application.Case) error {
		return h.Try(c.LeadID, func(ctx context.Context, tx *db.Tx) error { return h.Intake.Withdraw(ctx, tx, c) })
	}
	for _, c := range []application.Case{h.Draft("imre@corvoe.example"), h.Sent("bo@corvoe.example")} {
		if err := withdraw(c); err != nil || h.StateOf(c) != lifecycle.Withdrawn {
			t.Errorf("%s: %v", c.Ref, err)
		}
		if err := withdraw(c); err == nil {
			t.Errorf("%s is withdrawn twice", c.Ref)
		}
	}
	h.Drain()
	for _, who := range []string{"imre@corvoe.example", "bo@corvoe.example"} {
		list, _ := h.Tray.List(who, 0, 10)
		if !slices.ContainsFunc(list, func(m tray.Mail) bool { return strings.Contains(m.Subject, "is withdrawn") }) {
			t.Errorf("%s was not told", who)
		}
	}
}
