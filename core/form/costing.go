package form

import (
	"slices"

	"ulvant/core/budget"
)

// Costing says what the lines of a budget hold beyond a name, a cost, what is
// asked and who pays the rest. The zero value adds nothing.
type Costing struct {
	Quantities bool      `json:"quantities,omitempty"` // a line is so many of a unit, each at so much; its cost is worked out
	Units      []Option  `json:"units,omitempty"`      // what there is to choose from; none: any word
	Sources    []Key     `json:"sources,omitempty"`    // of SourceColumns: the cost is divided among them, a column for each; none: one pays the rest
	Periods    []Option  `json:"periods,omitempty"`    // years, in their order
	Partners   []Option  `json:"partners,omitempty"`   // who spends it
	Gives      []Key     `json:"gives,omitempty"`      // gifts of the design that can be asked for beside money of the fund
	Dated      bool      `json:"dated,omitempty"`      // each line says on which day it is first spent
	Quotes     *Quotes   `json:"quotes,omitempty"`
	Indirect   *Indirect `json:"indirect,omitempty"`
}

// Quotes are wanted for lines that cost as much as Above or more, in minor
// units, under some headings; under all of them when none is named.
type Quotes struct {
	Above int64 `json:"above"`
	Count int   `json:"count"`          // how many; 0 for the supplier's name alone
	Slot  Key   `json:"slot,omitempty"` // the file slot they are put in at

	Headings []Key `json:"headings,omitempty"`
}

// Indirect costs: a rate on the lines of some headings.
type Indirect struct {
	Rate    int64  `json:"rate"`  // in hundredths of a percent
	Bases   []Base `json:"bases"` // headings that belong to the base
	OfAsked bool   `json:"ofAsked,omitempty"`
	ByOwn   bool   `json:"byOwn,omitempty"` // the applicant bears them
}

// Base is a heading in the base of indirect costs; minor units, 0 for no cap.
type Base struct {
	Heading     Key   `json:"heading"`
	LineMost    int64 `json:"lineMost,omitempty"`
	PartnerMost int64 `json:"partnerMost,omitempty"`
}

// CapOf says of what a cap on a heading is a share.
type CapOf string

// A heading's part of the request is capped by what is asked; its cost by the
// whole cost, or by the cost without indirect costs.
const (
	OfAsked  CapOf = ""
	OfCost   CapOf = "cost"
	OfDirect CapOf = "direct"
)

// The columns of a budget. There is a heading when the question has options:
// they are its headings.
const (
	ColItem     Key = "item"
	ColHeading  Key = "heading"
	ColPartner  Key = "partner"
	ColPeriod   Key = "period"
	ColGives    Key = "gives"
	ColQuantity Key = "quantity"
	ColUnit     Key = "unit"
	ColEach     Key = "each"
	ColCost     Key = "cost"
	ColUs       Key = "from-us"
	ColPayer    Key = "payer"
	ColSupplier Key = "supplier"
	ColQuotes   Key = "quotes"
	ColWhen     Key = "when"
)

// Source of money with a column of its own.
type Source struct {
	Key   Key
	Label string
	Payer budget.Payer
}

// SourceColumns are the sources that a cost can be divided among, in the order
// of budget.Payers.
var SourceColumns = []Source{{"own", "Own", budget.Own}, {"promised", "Promised", budget.Promised},
	{"applied", "Applied for", budget.Applied}, {"in-kind", "In kind", budget.InKind}}

// OfMoney is the key under which a line asks for the fund's own money.
const OfMoney Key = ""

var noCosting = &Costing{}

// costing of a budget; never nil.
func (q *Question) costing() *Costing {
	if q.Costing == nil {
		return noCosting
	}
	return q.Costing
}

// Divided reports a budget whose costs are divided among sources line by line.
func (q *Question) Divided() bool { return len(q.costing().Sources) > 0 }

// BudgetColumns lists the columns of a budget in order. A cost that is worked
// out is no column: nobody types it.
func BudgetColumns(q *Question) []Option {
	c := q.costing()
	out := []Option{{ColItem, "What"}}
	when := func(has bool, k Key, label string) {
		if has {
			out = append(out, Option{k, label})
		}
	}
	when(len(q.Options) > 0, ColHeading, "Heading")
	when(len(c.Partners) > 0, ColPartner, "Whose")
	when(c.Quantities, ColQuantity, "How many")
	when(c.Quantities, ColUnit, "of")
	when(c.Quantities, ColEach, "Each")
	when(!c.Quantities, ColCost, "Cost")
	when(true, ColUs, "From us")
	for _, s := range SourceColumns {
		when(slices.Contains(c.Sources, s.Key), s.Key, s.Label)
	}
	when(!q.Divided(), ColPayer, "Who pays the rest")
	when(len(c.Gives) > 0, ColGives, "As")
	when(len(c.Periods) > 0, ColPeriod, "Year")
	when(c.Dated, ColWhen, "First spent on")
	when(c.Quotes != nil, ColSupplier, "Supplier")
	when(c.Quotes != nil && c.Quotes.Count > 0, ColQuotes, "Quotes")
	return out
}

