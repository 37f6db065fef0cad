package program_test

import (
	"bytes"
	"context"
	"crypto/ed25519"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/decision"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reading"
	"ulvant/internal/reference"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// The nine steps, as use cases: from an opened round to told decisions.
func TestFromAnOpenedRoundToAToldDecision(t *testing.T) {
	h := programtest.New(t)
	ctx := context.Background()
	plan := programtest.Plan
	officer := h.Person("neda@ostrel-trust.example", "Neda Sparrow")
	h.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, officer.ID, access.Held{Role: access.RunsRounds})
	})
	roundID := h.OpenRound(officer.ID, nil)

	apply := func(email, name, title, leave string) application.Case {
		lead := h.Person(email, name)
		var c application.Case
		h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) (err error) {
			if c, err = h.Intake.Start(ctx, tx, "shore-2027", title,
				map[form.Place]form.Answer{{Question: "district"}: {Raw: "corvoe"}}); err != nil {
				return err
			}
			results, _, err := h.Intake.Save(ctx, tx, c, programtest.Whole(name))
			for _, r := range results {
				if r.Fault != "" || r.Conflict {
					t.Fatalf("%+v", r)
				}
			}
			if leave != "yes" {
				_, _, err = h.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: "land-leave"}, Version: 1,
					EditID: "unknown", Non: form.NotKnown}})
			}
			return err
		})
		stopped := intake.Stopped{}
		if err := h.Try(lead.ID, func(ctx context.Context, tx *db.Tx) error {
			_,
				err := h.Intake.Send(ctx, tx, c)
			return err
		}); !errors.As(err, &stopped) || len(stopped.Obstacles) != 2 {
			t.Fatalf("before file and letter: %v %+v", err, stopped.Obstacles)
		}
		f, err := h.Rounds.Form(ctx, h.DB, c.DesignID)
		if err != nil {
			t.Fatal(err)
		}
		if file, err := h.Materials.PutInSlot(ctx, db.Account(lead.ID), h.Clock.Now(), c, f.Question("site-plan"),
			"plan.pdf", int64(len(plan)), bytes.NewReader(plan)); err != nil || file.State != "ready" || file.Facts.Pages != 2 {
			t.Fatalf("%+v %v", file, err)
		}
		var referee int64
		h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) (err error) {
			referee, err = h.Referees.Name(ctx, tx, c, "site-referee", reference.Person{Name: "Dacian Rowe",
				Email: "dacian@peat.example", Knows: "warden next door"})
			return err
		})
		h.Drain()
		h.Act(0, func(ctx context.Context, tx *db.Tx) error { return h.Referees.Accept(ctx, tx, referee) })
		h.Act(0, func(ctx context.Context, tx *db.Tx) error {
			return h.Referees.Keep(ctx, tx, referee, reference.Draft{Version: 3, Text: "They know the shore."})
		})
		if st, _ := h.Cases.Standing(ctx, h.DB, c.EntryID); st.Move != lifecycle.Third || st.Letter != form.Uploaded {
			t.Fatalf("uploaded is not sent: %+v", st)
		}
		h.Clock.Set(h.Clock.Now().Add(25 * time.Hour))
		if err := h.Jobs.Sweep(ctx, h.Clock.Now()); err != nil {
			t.Fatal(err)
		}
		h.Drain()
		if list, _ := h.Tray.List("dacian@peat.example", 0, 1); !strings.Contains(list[0].Body, "NOT SENT") {
			t.Fatalf("the reminder: %+v", list)
		}
		h.Act(0, func(ctx context.Context, tx *db.Tx) error { return h.Referees.Send(ctx, tx, referee) })
		h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) (err error) { c, err = h.Intake.Send(ctx, tx, c); return err })
		h.Drain()
		list, _ := h.Tray.List(email, 0, 1)
		if !strings.Contains(list[0].Subject, c.Ref) || !bytes.HasPrefix(list[0].Bytes, []byte("%PDF")) {
			t.Fatalf("the confirmation: %s %d bytes", list[0].Subject, len(list[0].Bytes))
		}
		c, err = h.Cases.Find(ctx, h.DB, c.Ref)
		if err != nil {
			t.Fatal(err)
		}
		s, err := h.Cases.Sealed(ctx, h.DB, *c.SealID)
		if err != nil || !seal.Verify(h.SealKey.Public().(ed25519.PublicKey), s.Document, s.Signature) {
			t.Fatalf("the seal does not verify: %v", err)
		}
		return c
	}
	a := apply("imre@corvoe.example", "Imre Calloway", "Reed beds for the Corvoe shore", "yes")
	b := apply("ysolde@tarl.example", "Ysolde Fenn", "Peat dams above Tarl", "not known")
	if a.State != lifecycle.Eligible || b.State != lifecycle.Complete {
		t.Fatalf("after checks: %s and %s", a.State, b.State)
	}
	h.Act(officer.ID, func(ctx context.Context, tx *db.Tx) error {
		return h.Checks.Settle(ctx, tx, b, "land", true, "Letter from the estate seen.")
	})

	r, err := h.Rounds.ByID(ctx, h.DB, roundID)
	if err != nil {
		t.Fatal(err)
	}
	f, err := h.Rounds.Published(ctx, h.DB, r)
	if err != nil {
		t.Fatal(err)
	}
	h.Clock.Set(f.HandsOutFrom())
	var readers []int64
	for _, name := range []string{"Oriel Vane", "Teodora Brisk", "Sami Holt"} {
		h.Act(officer.ID, func(ctx context.Context, tx *db.Tx) error {
			p, err := h.Reading.Invite(ctx, tx, r, strings.ToLower(strings.Fields(name)[0])+"@readers.example", name)
			readers = append(readers, p.ID)
			return err
		})
	}
	h.Act(officer.ID, func(ctx context.Context, tx *db.Tx) error {
		_, err := h.Reading.HandOut(ctx, tx, r, f, nil)
		return err
	})
	for _, c := range []application.Case{a, b} {
		given, err := h.Reading.Of(ctx, h.DB, c.EntryID)
		if err != nil || len(given) != 2 {
			t.Fatalf("%d readers, %v", len(given), err)
		}
		if c.ID == b.ID { // one steps aside; handing out again fills the gap with the third
			aside := given[0].AccountID
			h.Act(aside, func(ctx context.Context, tx *db.Tx) error {
				return h.Reading.StepAside(ctx, tx, c, "My cousin leads it.")
			})
			h.Act(officer.ID, func(ctx context.Context, tx *db.Tx) error {
				_, err := h.Reading.HandOut(ctx, tx, r, f, nil)
				return err
			})
			given, _ = h.Reading.Of(ctx, h.DB, c.EntryID)
			for _, g := range given {
				if g.AccountID == aside {
					t.Fatal("a case went back to somebody who stepped aside")
				}
			}
		}
		for i, g := range given {
			h.Act(g.AccountID, func(ctx context.Context, tx *db.Tx) error {
				if err := h.Reading.Send(ctx, tx, c); err == nil {
					t.Fatal("unmarked marks were sent")
				}
				_, err := h.Reading.Keep(ctx, tx, c, 1, reading.Marking{Marks: map[form.Key]int{"gain": 4, "lasting": 3 + i,
					"value": 3}})
				return err
			})
			h.Act(g.AccountID, func(ctx context.Context, tx *db.Tx) error { return h.Reading.Send(ctx, tx, c) })
		}
	}
	order, err := h.Decisions.Order(ctx, h.DB, r, f, "writing")
	if err != nil || len(order.Rows) != 2 || !order.Rows[0].Tied || order.Rows[0].Score.String() != "3.55" {
		t.Fatalf("%+v %v", order.Rows, err)
	}
	choices := []decision.Choice{
		{EntryID: order.Rows[0].EntryID, Version: order.Rows[0].Version, Outcome: lifecycle.Awarded, Amount: 6_400_000},
		{EntryID: order.Rows[1].EntryID, Version: order.Rows[1].Version - 1, Outcome: lifecycle.Reserve},
	}
	record := func() error {
		return h.Try(officer.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Decisions.Record(ctx, tx, r, f, decision.Sitting{Stage: "writing", Choices: choices,
				Note: "Panel of 14 May"})
			return err
		})
	}
	if no, ok := refusal.Of(record()); !ok || !strings.Contains(no.Says, "these cases changed") {
		t.Fatalf("an act on a changed case was not refused: %v", no)
	}
	choices[1].Version++
	for i := range choices {
		if choices[i].EntryID == order.Rows[1].EntryID {
			choices[i].Version = order.Rows[1].Version
		}
	}
	h.Drain()
	if err := record(); err != nil {
		t.Fatal(err)
	}
	before, _ := h.Tray.List("", 0, 1000)
	h.Drain()
	if after, _ := h.Tray.List("", 0, 1000); len(after) != len(before) {
		t.Error("letters went out before their hold was over")
	}
	h.Clock.Set(h.Clock.Now().Add(31 * time.Minute))
	h.Drain()
	if list, _ := h.Tray.List("imre@corvoe.example", 0, 1); !strings.Contains(list[0].Body, "€64,000") {
		t.Errorf("the letter: %s", list[0].Body)
	}
}
