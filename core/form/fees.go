package form

import (
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
