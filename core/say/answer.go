package say

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/money"
)

// Answer writes one answer for reading: choices by their labels, sums with
// their currency, tables line by line. "" when nothing was given.
func Answer(f *form.Form, q *form.Question, filled *form.Filled, st *form.QuestionState) string {
	switch q.Kind {
	case form.Address:
		var parts []string
		for _, c := range form.AddressColumns {
			if a := filled.Answers[form.Place{Question: q.Key, Column: c.Key}]; !a.Empty() {
				parts = append(parts, strings.TrimSpace(a.Raw))
			}
		}
		return strings.Join(parts, ", ")
	case form.Budget:
		lines, _, _ := f.BudgetLines(filled, q.Key)
		var out []string
		for _, l := range lines {
			s := l.Item + ": " + money.Format(l.Cost, f.Design.Currency) + ", of which from us " + money.Format(l.FromUs, f.Design.Currency)
			if l.Payer != "" {
				s += "; the rest: " + string(l.Payer)
			}
			out = append(out, s)
		}
		if st.Totals != nil {
			out = append(out, "All: "+money.Format(st.Totals.Cost, f.Design.Currency)+", from us "+money.Format(st.Totals.FromUs, f.Design.Currency)+
				", from others "+money.Format(st.Totals.Match, f.Design.Currency))
		}
		return strings.Join(out, "\n")
	}
	switch {
	case st.Presence == condition.Declared:
		return "not known"
	case st.Presence != condition.Given:
		return strings.TrimSpace(st.Raw)
	}
	switch q.Kind {
	case form.YesNo:
		return Names{f}.Value(condition.Ref{Answer: q.Key}, st.Value)
	case form.Declaration:
		return "agreed"
	case form.Choice, form.Money, form.Date:
		return Names{f}.Value(condition.Ref{Answer: q.Key}, st.Value)
	case form.Number:
		return decimal(st.Value.Number.Num, q.Scale) + " " + q.Unit
	}
	return strings.TrimSpace(st.Raw)
}
