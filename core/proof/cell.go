package proof

import (
	"slices"

	"ulvant/core/condition"
)

// tri is a condition: exactly one of yes, no, for a person (unknown because
// somebody declared that they do not know) and blank (unknown otherwise).
type tri struct{ yes, no, person, blank lit }

var triYes = tri{always, never, never, never}

// cell is what a condition reads: one presence holds of it, and when it is
// given, a value.
type cell struct {
	notAsked, unsettled, blank, declared, given lit
	blankNo                                     bool
	typ                                         condition.Type
	value                                       value
	would                                       [2]lit // leave it, declare a non-answer, if it were asked
}

// value answers a test on a given cell; false when it cannot be decided.
type value interface {
	test(f *formula, typ condition.Type, rel condition.Rel, v condition.Value, list condition.List) (lit, bool)
}

// fixed is a cell that always has one value.
func fixed(typ condition.Type, v condition.Value) *cell {
	return &cell{notAsked: never, unsettled: never, blank: never, declared: never, given: always, typ: typ,
		value: &finite{vals: []condition.Value{v}, is: []lit{always}}}
}

// finite is one of several values; exactly one literal holds.
type finite struct {
	vals []condition.Value
	is   []lit
}

func (f *formula) finite(vals []condition.Value) *finite {
	out := &finite{vals: vals}
	for range vals {
		out.is = append(out.is, f.fresh())
	}
	if len(vals) == 1 {
		out.is[0] = always
		return out
	}
	f.oneOf(out.is)
	return out
}

func (x *finite) test(f *formula, typ condition.Type, rel condition.Rel, v condition.Value, list condition.List) (lit,
	bool) {
	var of []lit
	for i, has := range x.vals {
		ok := false
		if list != nil {
			ok = list.Holds(has.Text) == (rel == condition.OnList)
		} else {
			ok = condition.Compare(typ, rel, has, v)
		}
		if ok {
			of = append(of, x.is[i])
		}
	}
	return f.or(of...), true
}

// picked says which of a finite value a model chose; -1 for none.
func (x *finite) picked(m model) int {
	return slices.IndexFunc(x.is, m.holds)
}

// picks are several of many. Those that no condition names are counted only:
// extra[i] is "i+1 or more of the others".
type picks struct {
	keys  []string
	is    []lit
	extra []lit
	rest  []string // keys that extra counts
	free  []lit    // of awards, where one may ask for every one that fits: what is picked by hand, for each key; nil elsewhere
}

// chosen are the literals that the applicant is free in, for each key.
func (x *picks) chosen() []lit {
	if x.free != nil {
		return x.free
	}
	return x.is
}

func (x *picks) test(f *formula, _ condition.Type, rel condition.Rel, v condition.Value, _ condition.List) (lit, bool) {
	has := func(k string) lit {
		if i := slices.Index(x.keys, k); i >= 0 {
			return x.is[i]
		}
		return never
	}
	switch rel {
	case condition.Includes:
		return has(v.Text), true
	case condition.Lacks:
		return -has(v.Text), true
	case condition.IncludesAny:
		var of []lit
		for _, k := range v.List {
			of = append(of, has(k))
		}
		return f.or(of...), true
	}
	return never, false
}

// all are the literals that count towards how many are picked.
func (x *picks) all() []lit { return append(slices.Clone(x.is), x.extra...) }

// amount is a whole number over den: a number, a sum, a share, or a date.
type amount struct {
	x   *number
	den int64
}

func (a amount) test(f *formula, typ condition.Type, rel condition.Rel, v condition.Value, _ condition.List) (lit,
	bool) {
	n := condition.Number{Num: int64(v.Date), Den: 1}
	if typ == condition.TypeNumber {
		if v.Number == nil {
			return never, false
		}
		n = *v.Number
	}
	return a.compare(f, rel, n), true
}

func (a amount) compare(f *formula, rel condition.Rel, n condition.Number) lit {
	c, exact := over(n, a.den)
	least := f.reaches(a.x, c) // x ≥ n
	more := least              // x > n
	if exact {
		more = f.reaches(a.x, c+1)
	}
	return relation(f, rel, least, more)
}

