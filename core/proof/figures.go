package proof

import (
	"slices"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/form"
)

// span is the years or months between two dates, one of them fixed.
func (w *world) span(x *form.Figure, c *cell) {
	from, to := w.cell(x.Of[0]), w.cell(x.Of[1])
	c.notAsked = w.first(from, to, func(s *cell) lit { return s.notAsked })
	c.unsettled = w.first(from, to, func(s *cell) lit { return s.unsettled })
	c.blank = w.first(from, to, func(s *cell) lit { return s.blank })
	c.declared = w.first(from, to, func(s *cell) lit { return s.declared })
	c.given = w.and(from.given, to.given)
	years := func(a, b calendar.Date) int64 {
		if x.Op == form.AgeOn {
			return int64(calendar.AgeOn(a, b))
		}
		return int64(calendar.MonthsBetween(a, b))
	}
	a, okA := from.value.(amount)
	b, okB := to.value.(amount)
	fa, fixA := one(from)
	fb, fixB := one(to)
	switch {
	case okA && fixB:
		c.value = mapped{a.x, func(d int64) int64 { return years(calendar.Date(d), fb) }, true}
	case fixA && okB:
		c.value = mapped{b.x, func(d int64) int64 { return years(fa, calendar.Date(d)) }, false}
	case fixA && fixB:
		c.value = fixed(condition.TypeNumber, condition.Value{Number: &condition.Number{Num: years(fa, fb), Den: 1}}).value
	default:
		w.exact = false
		c.value = opaque{}
	}
}

// one is the date of a cell that always has the same.
func one(c *cell) (calendar.Date, bool) {
	v, ok := c.value.(*finite)
	if !ok || len(v.vals) != 1 {
		return 0, false
	}
	return v.vals[0].Date, true
}

// first is the presence of the first of two cells that is not given.
func (w *world) first(a, b *cell, of func(*cell) lit) lit {
	return w.or(of(a), w.and(a.given, of(b)))
}

// reckoning is a sum, a difference, a share, the least or most of several, or
// a step of a table. In sums, what is not asked and a blank that means no count
// as nothing; elsewhere they leave nothing to reckon.
func (w *world) reckoning(x *form.Figure, c *cell) {
	adds := x.Op == form.Sum || x.Op == form.Difference
	var sources []*cell
	through := always // all before are given, or count as nothing
	var notAsked, unsettled, blank, declared []lit
	for _, r := range x.Of {
		s := w.source(r)
		nothing := s.notAsked
		open := s.blank
		if s.blankNo {
			nothing, open = w.or(nothing, s.blank), never
		}
		unsettled = append(unsettled, w.and(through, s.unsettled))
		blank = append(blank, w.and(through, open))
		declared = append(declared, w.and(through, s.declared))
		pass := s.given
		if adds {
			pass = w.or(pass, nothing)
		} else {
			notAsked = append(notAsked, w.and(through, nothing))
		}
		through = w.and(through, pass)
		sources = append(sources, s)
	}
	c.notAsked, c.unsettled, c.blank, c.declared = w.or(notAsked...), w.or(unsettled...), w.or(blank...), w.or(declared...)
	c.given = through
	switch {
	case x.Op == form.LeastOf || x.Op == form.MostOf:
		c.value = extreme{x.Op == form.MostOf, sources}
	case x.Op == form.StepOf:
		w.step(x, c, sources[0])
	case x.Op == form.Share:
		w.ratio(c, sources)
	case x.Op == form.PartOf:
		w.part(x, c, sources[0])
	default:
		w.adding(x, c, sources)
	}
}

// step brings a value to a step of a table.
func (w *world) step(x *form.Figure, c *cell, s *cell) {
	t := w.f.Table(x.Table)
	v, ok := s.value.(*finite)
	if !ok || t == nil {
		w.exact = false
		c.value = opaque{}
		return
	}
	out := &finite{}
	for i, has := range v.vals {
		n, ok := t.Round(*has.Number, x.Rounding)
		if !ok { // beyond the table: nothing is known
			c.blank = w.or(c.blank, w.and(c.given, v.is[i]))
			c.given = w.and(c.given, -v.is[i])
		}
		out.vals, out.is = append(out.vals, condition.Value{Number: &n}), append(out.is, v.is[i])
	}
	c.value = out
}

