package demo

import (
	"bytes"
	"context"
	"fmt"

	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
)

// fullBudget gives a round of the grants a budget with headings, quantities and
// sources, indirect costs on people and stock, and a cap on plant. quotes, if
// not 0, is the sum of a line in minor units from which two are wanted.
func fullBudget(quotes int64) func(*edits, *form.Design) {
	return func(e *edits, _ *form.Design) {
		const at = "sections/budget-section/questions/budget/"
		if quotes > 0 {
			e.ask("budget-section", "line-quotes", form.File, form.Fact, "Quotes", mayNo, office,
				help("Put them in here, then attach them to their lines above."), takes(slot.Limits{FilesMost: 12,
					SizeMost: 6 << 20, Kinds: []slot.Kind{slot.PDF, slot.Picture}}))
		}
		c := form.Costing{Quantities: true, Sources: []form.Key{"own", "promised", "applied", "in-kind"},
			Periods:  pairsOf("y1", "1", "y2", "2"),
			Indirect: &form.Indirect{Rate: 15_00, Bases: []form.Base{{Heading: "people"}, {Heading: "stock"}}}}
		if quotes > 0 {
			c.Quotes = &form.Quotes{
				Above:    quotes,
				Count:    2,
				Slot:     "line-quotes",
				Headings: []form.Key{"plant", "stock"},
			}
		}
		e.set(
			at+"options",
			pairsOf("people", "People", "plant", "Plant", "stock", "Stock", "other", "Everything else"),
		)
		e.set(at+"costing", c)
		e.set(at+"limits", form.Cases[form.Limits]{Else: form.Limits{MatchPercent: 15, InKindMost: 10,
			Caps: []form.Cap{{Heading: "plant", Percent: 30, Of: form.OfCost}}}})
	}
}

// openRound is the round of the grants that is open.
var openRound = both(both(twoStages, guided), fullBudget(10_000_00))

// both makes two changes of a design, one after the other.
func both(a, b func(*edits, *form.Design)) func(*edits, *form.Design) {
	return func(e *edits, d *form.Design) { a(e, d); b(e, d) }
}

// costLine is a line of a tale's budget, in whole euros.
type costLine struct {
	heading, item, unit, year string
	many, each                int64
	us, own, promised, kind   int64
	typedUs, typedEach        string // instead of us and each
	supplier                  string
}

func (l costLine) cost() int64 { return l.many * l.each }

// linesOf divide a tale's cost and request over lines so that they add up
// exactly, with what indirect costs take of them.
func linesOf(t tale) []costLine {
	work := map[string][3]string{
		"shore":     {"Stone, timber and plants", "Barge and machine", "load"},
		"peat":      {"Dams, timber and brash", "Digger with wide tracks", "bundle"},
		"grassland": {"Seed, fencing and gates", "Tractor and flail", "strip"},
	}[t.repair]
	months := t.cost * 22 / 100 / 1400
	warden := costLine{
		heading: "people",
		item:    "Warden, part-time",
		unit:    "month",
		year:    "y1",
		many:    months,
		each:    1400,
	}
	kind := costLine{heading: "people", item: "Volunteers’ time", unit: "hour", year: "y2", each: 20,
		many: min(t.cost*8/100, (t.cost-t.ask)/2) / 20}
	kind.kind = kind.cost()
	days := t.cost * int64(15+noise(8, t.title, "days")) / 100 / 620
	plant := costLine{heading: "plant", item: work[1], unit: "day", year: "y1", many: days, each: 620}
	// of the rest, stock bears 15% too: the lines under it, and odds outside the base of indirect costs, come to all of it
	left := t.cost - (warden.cost()+kind.cost())*115/100 - plant.cost()
	stock := costLine{
		heading: "stock",
		item:    work[0],
		unit:    work[2],
		year:    "y2",
		many:    max(left*94/100/115, 1),
		each:    100,
	}
	var lines []costLine
	for _, l := range []costLine{warden, kind, plant, stock} {
		if l.many > 0 {
			lines = append(lines, l)
		}
	}
	indirect := (warden.cost() + kind.cost() + stock.cost()) * 15 / 100 // each is a multiple of 20
	odds := costLine{heading: "other", item: "Carting and small tools", unit: "lot", year: "y2", many: 1,
		each: t.cost - indirect - warden.cost() - kind.cost() - plant.cost() - stock.cost()}
	if odds.each > 0 {
		lines = append(lines, odds)
	}
	lines = chunked(lines)
	ours, promised := t.ask-indirect, int64(noise(3, t.title, "promised"))
	for i := range lines {
		l := &lines[i]
		free := l.cost() - l.kind
		l.us = min(free, ours)
		ours -= l.us
		if rest := free - l.us; promised == 0 {
			l.promised = rest
		} else {
			l.own = rest
		}
	}
	return lines
}

// chunked parts lines that are dear, so that none needs quotes.
func chunked(lines []costLine) (out []costLine) {
	const most = 9_000
	for _, l := range lines {
		for n := 1; l.cost() > most && l.kind == 0 && l.many > 1; n++ {
			part := l
			part.many = max(1, most/l.each)
			part.item += fmt.Sprintf(", part %d", n)
			l.many -= part.many
			out = append(out, part)
		}
		out = append(out, l)
	}
	return out
}

