package field

import (
	"slices"
	"strconv"
	"strings"

	"ulvant/core/budget"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/form"
	"ulvant/core/money"
)

// What a budget comes to, drawn from its totals.

func percentText(n int64) string { return strconv.FormatInt(n, 10) + "%" }

// payers are who pays, as the strip shows them, this fund first.
var payers = append([]form.Source{{Key: "us", Label: "From us"}}, form.SourceColumns...)

// sums writes every figure that is worked out under its name; a budget that
// cannot be added up yet has none but those of its lines.
func (c *Costs) sums(f *form.Form, q *form.Question, s *form.QuestionState) {
	cur := f.Design.Currency
	x := q.Costing
	if x == nil {
		x = &form.Costing{}
	}
	c.Comes = comesTo(f, q, x)
	t := s.Totals
	if t == nil {
		t = &budget.Totals{}
	}
	sum := func(name string, n int64) {
		c.Sums[name] = ""
		if s.Totals != nil {
			c.Sums[name] = money.Format(n, cur)
		}
	}
	sum("cost", t.Cost)
	sum("from-us", t.FromUs)
	sum("match", t.Match)
	sum("indirect", t.Indirect)
	sum("base", t.Base)
	c.Sums["match-of-cost"], c.Sums["match-of-asked"] = budget.Percent(
		t.Match,
		t.Cost,
	), budget.Percent(
		t.Match,
		t.FromUs,
	)
	if t.Counted != t.Match {
		sum("counted", t.Counted)
		c.Sums["counted-of-cost"] = budget.Percent(t.Counted, t.Cost)
	}
	for _, h := range q.Options {
		p := t.ByHeading[string(h.Key)]
		c.Sums["heading-"+string(h.Key)] = ""
		if s.Totals != nil && p.Cost > 0 {
			c.Sums["heading-"+string(h.Key)] = money.Format(p.Cost, cur) + " · " + budget.Percent(p.Cost, t.Cost)
		}
	}
	for _, o := range x.Periods {
		sum("period-"+string(o.Key), t.ByPeriod[string(o.Key)].FromUs)
	}
	for _, o := range x.Partners {
		sum("partner-"+string(o.Key), t.ByPartner[string(o.Key)].FromUs)
	}
	for _, o := range f.Gifts(q) {
		sum("asked-"+string(o.Key), t.ByGives[string(o.Key)].FromUs)
	}
	all := func(k form.Key, n int64) {
		if s.Totals != nil && (n != 0 || k == form.ColCost) {
			c.Sums["all-"+string(k)] = money.Plain(n, cur)
		}
	}
	all(form.ColCost, t.Cost)
	all(form.ColUs, t.FromUs)
	all(form.ColMatch, t.Match)
	for _, p := range form.SourceColumns {
		all(p.Key, t.ByPayer[p.Payer])
	}
	if x.Indirect == nil {
		delete(c.Sums, "indirect")
	}
	c.strip(q, t, cur, s)
}

// strip lays out who pays, of 1000 of the cost.
func (c *Costs) strip(q *form.Question, t *budget.Totals, cur string, s *form.QuestionState) {
	at := int64(0)
	for _, p := range payers {
		n := t.FromUs
		if p.Payer != "" {
			n = t.ByPayer[p.Payer]
		}
		name := "pays-" + string(p.Key)
		if c.Sums[name] = ""; n > 0 && t.Cost > 0 {
			c.Sums[name] = money.Format(n, cur) + " · " + budget.Percent(n, t.Cost)
		}
		to := at
		if t.Cost > 0 && n > 0 {
			to = min(1000, at+budget.Portion(n, t.Cost, 1000))
		}
		if p.Payer == "" || n > 0 || !q.Divided() || slices.Contains(q.Costing.Sources, p.Key) {
			c.Strip = append(c.Strip, Segment{string(p.Key), p.Label, at, to - at})
		}
		at = to
	}
	if s.Limits.MatchPercent > 0 {
		c.At = strconv.FormatInt(1000-10*s.Limits.MatchPercent, 10)
	}
}

// comesTo are the rows under the grid.
func comesTo(f *form.Form, q *form.Question, x *form.Costing) []ComesTo {
	out := []ComesTo{{"Cost of it all", "", "cost"}, {"You ask from us", "", "from-us"}}
	if len(x.Gives) > 0 {
		for _, g := range f.Gifts(q) {
			out = append(out, ComesTo{"as " + g.Label, "", "asked-" + string(g.Key)})
		}
	}
	for _, p := range x.Partners {
		out = append(out, ComesTo{"for " + p.Label, "", "partner-" + string(p.Key)})
	}
	for _, p := range x.Periods {
		out = append(out, ComesTo{"in " + form.YearName(p.Label), "", "period-" + string(p.Key)})
	}
	out = append(out, ComesTo{"Others and you", "", "match"}, ComesTo{"that is, of the cost", "", "match-of-cost"},
		ComesTo{"and of what you ask", "", "match-of-asked"})
	if q.Limits.Else.InKindMost > 0 {
		out = append(
			out,
			ComesTo{"of which counts", "in kind up to " + percentText(q.Limits.Else.InKindMost) + " of the cost",
				"counted"},
		)
	}
	if i := x.Indirect; i != nil {
		var not []string
		for _, o := range q.Options {
			if !slices.ContainsFunc(i.Bases, func(b form.Base) bool { return b.Heading == o.Key }) {
				not = append(not, "“"+o.Label+"”")
			}
		}
		note := ""
		if len(not) > 0 {
			note = "not on " + strings.Join(not, ", ")
		}
		rate := decimal.String(condition.Number{Num: i.Rate, Den: 100}, 2) + "%"
		out = append(
			out,
			ComesTo{"Indirect costs are reckoned on", note, "base"},
			ComesTo{"and come to " + rate + " of it", "",
				"indirect"},
		)
	}
	return out
}
