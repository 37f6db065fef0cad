package proof

import (
	"slices"
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
)

// values are what a deciding question can be answered with.
func (w *world) values(q *form.Question) value {
	fact := q.Nature == form.Fact && w.facts != nil
	if w.twin && q.Every { // the same choice, where other awards may fit
		return w.every(q, w.facts.cells[string(q.Key)].value.(*picks).free)
	}
	if fact || w.twin {
		return w.facts.cells[string(q.Key)].value
	}
	fix, isFixed := w.fix[q.Key]
	v := w.free(q)
	if !isFixed {
		return v
	}
	switch v := v.(type) {
	case *finite:
		for i, l := range v.is {
			if i == fix.value {
				w.add(l)
			}
		}
	case *picks:
		for i, l := range v.chosen() {
			w.add(signed(l, fix.picks[i]))
		}
		for i, l := range v.extra {
			w.add(signed(l, i < fix.extra))
		}
	case amount:
		return amount{w.number(fix.number, fix.number), v.den}
	}
	return v
}

func signed(l lit, is bool) lit {
	if is {
		return l
	}
	return -l
}

func (w *world) free(q *form.Question) value {
	switch v := w.f.Values(q); v.Of {
	case form.Listed:
		return w.finite(v.Listed)
	case form.Texts:
		return w.finite(w.texts(q))
	case form.Picks:
		if q.Every {
			return w.every(q, nil)
		}
		return w.several(q, v.Keys, len(v.Keys))
	case form.Numbers:
		w.exact = w.exact && !v.Vague
		return amount{w.number(v.Low, v.High), q.Den()}
	}
	return opaque{}
}

// texts are the values of a free text that conditions tell apart: those they
// name, a code of every list they look up for each membership it may have, and
// one that none of them knows.
func (w *world) texts(q *form.Question) []condition.Value {
	var names, lists []string
	w.visitTests(func(t condition.Test) {
		reads := func(r condition.Ref) bool { return r.Answer == q.Key && r.Column == "" }
		if !reads(t.Of) && (t.Other == nil || !reads(*t.Other)) || t.Value == nil {
			return
		}
		switch {
		case t.Rel == condition.OnList || t.Rel == condition.OffList:
			if !slices.Contains(lists, t.Value.Text) {
				lists = append(lists, t.Value.Text)
			}
		default:
			names = append(append(names, t.Value.List...), t.Value.Text)
		}
	})
	var candidates []string
	for _, n := range names {
		if n != "" {
			candidates = append(candidates, n)
		}
	}
	seen := map[string]bool{}
	member := func(text string) string {
		var b strings.Builder
		for _, l := range lists {
			b.WriteString(strconv.FormatBool(w.f.List(form.Key(l)).Holds(text)))
		}
		return b.String()
	}
	for i := range w.f.Design.Lists {
		l := &w.f.Design.Lists[i]
		if !slices.Contains(lists, string(l.Key)) {
			continue
		}
		for _, it := range l.Items {
			if m := member(it.Code); !seen[m] {
				seen[m] = true
				candidates = append(candidates, it.Code)
			}
		}
	}
	candidates = append(candidates, w.f.Example(q, q.Limits.Else))
	var vals []condition.Value
	for _, c := range candidates {
		v, ok := w.f.Read(q, c)
		if ok && !slices.ContainsFunc(vals, func(o condition.Value) bool { return o.Text == v.Text }) {
			vals = append(vals, v)
		}
	}
	if len(vals) == 0 { // nothing it is compared with can be given
		return []condition.Value{{Text: "?"}}
	}
	return vals
}

// every are picks of awards where one may ask for all that fit: an award is
// in when it is picked, or when every one is asked for and it fits. free is
// what is picked; nil for new literals.
func (w *world) every(q *form.Question, free []lit) *picks {
	p := &picks{free: free}
	var fits []lit
	for _, m := range w.matches() {
		fits = append(fits, w.or(m.yes, m.person))
	}
	options := w.f.Options(q) // the first one is every award
	for range len(options) - len(free) {
		p.free = append(p.free, w.fresh())
	}
	all := p.free[0]
	for i, o := range options {
		is := all
		if i > 0 {
			is = w.or(p.free[i], w.and(all, fits[i-1]))
		}
		p.keys, p.is = append(p.keys, string(o.Key)), append(p.is, is)
	}
	if free == nil {
		w.add(w.or(p.free...)) // given means one at least
	}
	return p
}

// several are picks: those that conditions name one by one, the rest counted.
func (w *world) several(q *form.Question, keys []string, all int) *picks {
	named := map[string]bool{}
	w.visitTests(func(t condition.Test) {
		if t.Of.Answer == q.Key && t.Value != nil {
			named[t.Value.Text] = true
			for _, k := range t.Value.List {
				named[k] = true
			}
		}
	})
	p := &picks{}
	for _, k := range keys {
		if named[k] {
			p.keys = append(p.keys, k)
			p.is = append(p.is, w.fresh())
		} else {
			p.rest = append(p.rest, k)
		}
	}
	most, reach := all, 1
	for _, k := range append(q.Limits.When, form.Case[form.Limits]{Then: q.Limits.Else}) {
		reach = max(reach, k.Then.PickLeast, k.Then.PickMost+1)
	}
	for i := range min(len(p.rest), reach) {
		l := w.fresh()
		if i > 0 {
			w.add(-l, p.extra[i-1])
		}
		p.extra = append(p.extra, l)
	}
	if q.Keeps() == form.InPieces {
		most = min(most, len(w.f.Parts(q)))
	}
	of := p.all()
	w.add(w.or(of...)) // given means one at least
	if most < len(of) {
		w.add(-w.atLeast(most+1, of))
	}
	return p
}

// filledIn are the cells that a pick from a table fills in.
func (w *world) filledIn(q *form.Question, c *cell) {
	t := w.f.Fills(q)
	v, ok := c.value.(*finite)
	if t == nil || !ok {
		return
	}
	for i, col := range t.Columns {
		vals := make([]condition.Value, len(v.vals))
		for j := range v.vals {
			for _, r := range t.Rows {
				if string(r.Key) == v.vals[j].Text {
					vals[j] = form.CellOf(col, r.Cells[i])
				}
			}
		}
		o := *c
		o.value, o.typ = &finite{vals, v.is}, condition.TypeText
		if col.Numbers {
			o.typ = condition.TypeNumber
		}
		w.cells[string(q.Key)+"/"+string(col.Key)] = &o
	}
}
