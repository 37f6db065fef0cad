package form

import (
	"strings"

	"ulvant/core/budget"
	"ulvant/core/decimal"
	"ulvant/core/money"
)

var _ = register(kind{
	key: Budget, means: "Budget: costs line by line, and who pays", keeps: InLines, measure: Sums,
	members: []string{"request", "options", "costing"},
	limits:  []string{"matchPercent", "matchOfAsked", "inKindMost", "caps", "notBefore"},
	compile: compileBudget,
	names:   namedInLines,
	cells: func(q *Question) (out []Key) {
		for _, c := range BudgetColumns(q) {
			out = append(out, c.Key)
		}
		return out
	},
	check: checkBudget, words: budgetWords,
	ready:    func(_ *Question, _ Limits, limit string) string { return "The costs line by line. " + limit },
	possible: budgetPossible, complete: exampleBudget, tenths: takes(200), control: piecesDrawn,
	limitsSay: costingSays,
})

// costingSays is what a budget asks beyond its limits.
func costingSays(q *Question, l Limits) string {
	var out []string
	c := q.costing()
	if l.MatchOfAsked > 0 {
		out = append(out, "Others pay at least "+decimal.String(number(l.MatchOfAsked), 0)+"% of what you ask.")
	}
	if l.InKindMost > 0 {
		out = append(out, "What is given in kind counts up to "+decimal.String(number(l.InKindMost), 0)+"% of the cost.")
	}
	if x := c.Indirect; x != nil {
		var names []string
		for _, b := range x.Bases {
			names = append(names, "“"+LabelOf(q.Options, string(b.Heading))+"”")
		}
		of := "what they cost"
		if x.OfAsked {
			of = "what you ask for them"
		}
		out = append(out, "Indirect costs are worked out for you: "+rateWords(x.Rate)+" of "+of+", of "+
			strings.Join(names, ", ")+".")
	}
	return strings.Join(out, " ")
}

func budgetWords(f *Form, q *Question, filled *Filled, s *QuestionState) string {
	c := q.costing()
	var out []string
	for _, l := range f.BudgetLines(filled, q.Key) {
		out = append(out, f.lineWords(q, l))
	}
	if t := s.Totals; t != nil {
		if c.Indirect != nil {
			sum := func(n int64) string { return money.Format(n, f.Design.Currency) }
			out = append(out, "Indirect costs: "+rateWords(c.Indirect.Rate)+" of "+sum(t.Base)+", "+sum(t.Indirect))
		}
		out = append(out, f.allWords(t))
	}
	return strings.Join(out, "\n")
}

func (f *Form) allWords(t *budget.Totals) string {
	sum := func(n int64) string { return money.Format(n, f.Design.Currency) }
	return "All: " + sum(t.Cost) + ", from us " + sum(t.FromUs) + ", from others " + sum(t.Match)
}

// YearName is the label of a year within a sentence: a bare number says little.
func YearName(label string) string {
	if len(label) < 3 {
		return "year " + label
	}
	return label
}

// lineWords writes one line.
func (f *Form) lineWords(q *Question, l BudgetLine) string {
	sum := func(n int64) string { return money.Format(n, f.Design.Currency) }
	c := q.costing()
	text := l.Item + ": "
	if c.Quantities && (l.Unit != "" || l.Quantity.Num != l.Quantity.Den) {
		text += strings.TrimSpace(decimal.String(l.Quantity, 6)+" "+LabelOf(c.Units, l.Unit)) + " at " + sum(l.Each) + ", "
	}
	text += sum(l.Cost) + ", of which from us " + sum(l.FromUs)
	if l.Heading != "" {
		text = LabelOf(q.Options, l.Heading) + " – " + text
	}
	if q.Divided() {
		for i, p := range SourceColumns {
			if l.Parts[i] > 0 {
				text += ", " + strings.ToLower(p.Label) + " " + sum(l.Parts[i])
			}
		}
	} else if p := l.PayerOf(); p != "" {
		text += "; the rest: " + string(p)
	}
	for _, x := range []struct {
		of  []Option
		key string
	}{{f.Gifts(q)[1:], l.Gives}, {c.Periods, l.Period}, {c.Partners, l.Partner}} {
		if x.key != "" {
			text += "; " + YearName(LabelOf(x.of, x.key))
		}
	}
	if !l.When.IsZero() {
		text += "; from " + l.When.Words()
	}
	if l.Supplier != "" {
		text += "; from the supplier " + l.Supplier
	}
	return text
}
