package journey_test

import (
	"context"
	"testing"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A chair works out who reads what, looks at a case, changes it by hand and gives it
// out; one reader drops out and what they had goes to others; one who has opened a
// case steps aside; marks are opened again; and the marks stand on one scale. Nothing
// that axe-core looks for is wrong on any of the pages, wide or narrow.
func TestAChairHandsOut(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, func(d *form.Design) {
		programtest.Short(d)
		d.Overall = []string{"no", "yes"}
		d.Criteria[0].PassPoints = []form.Option{{Key: "survey", Label: "Names a survey method"}}
	}, map[string]string{"Ann": "9,000", "Bo": "8,000", "Cy": "7,000", "Dee": "6,000"})
	p.InviteReaders("Oriel Vane", "Teodora Brisk", "Sami Holt", "Gwyn Arkwright")
	for _, who := range []string{"oriel", "teodora", "sami", "gwyn"} { // with a password
		p.Person(who+"@readers.example", map[string]string{"oriel": "Oriel Vane", "teodora": "Teodora Brisk",
			"sami": "Sami Holt",
			"gwyn": "Gwyn Arkwright"}[who])
	}
	chair := p.Person("lucian@panel.example", "Lucian Abernathy")
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.People.GiveRole(ctx, tx, chair.ID, access.Held{Role: access.Chairs, Scope: access.Scope{Round: p.Round.ID}})
	})
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	_, base := webtest.Serve(t, p.House)
	b := webtest.Browser(t)
	w := webtest.In(t, webtest.Another(t, b, base))
	w.SignsIn("lucian@panel.example")
	reading := "/office/rounds/" + p.Round.Key + "/reading"
	w.Goes(reading)
	w.Reads("4 cases are eligible and not given out")
	w.Sound()
	w.Presses("form[action$='/work-out'] .btn")
	w.Reads("a plan, nobody has been told")
	w.Reads("everybody 2")
	w.Reads("proved best")
	w.Presses("table.fits tbody a.main")
	w.Reads("If you change it")
	w.Presses(".fitrow a.main")
	w.Reads("the fit in all")
	w.Sound()
	w.Presses("button[value='move']")
	w.Reads("Done, and held")
	w.Presses("button[value='give out']")
	w.Reads("4 cases are with 4 readers")
	w.Reads("told by mail")

	// Sami drops out by their own page; Gwyn is taken off, with a reason
	sami := webtest.In(t, webtest.Another(t, b, base))
	sami.SignsIn("sami@readers.example")
	sami.Goes("/reading")
	sami.Reads("2 cases to mark")
	sami.Presses("a[href^='/reading/about/']")
	sami.Reads("Cases are found for you")
	sami.Sound()
	sami.Presses("details summary")
	sami.Presses("button[value='decline']")
	sami.Reads("You read no more in this round")
	w.Goes(reading)
	w.Reads("reads no more")
	w.Reads("lack a reader")
	w.Presses("form[action$='/work-out'] .btn")
	w.Reads("a plan, nobody has been told")
	w.Presses("button[value='give out']")
	w.Reads("with 3 readers")

	// Teodora opens a case, and knows the people
	teodora := webtest.In(t, webtest.Another(t, b, base))
	teodora.SignsIn("teodora@readers.example")
	teodora.Goes("/reading")
	teodora.Presses("main a[href^='/reading/SPR-']")
	teodora.Reads("Names a survey method")
	teodora.Reads("Overall")
	teodora.Sound()
	teodora.Presses(".asidestep summary")
	teodora.Fills(".asidestep [name=reason]", "My cousin leads it.")
	teodora.Presses(".asidestep .btn")
	teodora.Reads("You have stepped aside")
	w.Goes(reading)
	w.Presses("form[action$='/hand-out'] .btn")
	w.Reads("are with 3 readers")

	// all mark; the first of them is opened again
	for name := range p.Of {
		for _, g := range must(p.Reading.Of(t.Context(), p.DB, p.Of[name].EntryID)) {
			p.MarksWhole(name, g.AccountID)
		}
	}
	if p.StateOf("Bo") != lifecycle.Read && p.StateOf("Cy") != lifecycle.Read {
		t.Errorf("read: %s, %s", p.StateOf("Bo"), p.StateOf("Cy"))
	}
	w.Goes(reading)
	w.Presses("aside table a.main")
	w.Reads("What is known of them")
	w.Sound()
	w.Presses("tbody details summary")
	w.Fills("tbody [name=why]", "You marked the outline, not the plan.")
	w.Presses("button[value='reopen']")
	w.Reads("open again, and the reader is told why")
	w.Goes("/office/rounds/" + p.Round.Key + "/marks")
	w.Reads("Marks on one scale")
	w.Sound()
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}
