package field

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/decimal"
	"ulvant/core/form"
	"ulvant/core/money"
)

// ReadCosts draws the budget of an application as it is read; nil when it has
// none that adds up. seen says whose eyes it is for; nil for the office's.
func ReadCosts(f *form.Form, filled *form.Filled, path *form.Path, seen func(*form.Question) bool) *Costs {
	for i := range path.Questions {
		st := &path.Questions[i]
		q := f.Question(st.Key)
		if q.Keeps() != form.InLines || st.Asked != condition.Yes || st.Totals == nil || seen != nil && !seen(q) {
			continue
		}
		d := &drawer{f, filled, nil, map[form.Place]bool{}}
		out := Field{Q: q, S: st, Currency: f.Design.Currency}
		d.costs(&out)
		c := out.Costs
		read := map[string]form.BudgetLine{}
		for _, l := range f.BudgetLines(filled, q.Key) {
			read[l.Row] = l
		}
		for b := range c.Bands {
			band := &c.Bands[b]
			lines := band.Lines[:0]
			for _, l := range band.Lines {
				if l.Empty {
					continue
				}
				for n := range l.Cells {
					l.Cells[n].Value = c.said(f, c.Columns[n], l.Cells[n], read[l.Key])
				}
				lines = append(lines, l)
			}
			band.Lines = lines
		}
		return c
	}
	return nil
}

// said is a cell as it is read.
func (c *Costs) said(f *form.Form, col CostColumn, in Input, l form.BudgetLine) string {
	cur := f.Design.Currency
	sum := func(n int64) string {
		if n == 0 {
			return ""
		}
		return money.Plain(n, cur)
	}
	switch col.Key {
	case form.ColQuantity:
		if in.Value == "" {
			return ""
		}
		return decimal.String(l.Quantity, 6)
	case form.ColEach:
		return sum(l.Each)
	case form.ColCost:
		return money.Plain(l.Cost, cur)
	case form.ColUs:
		return sum(l.FromUs)
	case form.ColMatch:
		return sum(l.Match())
	case form.ColWhen:
		if !l.When.IsZero() {
			return l.When.Words()
		}
	}
	for i, s := range form.SourceColumns {
		if s.Key == col.Key {
			return sum(l.Parts[i])
		}
	}
	if in.As == control.Checks {
		var names []string
		for _, k := range form.Lines(in.Value) {
			names = append(names, form.LabelOf(c.Quotes, k))
		}
		return strings.Join(names, ", ")
	}
	if len(in.Options) > 0 {
		return form.LabelOf(in.Options, in.Value)
	}
	return in.Value
}
