package form

import (
	"math"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/decimal"
)

// A percentage is kept as a share: 12.5 % is 125/1000. Without a limit of its
// own it is at most the whole, and never less than nothing.
var _ = register(kind{
	key: Percent, means: "Percentage", keeps: InText, typ: condition.TypeNumber, comparable: true, measure: Shares,
	members: []string{"scale"}, limits: []string{"least", "most"},
	read: readPercent, check: checkPercent, how: howNumber, typed: percentTyped,
	words: func(f *Form, q *Question, _ *Filled, s *QuestionState) string {
		return percentTyped(f, q, s.Value) + "%"
	},
	values: spanning(0, math.MaxInt32),
	bounds: func(f *Form, q *Question, l Limits) []Bound {
		if l.Most == nil {
			l.Most = new(int64)
			*l.Most = q.Den()
		}
		return rangeBounds(f, q, l)
	},
	possible: rangePossible, example: numberWithin, tenths: takes(10), surveys: true, weighed: true,
	control: figureIn(func(*Form, *Question) string { return "%" }),
})

func readPercent(f *Form, q *Question, raw string) (condition.Value, bool) {
	v, ok := readNumber(f, q, strings.TrimSuffix(strings.TrimSpace(raw), "%"))
	if ok {
		v.Number.Den *= 100
	}
	return v, ok
}

func percentTyped(_ *Form, q *Question, v condition.Value) string {
	return decimal.String(condition.Number{Num: v.Number.Num * 100, Den: v.Number.Den}, q.Scale)
}

func checkPercent(w *walk, q *question, s *QuestionState) {
	n := s.Value.Number.Num
	if n < 0 || s.Limits.Most == nil && n > s.Value.Number.Den {
		w.obstacle(s, Obstacle{Code: CodeTooMuch, Have: n, Limit: s.Value.Number.Den})
		return
	}
	checkRange(w, q, s)
}
