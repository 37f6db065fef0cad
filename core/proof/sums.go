package proof

import "math/big"

// bound is one thing that a model says about numbers: Σ k·x ≥ least.
type bound struct {
	terms []term
	least int64
	why   lit // holds in the model; 0 for a bound that always does
}

// sums holds a model to its sums: nil when whole numbers can be found that
// fulfil them, else a clause that forbids the conflict, as small as leaving
// bounds out one by one makes it.
func (f *formula) sums(m model) []lit {
	var bounds []bound
	used := map[*number]bool{}
	for _, a := range f.linear {
		switch {
		case m.holds(a.is):
			bounds = append(bounds, bound{a.terms, a.least, a.is})
		case !a.half:
			neg := make([]term, len(a.terms))
			for i, t := range a.terms {
				neg[i] = term{-t.k, t.x}
			}
			bounds = append(bounds, bound{neg, 1 - a.least, -a.is})
		default:
			continue
		}
		for _, t := range a.terms {
			used[t.x] = true
		}
	}
	if len(bounds) == 0 {
		return nil
	}
	for _, n := range f.numbers {
		if !used[n] {
			continue
		}
		bounds = append(bounds, bound{[]term{{1, n}}, n.low, 0}, bound{[]term{{-1, n}}, -n.high, 0})
		for _, c := range n.order {
			if l := n.cuts[c]; m.holds(l) {
				bounds = append(bounds, bound{[]term{{1, n}}, c, l})
			} else {
				bounds = append(bounds, bound{[]term{{-1, n}}, 1 - c, -l})
			}
		}
	}
	if _, ok := fulfil(bounds); ok {
		return nil
	}
	for i := 0; i < len(bounds); {
		without := append(append([]bound{}, bounds[:i]...), bounds[i+1:]...)
		if _, ok := fulfil(without); ok {
			i++
		} else {
			bounds = without
		}
	}
	clause := []lit{}
	for _, b := range bounds {
		if b.why != 0 {
			clause = append(clause, -b.why)
		}
	}
	return clause
}

// values are whole numbers that fulfil a model's sums, for those that stand in
// any; ok is false when none were found.
func (f *formula) values(m model) (map[*number]int64, bool) {
	var bounds []bound
	used := map[*number]bool{}
	for _, a := range f.linear {
		if !m.holds(a.is) && a.half {
			continue
		}
		terms, least := a.terms, a.least
		if !m.holds(a.is) {
			terms, least = nil, 1-a.least
			for _, t := range a.terms {
				terms = append(terms, term{-t.k, t.x})
			}
		}
		for _, t := range terms {
			used[t.x] = true
		}
		bounds = append(bounds, bound{terms, least, 0})
	}
	for n := range used {
		low, high := n.between(m)
		bounds = append(bounds, bound{[]term{{1, n}}, low, 0}, bound{[]term{{-1, n}}, -high, 0})
	}
	if len(bounds) == 0 {
		return nil, true
	}
	return fulfil(bounds)
}

// fulfil finds whole numbers for which all bounds hold, or finds that there
// are none: the general simplex of Dutertre and de Moura (A fast
// linear-arithmetic solver for DPLL(T), CAV 2006) over exact rationals, with
// Bland's rule; then branching, at most so deep, where the corner is not whole.
func fulfil(bounds []bound) (map[*number]int64, bool) { return branch(bounds, 6) }

func branch(bounds []bound, depth int) (map[*number]int64, bool) {
	at, ok := corner(bounds)
	if !ok {
		return nil, false
	}
	out := map[*number]int64{}
	for n, v := range at {
		if v.IsInt() {
			out[n] = v.Num().Int64()
			continue
		}
		if depth == 0 {
			return out, true // taken for possible; the replay has the last word
		}
		floor := new(big.Int).Div(v.Num(), v.Denom()).Int64()
		for _, b := range []bound{{[]term{{-1, n}}, -floor, 0}, {[]term{{1, n}}, floor + 1, 0}} {
			if got, ok := branch(append(append([]bound{}, bounds...), b), depth-1); ok {
				return got, true
			}
		}
		return nil, false
	}
	return out, true
}

