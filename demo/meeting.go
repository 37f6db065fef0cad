package demo

import (
	"context"
	"math/rand/v2"

	"ulvant/core/calendar"
	"ulvant/internal/panel"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
)

// calls the panel for tomorrow, its agenda laid out; one who sits is out of the room
// for one case.
func (r *running) calls(ctx context.Context, who map[string]people.Account) error {
	maren, idris := who["Maren Tolliver"].ID, who["Idris Fell"].ID
	stage := r.form.FirstStage()
	at, _ := calendar.At(calendar.AddWorkingDays(calendar.DateOf(r.now, r.zone), 1, nil), 14, 0).In(r.zone)
	return r.act(ctx, maren, func(ctx context.Context, tx *db.Tx) error {
		entries, items, err := r.Decisions.Agenda(ctx, tx, r.rd, r.form, stage, 120, rand.New(rand.NewPCG(uint64(r.rd.ID),
			18)))
		if err != nil {
			return err
		}
		id, err := r.Panel.Call(ctx, tx, r.rd, stage, panel.Called{Name: "Autumn panel",
			Place: "The Customs House, upper room",
			At:    at, Minutes: 120, Votes: true, Members: []int64{maren, idris,
				r.officer.ID}}, entries, items)
		if err != nil {
			return err
		}
		return r.Panel.StepOut(ctx, tx, r.rd, id, entries[items[0].Case], idris, "She sits on the same common’s council.")
	})
}