// Gifts are what can be asked for in a budget, the fund's own money first.
func (f *Form) Gifts(q *Question) []Option {
	out := []Option{{OfMoney, "money"}}
	for _, g := range f.Design.Gifts {
		if slices.Contains(q.costing().Gives, g.Key) {
			out = append(out, Option{g.Key, g.Label})
		}
	}
	return out
}

// Gift of the design; nil when there is none.
func (f *Form) Gift(k Key) *Gift {
	for i := range f.Design.Gifts {
		if f.Design.Gifts[i].Key == k {
			return &f.Design.Gifts[i]
		}
	}
	return nil
}

// compileBudget finds faults of a budget's costing.
func compileBudget(c *compiler, q *Question) {
	sum := func(k Key) bool {
		r, ok := c.f.index[k]
		return ok && r < c.walked && c.f.questions[r].def.Keeps() == InText &&
			c.f.questions[r].def.Measure() == Sums
	}
	c.need(sum(q.Request), "a budget names the money question before it that it must add up to")
	heading := func(k Key) bool {
		return slices.ContainsFunc(q.Options, func(o Option) bool { return o.Key == k })
	}
	for _, l := range append([]Limits{q.Limits.Else}, thens(q.Limits.When)...) {
		for _, x := range l.Caps {
			c.need(heading(x.Heading), "the budget has no heading %q to cap", x.Heading)
			c.need(
				slices.Contains([]CapOf{OfAsked, OfCost, OfDirect}, x.Of),
				"a cap is a share of what is asked, of the "+
					"cost or of the direct cost",
			)
			c.need(x.Percent >= 0 && x.Percent <= 100, "a share lies between 0 and 100 percent")
		}
		c.need(l.MatchOfAsked >= 0 && l.MatchOfAsked <= 1000 && l.InKindMost >= 0 && l.InKindMost <= 100,
			"a share lies between 0 and 100 percent")
	}
	x := q.costing()
	for _, list := range [][]Option{x.Units, x.Periods, x.Partners} {
		seen := map[Key]bool{}
		for _, o := range list {
			c.need(keyForm.MatchString(string(o.Key)) && !seen[o.Key], "%q is given twice or badly named", o.Key)
			c.need(o.Label != "", "each needs a label")
			seen[o.Key] = true
		}
	}
	for _, s := range x.Sources {
		c.need(slices.ContainsFunc(SourceColumns, func(o Source) bool { return o.Key == s }), "nobody pays as %q", s)
	}
	for _, k := range x.Gives {
		g := c.f.Gift(k)
		c.need(g != nil, "nothing that is given is called %q", k)
		c.need(g == nil || g.Request == "" || sum(g.Request), "%q adds up to a money question before the budget", k)
	}
	if x.Quotes != nil {
		i, ok := c.f.index[x.Quotes.Slot]
		c.need(
			x.Quotes.Count == 0 || ok && c.f.questions[i].def.TakesFiles(),
			"name the file slot that quotes are put in at",
		)
		for _, h := range x.Quotes.Headings {
			c.need(heading(h), "the budget has no heading %q to want quotes under", h)
		}
		c.need(
			x.Quotes.Above >= 0 && x.Quotes.Count >= 0 && x.Quotes.Count <= 20,
			"a limit lies outside what is possible",
		)
	}
	if x.Indirect != nil {
		c.need(
			x.Indirect.Rate > 0 && x.Indirect.Rate <= 100_00,
			"indirect costs are a share between 0 and 100 percent",
		)
		c.need(len(x.Indirect.Bases) > 0, "name the headings that indirect costs are reckoned on")
		for _, b := range x.Indirect.Bases {
			c.need(heading(b.Heading), "the budget has no heading %q to reckon indirect costs on", b.Heading)
			c.need(b.LineMost >= 0 && b.PartnerMost >= 0, "a limit lies outside what is possible")
		}
	}
}

func thens[T any](cases []Case[T]) (out []T) {
	for _, c := range cases {
		out = append(out, c.Then)
	}
	return out
}

// budgetRules are the rules a budget is added up by, under its limits.
func budgetRules(q *Question, l Limits) budget.Rules {
	c := q.costing()
	out := budget.Rules{InKindMost: l.InKindMost}
	for _, p := range c.Periods {
		out.Periods = append(out.Periods, string(p.Key))
	}
	if x := c.Indirect; x != nil {
		out.Indirect = &budget.Indirect{Rate: x.Rate, OfAsked: x.OfAsked, ByOwn: x.ByOwn}
		for _, b := range x.Bases {
			out.Indirect.Bases = append(
				out.Indirect.Bases,
				budget.Base{Heading: string(b.Heading), LineMost: b.LineMost,
					PartnerMost: b.PartnerMost},
			)
		}
	}
	return out
}