// relation makes any comparison out of "at least" and "more than".
func relation(f *formula, rel condition.Rel, least, more lit) lit {
	switch rel {
	case condition.AtLeast:
		return least
	case condition.More:
		return more
	case condition.AtMost:
		return -more
	case condition.Less:
		return -least
	case condition.Is:
		return f.and(least, -more)
	}
	return -f.and(least, -more)
}

// mapped is a whole number that hangs on another: complete years or months
// between a date and a fixed one. It never falls, or never rises, in x.
type mapped struct {
	x     *number
	of    func(int64) int64
	falls bool
}

func (a mapped) test(f *formula, _ condition.Type, rel condition.Rel, v condition.Value, _ condition.List) (lit, bool) {
	if v.Number == nil {
		return never, false
	}
	c, exact := over(*v.Number, 1)
	least := a.reaches(f, c)
	more := least
	if exact {
		more = a.reaches(f, c+1)
	}
	return relation(f, rel, least, more), true
}

// reaches is "its value is at least c", found by halving.
func (a mapped) reaches(f *formula, c int64) lit {
	low, high := a.x.low, a.x.high+1 // the first x for which it holds, or no longer holds
	for low < high {
		mid := low + (high-low)/2
		if (a.of(mid) >= c) != a.falls {
			high = mid
		} else {
			low = mid + 1
		}
	}
	if a.falls {
		return -f.reaches(a.x, low)
	}
	return f.reaches(a.x, low)
}

// weighed is Σ k·x over den.
type weighed struct {
	terms []term
	den   int64
}

func (a weighed) test(f *formula, _ condition.Type, rel condition.Rel, v condition.Value, _ condition.List) (lit,
	bool) {
	if v.Number == nil {
		return never, false
	}
	c, exact := over(*v.Number, a.den)
	least := f.sum(a.terms, c)
	more := least
	if exact {
		more = f.sum(a.terms, c+1)
	}
	return relation(f, rel, least, more), true
}

// share is top in bottom, which is not nothing.
type share struct{ top, bottom weighed }

func (a share) test(f *formula, _ condition.Type, rel condition.Rel, v condition.Value, _ condition.List) (lit, bool) {
	if v.Number == nil {
		return never, false
	}
	// top/td ÷ bottom/bd ≥ n/d  ⇔  top·bd·d − bottom·td·n ≥ 0, for bottom above
	// nothing; below it the other way round
	n, d := v.Number.Num, max(v.Number.Den, 1)
	var up, down []term
	for _, t := range a.top.terms {
		up, down = append(up, term{t.k * a.bottom.den * d, t.x}), append(down, term{-t.k * a.bottom.den * d, t.x})
	}
	for _, t := range a.bottom.terms {
		up, down = append(up, term{-t.k * a.top.den * n, t.x}), append(down, term{t.k * a.top.den * n, t.x})
	}
	positive := f.sum(a.bottom.terms, 1)
	least := f.or(f.and(positive, f.sum(up, 0)), f.and(-positive, f.sum(down, 0)))
	more := f.or(f.and(positive, f.sum(up, 1)), f.and(-positive, f.sum(down, 1)))
	return relation(f, rel, least, more), true
}

// extreme is the least or the greatest of several.
type extreme struct {
	most bool
	of   []*cell
}

func (a extreme) test(f *formula, typ condition.Type, rel condition.Rel, v condition.Value, list condition.List) (lit,
	bool) {
	edge := func(rel condition.Rel) (lit, bool) {
		var of []lit
		for _, c := range a.of {
			l, ok := c.value.test(f, typ, rel, v, list)
			if !ok {
				return never, false
			}
			of = append(of, l)
		}
		if a.most {
			return f.or(of...), true
		}
		return f.and(of...), true
	}
	least, ok1 := edge(condition.AtLeast)
	more, ok2 := edge(condition.More)
	return relation(f, rel, least, more), ok1 && ok2
}

// opaque is a value that nothing is known of.
type opaque struct{}

func (opaque) test(f *formula, _ condition.Type, _ condition.Rel, _ condition.Value, _ condition.List) (lit, bool) {
	return f.fresh(), false
}
