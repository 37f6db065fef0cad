package form

import (
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/money"
)

var _ = register(kind{
	key: Money, means: "Sum of money", keeps: InText, typ: condition.TypeNumber, comparable: true, measure: Sums,
	limits: []string{"least",
		"most"}, read: readMoney, check: checkRange, how: says("Write a sum such as 64,000 or 1,250.50."),
	words: func(f *Form, _ *Question, _ *Filled, s *QuestionState) string {
		return money.Format(s.Value.Number.Num, f.Design.Currency)
	},
	note: func(f *Form, _ *Question, _ *Filled, s *QuestionState) string {
		sum := money.Format(s.Value.Number.Num, f.Design.Currency)
		if strings.ContainsAny(s.Raw, ".,") && sum != strings.TrimSpace(s.Raw) {
			return "Read as " + sum
		}
		return ""
	},
	typed:  func(f *Form, _ *Question, v condition.Value) string { return f.sumTyped(v.Number.Num) },
	values: spanning(-9e14, 9e14), bounds: rangeBounds, possible: rangePossible, example: numberWithin,
	tenths: takes(10), weighed: true, control: figureIn(func(f *Form, _ *Question) string { return f.Design.Currency }),
})

func readMoney(f *Form, _ *Question, raw string) (condition.Value, bool) {
	n, ok := money.Parse(raw, f.Design.Currency)
	return condition.Value{Number: &condition.Number{Num: n, Den: 1}}, ok
}

// sumTyped is a sum in minor units as it is typed; the currency says how many
// decimals it takes.
func (f *Form) sumTyped(n int64) string {
	for _, digits := range []int{2, 0, 3} {
		s := decimal.String(condition.Number{Num: n, Den: tens(digits)}, digits)
		if read, ok := money.Parse(s, f.Design.Currency); ok && read == n {
			return s
		}
	}
	return strconv.FormatInt(n, 10)
}
