package proof

import (
	"slices"
	"strconv"

	"ulvant/core/condition"
	"ulvant/core/form"
)

// limits is "its value lies within its limits". Of several cases the first that
// is yes holds, loosened member by member by those before it that are open: a
// least is met when it is met in any of them.
func (w *world) limits(st *asked, q *form.Question, c *cell) lit {
	type held struct {
		when lit
		l    form.Limits
	}
	var cases []held
	none := always // no case before was yes
	for k, x := range q.Limits.When {
		t := w.guarded(st.path+"/limits/when/"+strconv.Itoa(k)+"/if", x.If)
		st.cases = append(st.cases, w.and(none, t.yes))
		cases = append(cases, held{w.and(none, -t.no), x.Then})
		none = w.and(none, -t.yes)
	}
	cases = append(cases, held{none, q.Limits.Else})
	within := func(member string, set func(form.Limits) bool, meets func(form.Limits) lit) lit {
		any := false
		var of []lit
		for _, h := range cases {
			l := always
			if set(h.l) {
				any, l = true, meets(h.l)
			}
			of = append(of, w.and(h.when, l))
		}
		if !any {
			return always
		}
		return w.guard(st.path+"/limits/"+member, w.or(of...))
	}
	var of []lit
	switch v := c.value.(type) {
	case amount:
		of = append(of, w.within(q, v, within)...)
	case *picks:
		all, every := v.all(), never
		if v.free != nil { // how many are picked does not matter to those who want every one, but one must fit or still be open
			every, all = v.is[0], v.is[1:]
			fits := slices.Clone(all)
			for _, m := range w.matches() {
				fits = append(fits, m.blank)
			}
			of = append(of, w.guard(st.path+"/every", w.or(append(fits, -every)...)))
		}
		of = append(of,
			within("pickLeast", func(l form.Limits) bool { return l.PickLeast > 0 },
				func(l form.Limits) lit { return w.or(every, w.atLeast(l.PickLeast, all)) }),
			within("pickMost", func(l form.Limits) bool { return l.PickMost > 0 },
				func(l form.Limits) lit { return w.or(every, -w.atLeast(l.PickMost+1, all)) }))
	case *finite:
		if w.f.Values(q).FirstIfMust { // agreeing is compulsory where it must be answered
			of = append(of, w.or(-st.must, v.is[0]))
		}
	default:
		if q.Keeps() == form.InLines && w.deciding[q.Key] {
			of = append(of, w.budgetFits(w.budget(q, c), within)...)
		}
		of = append(of, within("impossible", func(l form.Limits) bool { return !w.f.Possible(q, l) },
			func(form.Limits) lit { return never }))
	}
	return w.and(of...)
}

// bounding is every member of limits that cuts a number or a date.
var bounding = []string{"least", "most", "notBefore", "notAfter", "monthsOld"}

func (w *world) within(q *form.Question, v amount, within func(string, func(form.Limits) bool,
	func(form.Limits) lit) lit) (out []lit) {
	for _, member := range bounding {
		bound := func(l form.Limits) (form.Bound, bool) {
			for _, b := range w.f.Bounds(q, l) {
				if b.Member == member {
					return b, true
				}
			}
			return form.Bound{}, false
		}
		out = append(out, within(member, func(l form.Limits) bool { _, is := bound(l); return is }, func(l form.Limits) lit {
			if b, _ := bound(l); b.Low {
				return w.reaches(v.x, b.At)
			} else {
				return -w.reaches(v.x, b.At+1)
			}
		}))
	}
	return out
}

// rule encodes who may apply by one rule.
func (w *world) rule(i int) {
	r := &w.f.Design.Rules[i]
	path := "rules/" + string(r.Key)
	when := triYes
	if !r.When.Always() {
		when = w.cond(r.When)
	}
	holds := w.cond(r.Holds)
	fails := never
	if !r.Person {
		fails = w.guard(path, w.and(when.yes, holds.no))
	}
	// not known yet: a blank stands in the way of an answer
	open := w.and(-when.no, -holds.yes, w.or(when.blank, w.and(when.yes, holds.blank)))
	w.rules = append(w.rules, ruled{fails: fails, open: open, holds: holds, stage: w.f.RuleStage(i)})
}

// eligible: every rule that counts by a stage is met, or a person looks.
func (w *world) eligible(stage int) lit {
	var of []lit
	for _, r := range w.rules {
		if r.stage <= stage {
			of = append(of, -r.fails, -r.open)
		}
	}
	return w.and(of...)
}

