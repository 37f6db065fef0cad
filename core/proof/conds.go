package proof

import (
	"strconv"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
)

// eachCond visits every condition of a design with the path of its fragment.
func eachCond(d *form.Design, visit func(path string, c condition.Cond)) {
	for i := range d.Sections {
		s := &d.Sections[i]
		at := "sections/" + string(s.Key)
		visit(at+"/asked", s.Asked)
		for j := range s.Questions {
			q := &s.Questions[j]
			at := pathOf(s.Key, q.Key)
			visit(at+"/asked", q.Asked)
			visit(at+"/must", q.Must)
			for k := range q.Limits.When {
				visit(at+"/limits/when/"+strconv.Itoa(k)+"/if", q.Limits.When[k].If)
			}
		}
	}
	for _, r := range d.Rules {
		visit("rules/"+string(r.Key)+"/when", r.When)
		visit("rules/"+string(r.Key)+"/holds", r.Holds)
	}
	for _, a := range d.Awards {
		visit("awards/"+string(a.Key)+"/match", a.Match)
	}
	for _, x := range d.Fees {
		visit("fees/"+string(x.Key)+"/offered", x.Offered)
		for k := range x.Price.When {
			visit("fees/"+string(x.Key)+"/price/when/"+strconv.Itoa(k)+"/if", x.Price.When[k].If)
		}
	}
	for _, c := range d.Criteria {
		visit("criteria/"+string(c.Key)+"/applies", c.Applies)
	}
	for _, l := range d.Letters {
		visit("letters/"+string(l.Key)+"/when", l.When)
	}
	for _, b := range d.Bodies {
		visit("bodies/"+string(b.Key)+"/sees", b.Sees)
	}
}

// cond turns a condition into literals, by the tables of strong Kleene logic.
func (w *world) cond(c condition.Cond) tri {
	switch {
	case c.Test != nil:
		return w.test(*c.Test)
	case c.All != nil:
		return w.group(len(c.All), c.All)
	case c.Any != nil:
		return w.group(1, c.Any)
	case c.None != nil:
		t := w.group(1, c.None)
		t.yes, t.no = t.no, t.yes
		return t
	case c.AtLeast != nil:
		return w.group(c.AtLeast.N, c.AtLeast.Of)
	}
	return triYes
}

func (w *world) group(n int, of []condition.Cond) tri {
	var yes, no, blank []lit
	for _, k := range of {
		t := w.cond(k)
		yes, no, blank = append(yes, t.yes), append(no, t.no), append(blank, t.blank)
	}
	out := tri{yes: w.atLeast(n, yes), no: w.atLeast(len(of)-n+1, no)}
	open := w.and(-out.yes, -out.no)
	out.blank = w.and(open, w.or(blank...))
	out.person = w.and(open, -out.blank)
	return out
}

func (w *world) test(t condition.Test) tri {
	a := w.cell(t.Of)
	var compared lit
	b := (*cell)(nil)
	switch {
	case t.Other != nil:
		b = w.cell(*t.Other)
		compared = w.likeWithLike(a, b, t.Rel)
	case a.value == nil:
		compared = w.unknown()
	case t.Rel == condition.OnList || t.Rel == condition.OffList:
		compared = w.known(a.value.test(w.formula, a.typ, t.Rel, *t.Value, w.f.List(form.Key(t.Value.Text))))
	default:
		compared = w.known(a.value.test(w.formula, a.typ, t.Rel, *t.Value, nil))
	}
	isNo := t.Value != nil && a.typ == condition.TypeYes && t.Value.Yes != nil &&
		*t.Value.Yes == (t.Rel == condition.IsNot)
	if b == nil {
		return w.standing(a, isNo, compared)
	}
	// the first that holds no value answers
	first := w.standing(a, isNo, always)
	then := w.standing(b, isNo, compared)
	through := a.given
	return tri{yes: w.or(w.and(-through, first.yes), w.and(through, then.yes)),
		no:     w.or(w.and(-through, first.no), w.and(through, then.no)),
		person: w.or(w.and(-through, first.person), w.and(through, then.person)),
		blank:  w.or(w.and(-through, first.blank), w.and(through, then.blank))}
}

// standing answers by presence; compared is the answer of a given value.
func (w *world) standing(c *cell, isNo bool, compared lit) tri {
	yes, no := w.and(c.given, compared), w.or(c.notAsked, w.and(c.given, -compared))
	blank := c.unsettled
	switch {
	case !c.blankNo:
		blank = w.or(blank, c.blank)
	case isNo:
		yes = w.or(yes, c.blank)
	default:
		no = w.or(no, c.blank)
	}
	return tri{yes, no, c.declared, blank}
}

// known takes a test's literal; what could not be decided is free, and remembered.
func (w *world) known(l lit, ok bool) lit {
	w.exact = w.exact && ok
	return l
}

func (w *world) unknown() lit { return w.known(w.fresh(), false) }

