package demo

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/offer"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
)

// offering has whoever is awarded something say whether they take it.
func offering(e *edits, _ *form.Design) {
	e.set(
		"offer",
		form.Offer{
			Days: 10,
			Promises: []string{"We do the work as we described it, and say so before anything is changed.",
				"We send a short report within two months of its end."},
		},
	)
}

// What became of the decided round: one sum was put right before its letter left, one
// body declined and the first in reserve moved up for it.
const (
	hagg    = "Hagg reseeding, Blackwater head"
	cultch  = "Oyster cultch for Sunder Bay"
	groynes = "Boulder groynes, Little Hallin"
)

// offers plays it: everybody else accepts within ten days.
func (b *builder) offers(r *running) {
	told := r.dates.AnswerOn.Add(-3 * oneDay)
	b.on(told.Add(12*time.Minute), func(ctx context.Context) error {
		row, err := r.row(ctx, hagg)
		if err != nil {
			return err
		}
		return b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := b.Decisions.Record(ctx, tx, r.rd, r.form, decision.Sitting{Stage: r.form.FirstStage(),
				Note: "Panel, put right by N. Sparrow", Reason: "The panel gave nine tenths: the estate gives the brash.",
				Choices: []decision.Choice{
					{
						EntryID: row.EntryID,
						Version: row.Version,
						Outcome: lifecycle.Awarded,
						Amount:  row.Asked0() * 9 / 10,
					},
				}})
			return err
		})
	})
	for day := 1; day <= 8; day++ {
		b.on(
			told.Add(time.Duration(day)*oneDay+7*time.Hour),
			func(ctx context.Context) error { return r.dayOfAnswers(ctx, day) },
		)
	}
	b.on(told.Add(5*oneDay), func(ctx context.Context) error {
		row, err := r.row(ctx, groynes)
		if err != nil {
			return err
		}
		return b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := b.Decisions.MoveUp(ctx, tx, r.rd, r.form, r.form.FirstStage(), row.EntryID)
			return err
		})
	})
}

// row of the order by its title.
func (r *running) row(ctx context.Context, title string) (out decision.Row, err error) {
	t, err := r.Decisions.Order(ctx, r.DB, r.rd, r.form, r.form.FirstStage())
	for _, row := range t.Rows {
		if row.Title == title {
			out = row
		}
	}
	return out, err
}

// dayOfAnswers gives the answers of one day: one body declines on the fourth.
func (r *running) dayOfAnswers(ctx context.Context, day int) error {
	list, err := r.Offers.List(ctx, r.DB, r.rd.ID, offer.Open, 0, 100)
	if err != nil {
		return err
	}
	for i, o := range list {
		c, err := r.Cases.Find(ctx, r.DB, o.Ref)
		if err != nil {
			return err
		}
		do := func(ctx context.Context, tx *db.Tx) error {
			return r.Offers.Accept(ctx, tx, r.rd.ID, o.ID, r.form.Design.Offer.Promises)
		}
		switch {
		case o.Title == cultch && day == 4:
			do = func(ctx context.Context, tx *db.Tx) error {
				return r.Offers.Decline(
					ctx,
					tx,
					r.rd.ID,
					o.ID,
					"The bed is closed to us this year, and shell does not keep.",
				)
			}
		case o.Title == cultch || (i+day)%3 > 0 && day < 8:
			continue
		}
		if err := r.act(ctx, c.LeadID, do); err != nil {
			return err
		}
	}
	return nil
}

// digger lends out the Trust’s machine beside the money: there are thirty days of it.
func digger(e *edits, _ *form.Design) {
	e.ask("budget-section", "digger-days", form.Number, form.Chosen,
		"For how many days would you need the Trust’s low-ground digger?", mayNo,
		limits(form.Limits{Least: ptr(1), Most: ptr(20)}),
		help("With its driver. It is lent, and costs you nothing; it counts as €450 a day."))
	e.add("gifts", form.Gift{Key: "digger", Label: "Days of the low-ground digger", What: "goods", Value: 45_000,
		Stock:   30,
		Request: "digger-days", About: "A machine that weighs less on the ground than a cow, with its driver."})
}
