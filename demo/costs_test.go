package demo

import (
	"fmt"
	"testing"
	"time"

	"ulvant/core/budget"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Every tale's budget comes to its cost and its request, and nothing stands in
// its way; the half-written one has just the faults it is there to show.
func TestTheBudgetsOfTheTalesAddUp(t *testing.T) {
	list, _ := designs(t, time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC))
	f, err := form.Compile(list[0])
	if err != nil {
		t.Fatal(err)
	}
	walk := func(lines []costLine, ask int64) (*budget.Totals, []form.Code) {
		x := &form.Filled{Answers: map[form.Place]form.Answer{{Question: "request"}: {Raw: fmt.Sprint(ask)}},
			Files: map[form.Key][]slot.File{}}
		for _, e := range typed(lines) {
			x.Answers[e.Place] = form.Answer{Raw: e.Value}
		}
		path := f.Walk(x)
		var codes []form.Code
		for _, o := range path.Obstacles {
			if o.Place.Question == "budget" {
				codes = append(codes, o.Code)
			}
		}
		return path.Find("budget").Totals, codes
	}
	for _, rows := range []string{decidedRows, panelRows, openRows, largeRows} {
		for _, tale := range read(rows) {
			totals, codes := walk(linesOf(tale), tale.ask)
			if totals == nil || len(codes) > 0 || totals.Cost != tale.cost*100 || totals.FromUs != tale.ask*100 {
				t.Errorf("%s, %d of %d: %v %+v", tale.title, tale.ask, tale.cost, codes, totals)
			}
		}
	}
	totals, codes := walk(reedBeds, 48_000)
	if len(codes) < 3 || totals == nil || totals.FromUs != 48_000_00 {
		t.Errorf("%v %+v", codes, totals)
	}
}
