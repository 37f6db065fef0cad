package form

import (
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/decimal"
	"ulvant/core/phrase"
)

// What kinds whose answer is a number have in common.

func dayValue(n int64) condition.Value { return condition.Value{Date: calendar.Date(n)} }

func tens(n int) int64 {
	out := int64(1)
	for range n {
		out *= 10
	}
	return out
}

// readNumber reads at most Scale decimals, and scales to them.
func readNumber(_ *Form, q *Question, raw string) (condition.Value, bool) {
	n, ok := decimal.Parse(raw)
	if !ok {
		return condition.Value{}, false
	}
	den := tens(q.Scale)
	if n.Den > den || n.Num > 1e13 || n.Num < -1e13 {
		return condition.Value{}, false
	}
	return condition.Value{Number: &condition.Number{Num: n.Num * (den / n.Den), Den: den}}, true
}

func howNumber(q *Question) string {
	if q.Scale == 0 {
		return "Write a whole number."
	}
	return "Write a number with at most " + phrase.Count(int64(q.Scale), "decimal", "decimals") + "."
}

func checkRange(w *walk, _ *question, s *QuestionState) {
	n := s.Value.Number.Num
	if l := s.Limits.Least; l != nil && n < *l {
		w.obstacle(s, Obstacle{Code: CodeTooLittle, Have: n, Limit: *l})
	}
	if l := s.Limits.Most; l != nil && n > *l {
		w.obstacle(s, Obstacle{Code: CodeTooMuch, Have: n, Limit: *l})
	}
}

func rangeBounds(_ *Form, _ *Question, l Limits) (out []Bound) {
	if l.Least != nil {
		out = append(out, Bound{"least", true, *l.Least})
	}
	if l.Most != nil {
		out = append(out, Bound{"most", false, *l.Most})
	}
	return out
}

func rangePossible(_ *Form, _ *Question, l Limits) bool {
	return l.Least == nil || l.Most == nil || *l.Least <= *l.Most
}

// numberWithin is one, or the nearest to it that the limits allow, as it is typed.
func numberWithin(f *Form, q *Question, l Limits) string {
	n := int64(1)
	if l.Least != nil {
		n = max(n, *l.Least)
	}
	if l.Most != nil {
		n = min(n, *l.Most)
	}
	return f.Typed(q, q.ValueOf(n))
}

func spanning(low, high int64) func(*Form, *Question) Values {
	return func(*Form, *Question) Values { return Values{Of: Numbers, Low: low, High: high} }
}

func inUnit(text, unit string) string { return strings.TrimSpace(text + " " + unit) }

func figureIn(unit func(f *Form, q *Question) string) func(*Form, *Question, *Filled, string) Control {
	return func(f *Form, q *Question, _ *Filled, _ string) Control {
		return Control{As: control.Figure, Unit: unit(f, q)}
	}
}

func ownUnit(_ *Form, q *Question) string { return q.Unit }