// likeWithLike compares two cells.
func (w *world) likeWithLike(a, b *cell, rel condition.Rel) lit {
	if a.typ == condition.TypeText || a.typ == condition.TypeYes {
		x, okX := a.value.(*finite)
		y, okY := b.value.(*finite)
		if !okX || !okY {
			return w.unknown()
		}
		var of []lit
		for i, v := range x.vals {
			is, _ := y.test(w.formula, b.typ, rel, v, nil)
			of = append(of, w.and(x.is[i], is))
		}
		return w.or(of...)
	}
	least, more, ok := w.order(a.typ, a.value, b.value)
	if !ok {
		return w.unknown()
	}
	return relation(w.formula, rel, least, more)
}

// order is "a is at least b" and "a is more than b".
func (w *world) order(typ condition.Type, a, b value) (least, more lit, ok bool) {
	gather := func(n int, some bool, of func(i int) (lit, lit, bool)) (lit, lit, bool) {
		var leasts, mores []lit
		for i := range n {
			l, m, ok := of(i)
			if !ok {
				return never, never, false
			}
			leasts, mores = append(leasts, l), append(mores, m)
		}
		if some {
			return w.or(leasts...), w.or(mores...), true
		}
		return w.and(leasts...), w.and(mores...), true
	}
	switch x := a.(type) {
	case extreme:
		return gather(len(x.of), x.most, func(i int) (lit, lit, bool) { return w.order(typ, x.of[i].value, b) })
	case *finite:
		return gather(len(x.vals), true, func(i int) (lit, lit, bool) {
			if b == nil {
				return never, never, false
			}
			l, ok1 := b.test(w.formula, typ, condition.AtMost, x.vals[i], nil)
			m, ok2 := b.test(w.formula, typ, condition.Less, x.vals[i], nil)
			return w.and(x.is[i], l), w.and(x.is[i], m), ok1 && ok2
		})
	}
	switch y := b.(type) {
	case extreme:
		return gather(len(y.of), !y.most, func(i int) (lit, lit, bool) { return w.order(typ, a, y.of[i].value) })
	case *finite:
		return gather(len(y.vals), true, func(i int) (lit, lit, bool) {
			if a == nil {
				return never, never, false
			}
			l, ok1 := a.test(w.formula, typ, condition.AtLeast, y.vals[i], nil)
			m, ok2 := a.test(w.formula, typ, condition.More, y.vals[i], nil)
			return w.and(y.is[i], l), w.and(y.is[i], m), ok1 && ok2
		})
	}
	x, okX := terms(a)
	y, okY := terms(b)
	if !okX || !okY {
		return never, never, false
	}
	// Σx/dx ≥ Σy/dy  ⇔  dy·Σx − dx·Σy ≥ 0
	var of []term
	for _, t := range x.terms {
		of = append(of, term{t.k * y.den, t.x})
	}
	for _, t := range y.terms {
		of = append(of, term{-t.k * x.den, t.x})
	}
	return w.sum(of, 0), w.sum(of, 1), true
}

// terms sees an amount as a sum.
func terms(v value) (weighed, bool) {
	switch v := v.(type) {
	case amount:
		return weighed{[]term{{1, v.x}}, v.den}, true
	case weighed:
		return v, true
	}
	return weighed{}, false
}

// cell finds what a Ref reads.
func (w *world) cell(r condition.Ref) *cell {
	key := string(r.Answer)
	switch {
	case r.Fixed == condition.Stream || r.Fixed == condition.Applicant:
		key = string(w.fixedKey(r.Fixed))
	case r.Answer != "" && r.Column != "":
		key += "/" + string(r.Column)
	case r.Figure != "":
		if c := w.byFigure[r.Figure]; c != nil {
			return c
		}
		c := w.figure(w.figures[r.Figure])
		w.byFigure[r.Figure] = c
		return c
	case r.Date != "":
		m, _ := w.f.Design.Moment(r.Date)
		return fixed(condition.TypeDate, condition.Value{Date: m.At.Date})
	case r.Answer == "":
		return w.given(r)
	}
	if c := w.cells[key]; c != nil {
		return c
	}
	return &cell{notAsked: never, unsettled: never, blank: never, declared: never, given: always, value: opaque{}}
}

// given is what every application has: the day, how many others were sent, the
// result of an earlier stage. They are facts.
func (w *world) given(r condition.Ref) *cell {
	key := "fixed/" + string(r.Fixed) + string(r.Stage)
	if c := w.cells[key]; c != nil {
		return c
	}
	if w.facts != nil && !(w.twin && r.Fixed == condition.Today) {
		w.cells[key] = w.facts.given(r)
		return w.cells[key]
	}
	c := &cell{notAsked: never, unsettled: never, blank: never, declared: never, given: always, typ: condition.TypeNumber}
	switch {
	case r.Stage != "":
		c.typ, c.value = condition.TypeText, w.finite([]condition.Value{{Text: string(lifecycle.InvitedOn)},
			{Text: string(lifecycle.NotAwarded)}})
	case r.Fixed == condition.Today:
		c.typ = condition.TypeDate
		opens, _ := w.f.Design.Moment(form.Opens)
		closes, _ := w.f.Design.Moment(form.Closes)
		c.value = amount{w.number(int64(opens.At.Date), max(int64(opens.At.Date), int64(closes.At.Date))), 1}
	default:
		c.value = amount{w.number(0, 50), 1}
	}
	w.cells[key] = c
	return c
}
