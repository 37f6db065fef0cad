package form

import (
	"strings"

	"ulvant/core/condition"
)

// FeeState is one charge for one applicant.
type FeeState struct {
	Key      Key
	Offered  condition.Tri
	Taken    int   // how many; of an entry fee always one
	Least    int64 // minor units for one; where the price is not known yet, the range
	Most     int64
	Settled  bool
	Optional bool
}

// ColCode keeps the code typed beside the fees.
const ColCode Key = "code"

// optional fees are taken by choice; the entry itself is not.
func optional(f *Fee) bool { return f.What != "entry" }

// feeParts are a number for each fee that is taken by choice, and a code.
func feeParts(f *Form, _ *Question) []Part {
	var out []Part
	for i := range f.Design.Fees {
		if x := &f.Design.Fees[i]; optional(x) {
			out = append(out, Part{Key: x.Key, Label: x.Label, Kind: Number, May: true})
		}
	}
	if len(f.Design.Codes) > 0 {
		out = append(out, Part{Key: ColCode, Label: "Code, if you were given one", Kind: Short, May: true})
	}
	return out
}

// fees works out every charge as it stands, and what is to be paid.
func (w *walk) fees(taken func(Key) int) (out []FeeState) {
	for i := range w.form.fees {
		x := &w.form.fees[i]
		st := FeeState{Key: x.def.Key, Offered: x.offered.Eval(w.frame).Tri, Optional: optional(x.def), Settled: true}
		if !st.Optional {
			st.Taken = 1
		} else if taken != nil {
			st.Taken = taken(x.def.Key)
		}
		st.Least, st.Most, st.Settled = w.price(x)
		out = append(out, st)
	}
	for i := range out { // a bundle unlocks nothing that is not offered by itself
		for _, k := range w.form.fees[i].def.Of {
			for j := range out {
				if out[j].Key == k {
					out[i].Offered = min(out[i].Offered, out[j].Offered)
				}
			}
		}
	}
	return out
}

// price is the case that holds; while that is open, the range still possible.
func (w *walk) price(x *fee) (least, most int64, settled bool) {
	settled = true
	first := true
	take := func(n int64) {
		if first {
			least, most, first = n, n, false
		}
		least, most = min(least, n), max(most, n)
	}
	for i, p := range x.prices {
		switch p.Eval(w.frame).Tri {
		case condition.Yes:
			take(x.def.Price.When[i].Then.Amount)
			return least, most, settled
		case condition.Unknown:
			take(x.def.Price.When[i].Then.Amount)
			settled = false
		}
	}
	take(x.def.Price.Else.Amount)
	return least, most, settled
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
			numbers[p.Key] = int(p.Value.Number.Num)
		}
	}
	s.Fees = w.fees(func(k Key) int { return numbers[k] })
	total := int64(0)
	for i, st := range s.Fees {
		def := &w.form.Design.Fees[i]
		most := max(def.Most, 1)
		at := Place{Question: q.def.Key, Column: def.Key}
		switch {
		case st.Offered == condition.No:
			if st.Optional && st.Taken > 0 {
				w.obstacle(s, Obstacle{Code: CodeTooMuch, Place: at, Name: def.Label, Have: int64(st.Taken), Limit: 0})
			}
			continue
		case st.Taken < 0:
			w.obstacle(s, Obstacle{Code: CodeLessThanNone, Place: at, Name: def.Label, Have: int64(st.Taken)})
			continue
		case st.Taken > most:
			w.obstacle(s, Obstacle{Code: CodeTooMuch, Place: at, Name: def.Label, Have: int64(st.Taken), Limit: int64(most)})
			continue
		}
		total += int64(st.Taken) * st.Most
	}
	if code != "" {
		total = w.discount(q, s, code, total)
	}
	s.Presence = condition.Given
	s.Value.Number = &condition.Number{Num: total, Den: 1}
}

func (w *walk) discount(q *question, s *QuestionState, code string, total int64) int64 {
	for _, c := range w.form.Design.Codes {
		if !strings.EqualFold(c.Code, code) {
			continue
		}
		if !c.Until.IsZero() && !w.filled.Today.IsZero() && w.filled.Today > c.Until {
			break
		}
		off := total*int64(c.Percent)/100 + c.Off
		s.Note, s.Off = "Code "+c.Code, min(off, total)
		return max(total-off, 0)
	}
	w.obstacle(s, Obstacle{Code: CodeFeeCode, Place: Place{Question: q.def.Key, Column: ColCode}, Name: code})
	return total
}
