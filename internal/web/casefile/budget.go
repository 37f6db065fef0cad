package casefile

import (
	"strconv"

	"ulvant/core/budget"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/money"
)

// BudgetTable is a budget as it is read.
type BudgetTable struct {
	Rows  []BudgetRow
	All   BudgetRow
	Share string // what others pay, in percent of the cost
	Least int64  // percent the round asks for
}

// BudgetRow is one line of it, formatted.
type BudgetRow struct{ Item, Cost, FromUs, Match, Payer string }

// Budget of an application, nil when it has none.
func Budget(f *form.Form, filled *form.Filled, path *form.Path) *BudgetTable {
	for i := range path.Questions {
		st := &path.Questions[i]
		q := f.Question(st.Key)
		if q.Keeps() != form.InLines || st.Asked != condition.Yes || st.Totals == nil {
			continue
		}
		cur := f.Design.Currency
		lines, _, _ := f.BudgetLines(filled, q.Key)
		t := &BudgetTable{All: BudgetRow{Item: "All", Cost: money.Format(st.Totals.Cost, cur),
			FromUs: money.Format(st.Totals.FromUs, cur), Match: money.Format(st.Totals.Match, cur)},
			Share: strconv.FormatFloat(budget.Percent(st.Totals.Match, st.Totals.Cost), 'f', 1,
				64), Least: st.Limits.MatchPercent}
		for _, l := range lines {
			t.Rows = append(t.Rows, BudgetRow{l.Item, money.Format(l.Cost, cur), money.Format(l.FromUs, cur),
				money.Format(l.Match(), cur), string(l.Payer)})
		}
		return t
	}
	return nil
}