// typed are the cells of lines.
func typed(lines []costLine) (out []intake.Edit) {
	for i, l := range lines {
		us, each := l.typedUs, l.typedEach
		if us == "" && l.us > 0 {
			us = money.Plain(l.us*100, "EUR")
		}
		if each == "" {
			each = money.Plain(l.each*100, "EUR")
		}
		sum := func(n int64) string {
			if n == 0 {
				return ""
			}
			return money.Plain(n*100, "EUR")
		}
		for _, c := range []struct {
			column form.Key
			value  string
		}{{form.ColItem, l.item}, {form.ColHeading, l.heading}, {form.ColQuantity, sum(l.many)}, {form.ColUnit, l.unit},
			{form.ColEach, each}, {form.ColUs, us}, {"own", sum(l.own)}, {"promised", sum(l.promised)},
			{"in-kind", sum(l.kind)}, {form.ColPeriod, l.year}, {form.ColSupplier, l.supplier}} {
			if c.value != "" {
				out = append(
					out,
					intake.Edit{Place: form.Place{Question: "budget", Row: form.RowKey(i + 1), Column: c.column},
						EditID: "demo-budget", Value: c.value},
				)
			}
		}
	}
	return out
}

// reedBeds is the budget that Imre Calloway has half written: one line asks for
// more than it costs, and plant takes more than its share.
var reedBeds = []costLine{
	{
		heading: "people",
		item:    "Warden, part-time",
		unit:    "month",
		year:    "y1",
		many:    18,
		each:    1400,
		us:      14000,
		own:     11200,
	},
	{heading: "people", item: "Volunteers’ time, in kind", unit: "hour", year: "y2", many: 400, each: 20, kind: 8000},
	{heading: "people", item: "Training for volunteers", unit: "day", year: "y1", many: 2, each: 550, us: 1100},
	{
		heading:  "plant",
		item:     "Excavator with long reach",
		unit:     "day",
		year:     "y1",
		many:     12,
		each:     980,
		typedUs:  "12,180",
		supplier: "Quay Plant",
	},
	{heading: "plant", item: "Punt, hire", unit: "season", year: "y2", many: 2, each: 2670, us: 2670, own: 2670},
	{
		heading:  "plant",
		item:     "Groyne timber",
		unit:     "m",
		year:     "y1",
		many:     200,
		each:     50,
		us:       4000,
		promised: 6000,
		supplier: "Kirk sawmill",
	},
	{
		heading:   "stock",
		item:      "Reed plugs, Hallin nursery",
		unit:      "plug",
		year:      "y1",
		many:      9000,
		typedEach: "1.20",
		us:        6250,
		own:       4550,
		supplier:  "Hallin nursery",
	},
	{heading: "stock", item: "Brushwood bundles", unit: "bundle", year: "y2", many: 300, each: 3, us: 900},
}

// cheaperPlant changes a sent budget so that it still adds up: plant costs less a
// day, and what that saves is carted with.
func (r *running) cheaperPlant(ctx context.Context, tx *db.Tx, c application.Case) error {
	rows, err := r.Cases.Answers(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	filled, version := &form.Filled{Answers: map[form.Place]form.Answer{}}, map[form.Place]int{}
	for _, a := range rows {
		filled.Answers[a.Place()], version[a.Place()] = form.Answer{Raw: a.Value}, a.Version
	}
	lines := r.form.BudgetLines(filled, "budget")
	last := lines[len(lines)-1]
	for _, l := range lines {
		saved := l.Cost - 600_00*l.Quantity.Num/l.Quantity.Den
		if l.Heading != "plant" || saved <= 0 || l.FromUs < saved || last.Quantity.Num != last.Quantity.Den {
			continue
		}
		var edits []intake.Edit
		put := func(row string, column form.Key, n int64) {
			at := form.Place{Question: "budget", Row: row, Column: column}
			edits = append(edits, intake.Edit{Place: at, Version: version[at], EditID: "demo-plant",
				Value: money.Plain(n, "EUR")})
		}
		put(l.Row, form.ColEach, 600_00)
		put(l.Row, form.ColUs, l.FromUs-saved)
		put(last.Row, form.ColEach, last.Each+saved)
		put(last.Row, form.ColUs, last.FromUs+saved)
		_, _, err := r.Intake.Save(ctx, tx, c, edits)
		return err
	}
	return nil
}

// halfCosted plays the half-written budget: the lines, and the quotes that are in.
func (r *running) halfCosted(ctx context.Context, c application.Case, lead people.Account) error {
	slot := r.form.Question("line-quotes")
	var files []string
	for _, from := range []string{"Quay Plant", "Kirk sawmill", "Ness Timber"} {
		b, err := sitePlan("Quote", from, 1)
		if err != nil {
			return err
		}
		f, err := r.Materials.PutInSlot(ctx, db.Account(lead.ID), r.at, c, slot, "quote "+from+".pdf", int64(len(b)),
			bytes.NewReader(b))
		if err != nil {
			return err
		}
		files = append(files, form.FileRow(f.ID))
	}
	cell := func(row int, column form.Key, v string) intake.Edit {
		return intake.Edit{
			Place:  form.Place{Question: "budget", Row: form.RowKey(row), Column: column},
			EditID: "demo-quotes",
			Value:  v,
		}
	}
	edits := append(
		typed(reedBeds),
		cell(4, form.ColQuotes, files[0]),
		cell(6, form.ColQuotes, files[1]+"\n"+files[2]),
		intake.Edit{Place: form.Place{Question: "request"}, EditID: "demo-request", Value: "48,000"},
	)
	return r.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) error {
		_, _, err := r.Intake.Save(ctx, tx, c, edits)
		return err
	})
}
