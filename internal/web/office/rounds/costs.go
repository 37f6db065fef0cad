package rounds

import (
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/budget"
	"ulvant/core/export"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/internal/desk"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// costsPage is what office/rounds/costs.html draws.
type costsPage struct {
	Cases    int
	Cost     string
	Asked    string
	Headings []costRow
	Gives    []costRow
	Dear     []dearLine
	Compared int // lines that could be compared
	Lines    int
	Unread   int    // cases whose budget does not add up
	Only     string // the case whose lines alone are shown
	Title    string
}

// costRow is one heading, or one kind of what is given.
type costRow struct {
	Label, Cost, Asked string
	Share              string // of all that is asked
	Bar                int64  // of 160
	Cases              int
}

// dearLine is one line against those of its kind.
type dearLine struct {
	Ref, Title, Item, Kind string
	Price, Median, Times   string
	Cases                  int
	Same                   bool
	High                   bool
}

// shownLines is how many lines the page shows, the dearest first.
const shownLines = 100

// costed is a round's budgets, read once.
type costed struct {
	tally  budget.Tally
	priced []budget.Priced
	cases  map[int64]desk.CostCell // its Ref and Title
	unread int
}

// readCosts reads every budget of a round that is in.
func readCosts(r *site.Request, f *form.Form, q *form.Question) (*costed, error) {
	out := &costed{cases: map[int64]desk.CostCell{}}
	var lines []form.BudgetLine
	cells := map[form.Key]string{}
	var at desk.CostCell
	line := func() {
		if l, ok := f.ReadLine(q, at.Row, func(k form.Key) string { return cells[k] }); ok {
			lines = append(lines, l)
			out.priced = append(out.priced, l.Priced(q, at.EntryID))
		}
		clear(cells)
	}
	whole := func() {
		if t, ok := f.CostOf(q, lines); ok && len(lines) > 0 {
			out.tally.Add(t)
		} else if len(lines) > 0 {
			out.unread++
		}
		lines = lines[:0]
	}
	err := r.Desk.CostCells(r.Context, r.Round.ID, q.Key, func(c desk.CostCell) {
		if at.EntryID != 0 && (c.EntryID != at.EntryID || c.Row != at.Row) {
			line()
		}
		if c.EntryID != at.EntryID {
			whole()
			out.cases[c.EntryID] = c
		}
		at = c
		cells[c.Column] = c.Value
	})
	if err == nil && at.EntryID != 0 {
		line()
		whole()
	}
	return out, err
}

func costsOf(r *site.Request) (*form.Form, *form.Question, *costed, error) {
	f, err := office.Form(r)
	if err != nil {
		return nil, nil, nil, err
	}
	list := f.Budgets()
	if len(list) == 0 {
		return nil, nil, nil, fiber.ErrNotFound
	}
	c, err := readCosts(r, f, list[0])
	return f, list[0], c, err
}

// Costs shows what a round is asked for by heading, and lines across its cases.
func Costs(r *site.Request) error {
	f, q, c, err := costsOf(r)
	if err != nil {
		return err
	}
	cur := f.Design.Currency
	sum := func(n int64) string { return money.Format(n, cur) }
	d := costsPage{Cases: c.tally.Cases, Cost: sum(c.tally.All.Cost), Asked: sum(c.tally.All.FromUs), Lines: len(c.priced),
		Unread: c.unread, Only: r.Query("case")}
	row := func(label string, p budget.Part, cases int) costRow {
		return costRow{Label: label, Cost: sum(p.Cost), Asked: sum(p.FromUs), Cases: cases,
			Share: budget.Percent(p.FromUs, c.tally.All.FromUs), Bar: budget.Portion(p.FromUs, c.tally.All.FromUs, 160)}
	}
	for _, o := range q.Options {
		d.Headings = append(d.Headings, row(o.Label, c.tally.ByHeading[string(o.Key)], c.tally.With[string(o.Key)]))
	}
	if gifts := f.Gifts(q); len(gifts) > 1 {
		for _, o := range gifts {
			d.Gives = append(d.Gives, row(o.Label, c.tally.ByGives[string(o.Key)], 0))
		}
	}
	all := budget.Compare(c.priced)
	d.Compared = len(all)
	for _, x := range all {
		of := c.cases[x.Case]
		if d.Only != "" && of.Ref != d.Only {
			continue
		}
		if d.Only != "" {
			d.Title = of.Title
		}
		if len(d.Dear) == shownLines {
			break
		}
		d.Dear = append(d.Dear, dearLine{Ref: of.Ref, Title: of.Title, Item: x.Item, Kind: x.Kind, Price: sum(x.Price),
			Median: sum(x.Median), Times: tenths(x.Times()), Cases: x.Cases, Same: x.SameAs, High: x.Times() >= 20})
	}
	return office.Draw(r, fiber.StatusOK, "office/rounds/costs", "Costs, "+r.Round.Name, "overview", f, d)
}

func tenths(n int64) string {
	if n%10 == 0 {
		return strconv.FormatInt(n/10, 10)
	}
	return strconv.FormatInt(n/10, 10) + "." + strconv.FormatInt(n%10, 10)
}

// CostRows gives every line of every budget out, with the median of its kind.
func CostRows(r *site.Request) error {
	f, _, c, err := costsOf(r)
	if err != nil {
		return err
	}
	s := export.New(export.Named("case", "title", "item", "kind", "price", "median", "times", "cases")...)
	for _, x := range budget.Compare(c.priced) {
		of := c.cases[x.Case]
		s.Add(export.Text(of.Ref), export.Text(of.Title), export.Text(x.Item), export.Text(x.Kind),
			export.Text(money.Plain(x.Price, f.Design.Currency)), export.Text(money.Plain(x.Median, f.Design.Currency)),
			export.Text(tenths(x.Times())), export.Whole(int64(x.Cases)))
	}
	return r.Give(r.Round.Key+" costs", s)
}
