package form

import (
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/decimal"
)

// The sum of the groups is the answer.
var _ = register(kind{
	key: Counts, means: "Counts by group", keeps: InPieces, typ: condition.TypeNumber, comparable: true, measure: Whole,
	members: []string{"options"}, limits: []string{"least", "most"},
	compile: func(c *compiler, q *Question) { c.need(len(q.Options) > 0, "name the groups that are counted") },
	parts: func(_ *Form, q *Question) (out []Part) {
		for _, o := range q.Options {
			out = append(out, Part{Key: o.Key, Label: o.Label, Kind: Number, Named: true})
		}
		return out
	},
	check: addParts,
	words: func(_ *Form, _ *Question, _ *Filled, s *QuestionState) string {
		out := pieceWords(s)
		if s.Value.Number != nil {
			out = append(out, "all: "+decimal.String(*s.Value.Number, 0))
		}
		return strings.Join(out, ", ")
	},
	note: func(_ *Form, _ *Question, _ *Filled, s *QuestionState) string {
		if s.Value.Number != nil {
			return "All together " + strconv.FormatInt(s.Value.Number.Num, 10)
		}
		return ""
	},
	values: spanning(0, 1e12), bounds: rangeBounds, possible: rangePossible, complete: completePlainly,
	tenths: takes(20), weighed: true, control: piecesDrawn,
})

func addParts(w *walk, q *question, s *QuestionState) {
	sum := condition.Number{Den: 1}
	for _, p := range s.Parts {
		if p.Presence != condition.Given {
			return
		}
		if p.Value.Number.Num < 0 {
			w.obstacle(s, Obstacle{Code: CodePartUnreadable, Place: Place{Question: q.def.Key, Column: p.Key}, Name: p.Label,
				Detail: p.Raw})
			return
		}
		sum.Num += p.Value.Number.Num
	}
	s.Value.Number = &sum
	checkRange(w, q, s)
}
