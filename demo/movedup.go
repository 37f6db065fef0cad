package demo

import (
	"context"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/core/profile"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	profiles "ulvant/internal/profile"
)

// The graziers apply as a body that its register knows. They are a reserve for most
// of a year; when they move up, the register has struck them off meanwhile.
const (
	graziers     = "Ferry Park Graziers"
	graziersLead = "Hamish Oduya"
	graziersCase = "Curlew wet grassland at Ferry Park"
	ferryNumber  = "0000OSTRELISLES00537"
)

// turning is the register while the demo is built: it changes its mind.
type turning struct {
	profiles.Register
	b     *builder
	turns time.Time
}

// Entry knows the graziers, until it has struck them off.
func (t turning) Entry(ctx context.Context, scheme, value string) (profiles.Entry, error) {
	if value == ferryNumber {
		return profiles.Entry{Name: graziers, Struck: !t.b.at.Before(t.turns)}, nil
	}
	return t.Register.Entry(ctx, scheme, value)
}

// movedUp plays them: the body is looked over before the round opens, and moves up
// from the reserve two days ago.
func (b *builder) movedUp(r *running) (restore func()) {
	moves := b.now.Add(-2 * oneDay)
	was := b.Profiles.Asks
	b.Profiles.Asks = turning{was, b, moves.Add(-20 * oneDay)}
	began := int(b.now.Sub(r.dates.Opens)/oneDay)*5/7 + 25
	b.take(graziersLead, graziers, graziers, ferryNumber, "1 Ferry Park",
		[]profile.Contact{{Name: graziersLead, Email: email(graziersLead, graziers)}, {Name: "Mairead Oduya",
			Email: "mairead@ferry-park-graziers.example"}},
		[][2]string{{"Mairead Oduya", "grazing clerk"}, {"Tobin Scarth", "treasurer"}}, began, true)
	b.on(moves, func(ctx context.Context) error {
		stage, err := b.Decisions.Stage(ctx, b.DB, r.rd, r.form)
		if err != nil {
			return err
		}
		order, err := b.Decisions.Order(ctx, b.DB, r.rd, r.form, stage)
		if err != nil {
			return err
		}
		sit := decision.Sitting{Stage: stage,
			Note: "N. Sparrow and L. Abernathy, between meetings: the Fishers’ Guild had declined"}
		for _, row := range order.Rows {
			if row.Title == graziersCase {
				sit.Choices = append(sit.Choices, decision.Choice{EntryID: row.EntryID, Version: row.Version,
					Outcome: lifecycle.Awarded, Amount: row.Asked0()})
			}
		}
		if err := b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := b.Decisions.Record(ctx, tx, r.rd, r.form, sit)
			return err
		}); err != nil {
			return err
		}
		return b.Jobs.Sweep(ctx, b.at)
	})
	return func() { b.Profiles.Asks = was }
}
