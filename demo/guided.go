package demo

import (
	"bytes"
	"context"
	"fmt"
	"time"

	"github.com/xuri/excelize/v2"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/guidance"
	"ulvant/internal/platform/db"
)

// guided asks for two papers more in the round that is open: a plan of the work on the
// Trust's own template, and the owner's leave, signed in ink.
func guided(e *edits, _ *form.Design) {
	e.ask("work", "work-plan", form.File, form.Fact, "Your plan of the work, on our template", mayNo, office,
		help("A line for each month. Leave it out if the work takes less than three."),
		takes(slot.Limits{Kinds: []slot.Kind{slot.Sheet, slot.PDF}, SizeMost: 4 << 20}))
	e.ask("place", "owners-leave", form.File, form.Fact, "The owner’s leave, signed in ink", mayNo, office,
		help("Only where the ground is not your own."),
		takes(slot.Limits{Kinds: []slot.Kind{slot.Picture, slot.PDF}, SizeMost: 4 << 20,
			Paper: "The ground is mine, and the work may be done on it."}))
}

// Who put in what: one filled the template in while it held, one has the old one, one had
// the page signed.
const (
	onTemplate    = "Foreshore rights unclear, Port Ailsa"
	onOldTemplate = "Commons wall at Over Hallin"
	inInk         = "Eider islands"
)

// workPlan is the template, a month to a line; its second version asks who does it too.
func workPlan(columns ...string) ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	for i, c := range columns {
		at, err := excelize.CoordinatesToCellName(i+1, 1)
		if err != nil {
			return nil, err
		}
		if err := f.SetCellValue("Sheet1", at, c); err != nil {
			return nil, err
		}
	}
	for month := range 12 {
		if err := f.SetCellValue("Sheet1", fmt.Sprintf("A%d", month+2), time.Month(month+1).String()); err != nil {
			return nil, err
		}
	}
	b, err := f.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// guides puts up what applicants read and fill in, and the template again with a change.
func (r *running) guides() *running {
	put := func(ctx context.Context, n guidance.New, body []byte) error {
		_, err := r.Guidance.Put(ctx, db.Account(r.officer.ID), r.at, r.rd, r.form, n, bytes.NewReader(body))
		return err
	}
	span := r.dates.Closes.Sub(r.dates.Opens)
	r.on(r.dates.Opens.Add(time.Hour), func(ctx context.Context) error {
		notes, err := sitePlan("Notes for applicants", "What readers look for", 2)
		if err != nil {
			return err
		}
		if err := put(ctx, guidance.New{Title: "Notes for applicants", Name: "notes for applicants.pdf"}, notes); err != nil {
			return err
		}
		plan, err := workPlan("Month", "What is done")
		if err != nil {
			return err
		}
		return put(ctx, guidance.New{Title: "Plan of the work", Slot: "work-plan", Name: "plan of the work.xlsx"}, plan)
	})
	r.on(r.dates.Opens.Add(span/6), func(ctx context.Context) error {
		plan, err := workPlan("Month", "What is done", "By whom")
		if err != nil {
			return err
		}
		list, err := r.Guidance.Of(ctx, r.DB, r.id)
		if err != nil {
			return err
		}
		return put(ctx, guidance.New{Paper: list[1].ID, Changed: "a column says who does it", Name: "plan of the work.xlsx",
			Tell: true},
			plan)
	})
	return r
}

// papers puts the papers of a tale in: the template in the version that it has of it.
func (r *running) papers(ctx context.Context, t tale, c application.Case, lead int64) error {
	put := func(k form.Key, name string, body []byte) error {
		_, err := r.Materials.PutInSlot(ctx, db.Account(lead), r.at, c, r.form.Question(k), name, int64(len(body)),
			bytes.NewReader(body))
		return err
	}
	if t.title == inInk {
		scan, err := drawing(t.title, 0)
		if err != nil {
			return err
		}
		return put("owners-leave", "leave, signed.png", scan)
	}
	list, err := r.Guidance.Of(ctx, r.DB, r.id)
	if err != nil {
		return err
	}
	v := list[1].Last()
	if t.title == onOldTemplate {
		v = list[1].Versions[0]
	}
	b, err := r.Guidance.Bytes(v)
	if err != nil {
		return err
	}
	return put("work-plan", "our plan "+calendar.DateOf(r.at, r.zone).String()+".xlsx", b)
}
