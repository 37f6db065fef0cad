package proof

import (
	"math/big"
	"slices"

	"ulvant/core/condition"
)

// number is a whole number that an applicant may give: a sum in minor units, a
// number at its scale, a date as a day. Each threshold it is compared with is a
// cut: an ordered boolean "it is at least c".
type number struct {
	low, high int64 // inclusive
	cuts      map[int64]lit
	order     []int64 // of the cuts, rising
}

func (f *formula) number(low, high int64) *number {
	n := &number{low: low, high: high, cuts: map[int64]lit{}}
	f.numbers = append(f.numbers, n)
	return n
}

// reaches is the literal "at least c".
func (f *formula) reaches(n *number, c int64) lit {
	switch {
	case c <= n.low:
		return always
	case c > n.high:
		return never
	}
	if l, ok := n.cuts[c]; ok {
		return l
	}
	l := f.fresh()
	i, _ := slices.BinarySearch(n.order, c)
	if i > 0 {
		f.implies(n.cuts[n.order[i-1]], l)
	}
	if i < len(n.order) {
		f.implies(l, n.cuts[n.order[i]])
	}
	n.order = slices.Insert(n.order, i, c)
	n.cuts[c] = l
	return l
}

// equals is the literal "it is c".
func (f *formula) equals(n *number, c int64) lit {
	if c < n.low || c > n.high {
		return never
	}
	return f.and(f.reaches(n, c), -f.reaches(n, c+1))
}

// between are the bounds that a model sets a number.
func (n *number) between(m model) (low, high int64) {
	low, high = n.low, n.high
	for _, c := range n.order {
		if m.holds(n.cuts[c]) {
			low = c
		} else {
			return low, c - 1
		}
	}
	return low, high
}

// over brings the ratio v to a number with den units to the whole: the
// smallest whole x with x/den ≥ v, and whether it is v exactly.
func over(v condition.Number, den int64) (x int64, exact bool) {
	num := new(big.Int).Mul(big.NewInt(v.Num), big.NewInt(den))
	d := big.NewInt(max(v.Den, 1))
	q, r := new(big.Int).DivMod(num, d, new(big.Int))
	if !q.IsInt64() {
		if q.Sign() < 0 {
			return -1 << 62, false
		}
		return 1 << 62, false
	}
	if r.Sign() == 0 {
		return q.Int64(), true
	}
	return q.Int64() + 1, false
}

// linear is an atom about several numbers: Σ k·x ≥ least. When it does not
// hold, the sum is smaller; with half set, nothing is said then.
type linear struct {
	is    lit
	terms []term
	least int64
	half  bool
}

type term struct {
	k int64
	x *number
}

// sum is the literal of a linear atom; terms of one number are joined.
func (f *formula) sum(terms []term, least int64) lit {
	var joined []term
	for _, t := range terms {
		if t.x.low == t.x.high { // no number, but what it is
			least -= t.k * t.x.low
			continue
		}
		i := slices.IndexFunc(joined, func(o term) bool { return o.x == t.x })
		if i < 0 {
			joined = append(joined, t)
		} else {
			joined[i].k += t.k
		}
	}
	joined = slices.DeleteFunc(joined, func(t term) bool { return t.k == 0 })
	switch {
	case len(joined) == 0:
		if least <= 0 {
			return always
		}
		return never
	case len(joined) == 1 && joined[0].k > 0: // x ≥ least/k, upward
		return f.reaches(joined[0].x, -floorDiv(-least, joined[0].k))
	case len(joined) == 1: // x ≤ least/k, downward
		return -f.reaches(joined[0].x, floorDiv(-least, -joined[0].k)+1)
	}
	a := &linear{is: f.fresh(), terms: joined, least: least}
	f.linear = append(f.linear, a)
	return a.is
}

// floorDiv is a/b rounded downward, for b above nothing.
func floorDiv(a, b int64) int64 {
	q := a / b
	if a%b < 0 {
		q--
	}
	return q
}

// same makes two numbers equal where a literal holds.
func (f *formula) same(when lit, x, y *number) {
	for _, k := range []int64{1, -1} {
		f.linear = append(f.linear, &linear{is: when, terms: []term{{k, x}, {-k, y}}, half: true})
	}
}
