package form

import (
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/money"
)

var _ = register(kind{
	key: Fees, means: "The fees: extras to take, and a code", keeps: InPieces, typ: condition.TypeNumber,
	comparable: true, measure: Sums,
	anew: true, unasked: true,
	compile: func(c *compiler, _ *Question) { c.need(len(c.f.Design.Fees) > 0, "the round charges no fees") },
	parts:   feeParts, check: checkFees,
	words: func(f *Form, _ *Question, _ *Filled, s *QuestionState) string {
		out := pieceWords(s)
		if s.Value.Number != nil && s.Charge != nil {
			out = append(out, "to pay: "+money.Format(s.Value.Number.Num, f.Design.Currency))
		}
		return strings.Join(out, ", ")
	},
	// what is to pay hangs on prices and codes, of which the proof knows nothing
	values:   func(*Form, *Question) Values { return Values{Of: Numbers, High: 1e12, Vague: true} },
	complete: completePlainly, tenths: takes(20), control: piecesDrawn,
})

// feeParts are a number for each fee that is taken by choice, and a code.
func feeParts(f *Form, _ *Question) []Part {
	var out []Part
	for i := range f.Design.Fees {
		if x := &f.Design.Fees[i]; optional(x) {
			out = append(out, Part{Key: x.Key, Label: x.Label, Kind: Number, May: true, Named: true})
		}
	}
	if len(f.Design.Codes) > 0 {
		out = append(out, Part{Key: ColCode, Label: "Code, if you were given one", Kind: Short, May: true, Named: true})
	}
	return out
}

// checkFees adds the fees up; an extra that is not offered cannot be taken.
func checkFees(w *walk, q *question, s *QuestionState) {
	numbers := map[Key]int{}
	code := ""
	for _, p := range s.Parts {
		switch {
		case p.Key == ColCode:
			code = strings.TrimSpace(p.Raw)
		case p.Presence == condition.Given:
			numbers[p.Key] = int(min(max(p.Value.Number.Num, -1), mostTaken+1)) // beyond that it is an obstacle anyway
		}
	}
	taken := func(k Key) int { return numbers[k] }
	at := w.filled.Paying.At
	s.Fees = w.fees(taken, at)
	for i := range s.Fees {
		st, def := &s.Fees[i], &w.form.Design.Fees[i]
		most := max(def.Most, 1)
		place := Place{Question: q.def.Key, Column: def.Key}
		switch {
		case !st.Optional:
		case st.Offered == condition.No && st.Taken > 0:
			w.obstacle(s, Obstacle{Code: CodeNotOffered, Place: place, Name: def.Label, Have: int64(st.Taken)})
		case st.Taken < 0:
			w.obstacle(s, Obstacle{Code: CodeLessThanNone, Place: place, Name: def.Label, Have: int64(st.Taken)})
		case st.Taken > most:
			w.obstacle(s, Obstacle{Code: CodeTooManyTaken, Place: place, Name: def.Label, Have: int64(st.Taken),
				Limit: int64(most)})
		}
	}
	charge, fault := w.charge(s.Fees, code, at)
	if fault != codeWorks {
		w.obstacle(s, Obstacle{Code: codeFaults[fault], Place: Place{Question: q.def.Key, Column: ColCode}, Name: code})
	}
	charge.Next = w.next(charge.Total, taken, code, at)
	s.Charge, s.Presence = charge, condition.Given
	s.Value.Number = &condition.Number{Num: charge.Total, Den: 1}
}

var codeFaults = map[codeFault]Code{codeUnknown: CodeFeeCode, codeOver: CodeFeeCodeOver, codeUsed: CodeFeeCodeUsed,
	codeNotTheirs: CodeFeeCodeTheirs}

// AsksFees reports that some question asks about the fees.
func (f *Form) AsksFees() bool {
	return slices.ContainsFunc(f.questions, func(q question) bool { return q.def.Kind == Fees })
}
