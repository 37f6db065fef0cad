package form

import (
	"strings"

	"ulvant/core/budget"
)

// Costs of many cases of a round, read one after another.

// Budgets lists the budget questions of a design.
func (f *Form) Budgets() (out []*Question) {
	for i := range f.questions {
		if q := f.questions[i].def; q.Keeps() == InLines {
			out = append(out, q)
		}
	}
	return out
}

// CostOf adds up the lines of one case; ok is false when they do not add up.
func (f *Form) CostOf(q *Question, lines []BudgetLine) (budget.Totals, bool) {
	for _, l := range lines {
		if len(l.Unread) > 0 {
			return budget.Totals{}, false
		}
	}
	return budget.Sum(Lined(lines), budgetRules(q, q.Limits.Else))
}

// ReadLine reads one line from its cells; ok is false when it holds nothing.
func (f *Form) ReadLine(q *Question, row string, cell func(Key) string) (BudgetLine, bool) {
	l, ok := f.budgetLine(q, func(k Key) string { return strings.TrimSpace(cell(k)) })
	l.Row = row
	return l, ok
}

// Priced is a line as it is compared with those of other cases: of its heading
// and unit by what one costs, without units by what it costs.
func (l BudgetLine) Priced(q *Question, id int64) budget.Priced {
	p := budget.Priced{Case: id, Row: l.Row, Item: l.Item, Price: l.Cost,
		Kind: LabelOf(q.Options, l.Heading)}
	if q.costing().Quantities {
		p.Price = l.Each
		if unit := strings.ToLower(LabelOf(q.costing().Units, l.Unit)); unit != "" {
			p.Kind = strings.TrimPrefix(p.Kind+", "+unit, ", ")
		}
	}
	return p
}

// LineChange is a line of a budget before and after, as it is read; "" where it
// was not there.
type LineChange struct{ Was, Is string }

// BudgetChanges lists the lines that differ between two versions of a budget, in
// the order of their rows, and what both come to.
func (f *Form) BudgetChanges(q *Question, was, is *Filled) []LineChange {
	rows := map[string]*LineChange{}
	var order []string
	for i, x := range []*Filled{was, is} {
		for _, l := range f.BudgetLines(x, q.Key) {
			if rows[l.Row] == nil {
				rows[l.Row] = &LineChange{}
				order = append(order, l.Row)
			}
			if text := f.lineWords(q, l); i == 0 {
				rows[l.Row].Was = text
			} else {
				rows[l.Row].Is = text
			}
		}
	}
	var out []LineChange
	for _, row := range order {
		if c := rows[row]; c.Was != c.Is {
			out = append(out, *c)
		}
	}
	sums := func(x *Filled) string {
		t, ok := f.CostOf(q, f.BudgetLines(x, q.Key))
		if !ok {
			return ""
		}
		return f.allWords(&t)
	}
	if a, b := sums(was), sums(is); a != b {
		out = append(out, LineChange{a, b})
	}
	return out
}
