package form

import (
	"slices"
	"time"

	"ulvant/core/condition"
)

// FeeState is one fee for one applicant.
type FeeState struct {
	Key      Key
	Offered  condition.Tri
	Taken    int   // how many; of an entry fee always one; of a bundle how many it takes the place of
	Least    int64 // minor units for one; where the price is not known yet, the range
	Most     int64
	Settled  bool
	Optional bool
	When     int       // of Price.When, the case that holds; -1 for the price otherwise
	Since    time.Time // from when this price holds; zero: from the start
	Saves    int64     // of a bundle: what it takes off the single prices, all of it together
}

// ColCode keeps the code typed beside the fees.
const ColCode Key = "code"

// What a fee is.
const (
	FeeEntry  = "entry"
	FeeBundle = "bundle"
)

// optional fees are taken by choice; the entry itself is not, and a bundle takes
// the place of what is taken.
func optional(f *Fee) bool { return f.What != FeeEntry && f.What != FeeBundle }

// fees works out every fee as it stands at an instant, the bundles last.
func (w *walk) fees(taken func(Key) int, at time.Time) (out []FeeState) {
	for i := range w.form.fees {
		x := &w.form.fees[i]
		st := FeeState{Key: x.def.Key, Offered: x.offered.Eval(w.frame).Tri, Optional: optional(x.def)}
		switch {
		case x.def.What == FeeEntry:
			st.Taken = 1
		case st.Optional && taken != nil:
			st.Taken = taken(x.def.Key)
		}
		w.price(x, &st, at)
		out = append(out, st)
	}
	w.bundles(out)
	return out
}

// bundles are put in the place of what is taken, those first that save the most;
// one that saves nothing is left out, so that nobody pays more for having taken
// more.
func (w *walk) bundles(list []FeeState) {
	find := func(k Key) *FeeState {
		for i := range list {
			if list[i].Key == k {
				return &list[i]
			}
		}
		return nil
	}
	free := map[Key]int{}
	for i := range list {
		if w.form.fees[i].def.What != FeeBundle && list[i].Offered == condition.Yes && list[i].Settled {
			free[list[i].Key] = max(list[i].Taken, 0)
		}
	}
	for {
		best, saves := -1, int64(0)
		for i := range list {
			b := w.form.fees[i].def
			if b.What != FeeBundle || list[i].Offered != condition.Yes || !list[i].Settled || len(b.Of) == 0 {
				continue
			}
			sum, fits := -list[i].Most, true
			for _, k := range b.Of {
				x := find(k)
				fits = fits && x != nil && free[k] > 0
				if x != nil {
					sum += x.Most
				}
			}
			if fits && sum > saves {
				best, saves = i, sum
			}
		}
		if best < 0 {
			return
		}
		list[best].Taken++
		list[best].Saves += saves
		for _, k := range w.form.fees[best].def.Of {
			free[k]--
		}
	}
}

// price fills in the case that holds and what it comes to at an instant; while
// either is open, the range still possible.
func (w *walk) price(x *fee, st *FeeState, at time.Time) {
	st.Settled, st.When = true, -1
	first := true
	take := func(p Price) {
		least, most, since, settled := w.form.priced(p, at)
		if first {
			st.Least, st.Most, st.Since, first = least, most, since, false
		}
		st.Least, st.Most = min(st.Least, least), max(st.Most, most)
		st.Settled = st.Settled && settled
	}
	for i, p := range x.prices {
		switch p.Eval(w.frame).Tri {
		case condition.Yes:
			st.When = i
			take(x.def.Price.When[i].Then)
			return
		case condition.Unknown:
			take(x.def.Price.When[i].Then)
			st.Settled = false
		}
	}
	take(x.def.Price.Else)
}

// priced is what a price is at an instant, and since when; at the zero instant
// the range of all it becomes.
func (f *Form) priced(p Price, at time.Time) (least, most int64, since time.Time, settled bool) {
	least, most = p.Amount, p.Amount
	for _, r := range p.Later {
		from := f.At(r.From)
		switch {
		case at.IsZero():
			least, most = min(least, r.Amount), max(most, r.Amount)
		case !at.Before(from):
			least, most, since = r.Amount, r.Amount, from
		}
	}
	return least, most, since, !at.IsZero() || least == most
}

// changes are the instants at which a fee of the round changes or a code stops
// working, each once, the first first.
func (f *Form) changes() (out []time.Time) {
	rises := func(p Price) {
		for _, r := range p.Later {
			out = append(out, f.At(r.From))
		}
	}
	for i := range f.Design.Fees {
		p := &f.Design.Fees[i].Price
		rises(p.Else)
		for _, c := range p.When {
			rises(c.Then)
		}
	}
	for _, c := range f.Design.Codes {
		if !c.Until.IsZero() {
			out = append(out, f.over(c))
		}
	}
	slices.SortFunc(out, time.Time.Compare)
	return slices.CompactFunc(out, time.Time.Equal)
}

// over is the first instant at which a code no longer works.
func (f *Form) over(c FeeCode) time.Time {
	y, m, d := c.Until.Civil()
	return time.Date(y, m, d+1, 0, 0, 0, 0, f.Zone)
}