// corner is a rational solution.
func corner(bounds []bound) (map[*number]*big.Rat, bool) {
	index := map[*number]int{}
	var names []*number
	for _, b := range bounds {
		for _, t := range b.terms {
			if _, ok := index[t.x]; !ok {
				index[t.x] = len(names)
				names = append(names, t.x)
			}
		}
	}
	n := len(names)
	type limits struct{ low, high *big.Rat }
	lim := make([]limits, n)
	var rows [][]*big.Rat // of the slacks, over the numbers
	atLeast := func(v int, r *big.Rat) {
		if lim[v].low == nil || lim[v].low.Cmp(r) < 0 {
			lim[v].low = r
		}
	}
	for _, b := range bounds {
		if len(b.terms) == 1 {
			v, r := index[b.terms[0].x], big.NewRat(b.least, b.terms[0].k)
			if b.terms[0].k > 0 {
				atLeast(v, r)
			} else if lim[v].high == nil || lim[v].high.Cmp(r) > 0 {
				lim[v].high = r
			}
			continue
		}
		row := make([]*big.Rat, n)
		for i := range row {
			row[i] = new(big.Rat)
		}
		for _, t := range b.terms {
			row[index[t.x]].Add(row[index[t.x]], big.NewRat(t.k, 1))
		}
		rows = append(rows, row)
		lim = append(lim, limits{low: big.NewRat(b.least, 1)})
	}
	for _, l := range lim {
		if l.low != nil && l.high != nil && l.low.Cmp(l.high) > 0 {
			return nil, false
		}
	}
	// tableau: basic[i] = Σ a[i][j]·nonbasic[j]
	all := n + len(rows)
	basic, non := make([]int, len(rows)), make([]int, n)
	value := make([]*big.Rat, all)
	for i := range value {
		value[i] = new(big.Rat)
	}
	for j := range non {
		non[j] = j
		value[j].SetInt64(1) // a value people would give, within the bounds
		if l := lim[j]; l.low != nil && value[j].Cmp(l.low) < 0 {
			value[j].Set(l.low)
		} else if l.high != nil && value[j].Cmp(l.high) > 0 {
			value[j].Set(l.high)
		}
	}
	recompute := func() {
		for i, b := range basic {
			v := new(big.Rat)
			for j, x := range non {
				v.Add(v, new(big.Rat).Mul(rows[i][j], value[x]))
			}
			value[b] = v
		}
	}
	for i := range basic {
		basic[i] = n + i
	}
	recompute()
	for {
		out := -1
		for i, b := range basic {
			l := lim[b]
			if (l.low != nil && value[b].Cmp(l.low) < 0 || l.high != nil && value[b].Cmp(l.high) > 0) &&
				(out < 0 || b < basic[out]) {
				out = i
			}
		}
		if out < 0 {
			break
		}
		b := basic[out]
		up := lim[b].low != nil && value[b].Cmp(lim[b].low) < 0
		in := -1
		for j, x := range non {
			s := rows[out][j].Sign()
			if s == 0 {
				continue
			}
			rises := (s > 0) == up
			can := rises && (lim[x].high == nil || value[x].Cmp(lim[x].high) < 0) || !rises &&
				(lim[x].low == nil || value[x].Cmp(lim[x].low) > 0)
			if can && (in < 0 || x < non[in]) {
				in = j
			}
		}
		if in < 0 {
			return nil, false
		}
		to := lim[b].high
		if up {
			to = lim[b].low
		}
		step := new(big.Rat).Quo(new(big.Rat).Sub(to, value[b]), rows[out][in])
		value[non[in]] = new(big.Rat).Add(value[non[in]], step)
		pivot(rows, out, in)
		basic[out], non[in] = non[in], basic[out]
		value[b] = new(big.Rat).Set(to)
		recompute()
	}
	got := map[*number]*big.Rat{}
	for v, name := range names {
		got[name] = value[v]
	}
	return got, true
}

// pivot exchanges the basic variable of a row with the one of a column.
func pivot(rows [][]*big.Rat, out, in int) {
	a := rows[out][in]
	inv := new(big.Rat).Inv(a)
	for j := range rows[out] {
		if j != in {
			rows[out][j] = new(big.Rat).Neg(new(big.Rat).Mul(rows[out][j], inv))
		}
	}
	rows[out][in] = inv
	for i := range rows {
		if i == out || rows[i][in].Sign() == 0 {
			continue
		}
		k := rows[i][in]
		for j := range rows[i] {
			if j == in {
				rows[i][j] = new(big.Rat).Mul(k, inv)
			} else {
				rows[i][j] = new(big.Rat).Add(rows[i][j], new(big.Rat).Mul(k, rows[out][j]))
			}
		}
	}
}