// part is so many percent of a number.
func (w *world) part(x *form.Figure, c *cell, s *cell) {
	v, ok := terms(s.value)
	if f, isFinite := s.value.(*finite); isFinite {
		v, ok = terms(w.asNumber(f))
	}
	if !ok {
		w.exact = false
		c.value = opaque{}
		return
	}
	out := weighed{den: v.den * 100}
	for _, t := range v.terms {
		out.terms = append(out.terms, term{t.k * x.Percent, t.x})
	}
	c.value = out
}

// ratio is a share; of nothing there is none.
func (w *world) ratio(c *cell, s []*cell) {
	var of [2]weighed
	for i := range of {
		v, ok := terms(s[i].value)
		if f, isFinite := s[i].value.(*finite); isFinite {
			v, ok = terms(w.asNumber(f))
		}
		if !ok {
			w.exact = false
			c.value = opaque{}
			return
		}
		of[i] = v
	}
	bottom := of[1].terms
	none := w.and(w.sum(bottom, 0), -w.sum(bottom, 1))
	c.blank = w.or(c.blank, w.and(c.given, none))
	c.given = w.and(c.given, -none)
	c.value = share{of[0], of[1]}
}

// mostSums is how many different sums of picked values are told apart.
const mostSums = 400

// adding is a sum or difference. When every part is one of a few values, so is
// the sum; otherwise it is a linear expression.
func (w *world) adding(x *form.Figure, c *cell, sources []*cell) {
	allFinite := !slices.ContainsFunc(sources, func(s *cell) bool { _, ok := s.value.(*finite); return !ok })
	if allFinite && w.addFinite(x, c, sources) {
		return
	}
	out := weighed{den: 1}
	parts := make([]weighed, len(sources))
	for i, s := range sources {
		v, ok := terms(s.value)
		if f, isFinite := s.value.(*finite); isFinite {
			v, ok = terms(w.asNumber(f))
		}
		if !ok {
			w.exact = false
			c.value = opaque{}
			return
		}
		parts[i] = weighed{slices.Clone(v.terms), v.den}
		out.den = max(out.den, v.den)
		for j, t := range v.terms {
			if s.given == always {
				continue
			}
			z := w.number(min(t.x.low, 0), max(t.x.high, 0)) // it counts only when it is given
			w.same(s.given, z, t.x)
			w.add(s.given, w.reaches(z, 0))
			w.add(s.given, -w.reaches(z, 1))
			parts[i].terms[j].x = z
		}
	}
	for i, p := range parts {
		k := out.den / p.den
		if x.Op == form.Difference && i > 0 {
			k = -k
		}
		for _, t := range p.terms {
			out.terms = append(out.terms, term{k * t.k, t.x})
		}
	}
	c.value = out
}

// asNumber sees one of a few numbers as a whole number over a denominator.
func (w *world) asNumber(v *finite) amount {
	den := int64(1)
	for _, has := range v.vals {
		if has.Number != nil {
			den = max(den, has.Number.Den)
		}
	}
	low, high := int64(0), int64(0)
	at := make([]int64, len(v.vals))
	for i, has := range v.vals {
		if has.Number == nil {
			continue
		}
		at[i], _ = over(*has.Number, den)
		if i == 0 {
			low, high = at[i], at[i]
		}
		low, high = min(low, at[i]), max(high, at[i])
	}
	n := w.number(low, high)
	for i := range v.vals {
		w.implies(w.equals(n, at[i]), v.is[i])
	}
	return amount{n, den}
}

func (w *world) addFinite(x *form.Figure, c *cell, sources []*cell) bool {
	type sum struct {
		n  condition.Number
		is lit
	}
	sums := []sum{{condition.Number{Den: 1}, always}}
	for i, s := range sources {
		v := s.value.(*finite)
		var next []sum
		put := func(n condition.Number, is lit) {
			if is == never {
				return
			}
			for j := range next {
				if next[j].n.Compare(n) == 0 {
					next[j].is = w.or(next[j].is, is)
					return
				}
			}
			next = append(next, sum{n, is})
		}
		for _, before := range sums {
			if s.given != always {
				put(before.n, w.and(before.is, -s.given))
			}
			for k, has := range v.vals {
				n := condition.Number{Den: 1}
				if has.Number != nil {
					n = *has.Number
				}
				if x.Op == form.Difference && i > 0 {
					n = decimal.Neg(n)
				}
				put(decimal.Add(before.n, n), w.and(before.is, s.given, v.is[k]))
			}
			if len(next) > mostSums {
				return false
			}
		}
		sums = next
	}
	out := &finite{}
	for _, s := range sums {
		out.vals, out.is = append(out.vals, condition.Value{Number: &s.n}), append(out.is, s.is)
	}
	c.value = out
	return true
}