// sendable: nothing stands in the way of sending all stages up to one.
func (w *world) sendable(stage int) lit {
	var of []lit
	for _, q := range w.questions {
		if q.stage <= stage {
			of = append(of, q.ok)
		}
	}
	for _, r := range w.rules {
		if r.stage <= stage {
			of = append(of, -r.fails)
		}
	}
	return w.and(append(of, w.belongs(stage))...)
}

// belongs: a file that belongs to one in another slot, and pages of a file,
// need that other file to be asked for.
func (w *world) belongs(stage int) lit {
	var of []lit
	for _, st := range w.questions {
		if st.stage > stage {
			continue
		}
		other := st.q.Needs()
		if i, ok := w.index[other]; ok && other != "" {
			of = append(of, w.or(-w.and(st.asked.yes, st.must), w.questions[i].asked.yes))
		}
	}
	return w.and(of...)
}

// figure encodes one figure as a cell.
func (w *world) figure(x *form.Figure) *cell {
	c := &cell{notAsked: never, unsettled: never, blank: never, declared: never, given: always, typ: condition.TypeNumber}
	if x == nil {
		c.value = opaque{}
		return c
	}
	switch x.Op {
	case form.CountWhere, form.AnyRow, form.EveryRow:
		w.counting(x, c)
	case form.AgeOn, form.MonthsTo:
		w.span(x, c)
	default:
		w.reckoning(x, c)
	}
	return c
}

// source is what a figure reads; a table's column is a number of its own, of
// which nothing else is known; a sum of a budget is one of its sums.
func (w *world) source(r condition.Ref) *cell {
	i, ok := w.index[r.Answer]
	if !ok || r.Answer == "" {
		return w.cell(r)
	}
	q := w.questions[i]
	if !q.q.InTable() {
		return w.cell(r)
	}
	key := string(r.Answer) + "/" + string(r.Column)
	if c := w.cells[key]; c != nil {
		return c
	}
	c := *q.cell
	c.typ = condition.TypeNumber
	if b := w.budgets[r.Answer]; b != nil {
		c.value = b.value(r.Column)
		w.cells[key] = &c
		return &c
	}
	if w.facts != nil && (w.twin || q.q.Nature == form.Fact) {
		c.value = w.facts.source(r).value
	} else {
		c.value = amount{w.number(0, 9e14), 1}
	}
	w.cells[key] = &c
	return &c
}

// counting counts yes/no answers; of a table's rows it is any number.
func (w *world) counting(x *form.Figure, c *cell) {
	if i, ok := w.index[x.Of[0].Answer]; ok && w.questions[i].q.Keeps() == form.InRows {
		t := w.questions[i]
		w.exact = false // rows are not modelled one by one
		c.unsettled, c.declared = t.cell.unsettled, t.cell.declared
		c.given = w.and(-c.unsettled, -c.declared)
		empty := w.or(t.cell.notAsked, t.cell.blank)
		if x.Op == form.CountWhere {
			n := amount{w.number(0, 200), 1}
			w.add(-empty, -w.reaches(n.x, 1))
			c.value = n
			return
		}
		c.typ = condition.TypeYes
		no, yes := false, true
		v := w.finite([]condition.Value{{Yes: &yes}, {Yes: &no}})
		if x.Op == form.AnyRow {
			w.add(-empty, v.is[1])
		} else {
			w.add(-empty, v.is[0])
		}
		c.value = v
		return
	}
	var yes, open, declared []lit
	for _, r := range x.Of {
		s := w.cell(r)
		v, ok := s.value.(*finite)
		if !ok {
			c.value = opaque{}
			w.exact = false
			return
		}
		yes = append(yes, w.and(s.given, v.is[0]))
		o := s.unsettled
		if !s.blankNo {
			o = w.or(o, s.blank)
		}
		open, declared = append(open, o), append(declared, s.declared)
	}
	c.blank = w.or(open...)
	c.declared = w.and(-c.blank, w.or(declared...))
	c.given = w.and(-c.blank, -c.declared)
	least := w.counts(yes, len(yes))
	out := &finite{}
	for k := 0; k <= len(yes); k++ {
		is := least[k]
		if k < len(yes) {
			is = w.and(is, -least[k+1])
		}
		out.vals = append(out.vals, condition.Value{Number: &condition.Number{Num: int64(k), Den: 1}})
		out.is = append(out.is, is)
	}
	c.value = out
}
