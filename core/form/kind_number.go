package form

import (
	"ulvant/core/condition"
	"ulvant/core/decimal"
)

var _ = register(kind{
	key: Number, means: "Number", keeps: InText, typ: condition.TypeNumber, comparable: true, measure: Scaled,
	members: []string{"scale", "unit"}, limits: []string{"least", "most"},
	read: readNumber, check: checkRange, how: howNumber,
	words: func(_ *Form, q *Question, _ *Filled, s *QuestionState) string {
		return inUnit(decimal.String(*s.Value.Number, q.Scale), q.Unit)
	},
	values: spanning(-1e13, 1e13), bounds: rangeBounds, possible: rangePossible, example: numberWithin,
	tenths: takes(10), surveys: true, weighed: true, control: figureIn(ownUnit),
})
