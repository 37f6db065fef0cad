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
		of = append(of, w.within(st, q, v, within)...)
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
			within("pickLeast", func(l form.Limits) bool { return l.PickLeast > 0 }, func(l form.Limits) lit { return w.or(every, w.atLeast(l.PickLeast, all)) }),
			within("pickMost", func(l form.Limits) bool { return l.PickMost > 0 }, func(l form.Limits) lit { return w.or(every, -w.atLeast(l.PickMost+1, all)) }))
	case *finite:
		if q.Kind == form.Declaration { // agreeing is compulsory where it must be answered
			of = append(of, w.or(-st.must, v.is[0]))
		}
	default:
		of = append(of, within("impossible", func(l form.Limits) bool { return !w.canBeMet(q, l) }, func(form.Limits) lit { return never }))
	}
	return w.and(of...)
}

func (w *world) within(st *asked, q *form.Question, v amount, within func(string, func(form.Limits) bool, func(form.Limits) lit) lit) []lit {
	reaches := func(c int64) lit { return w.reaches(v.x, c) }
	if q.Kind != form.Date {
		out := []lit{
			within("least", func(l form.Limits) bool { return l.Least != nil }, func(l form.Limits) lit { return reaches(*l.Least) }),
			within("most", func(l form.Limits) bool { return l.Most != nil }, func(l form.Limits) lit { return -reaches(*l.Most + 1) })}
		if q.Kind == form.Percent {
			out = append(out, within("most", func(l form.Limits) bool { return l.Most == nil }, func(form.Limits) lit { return -reaches(v.den + 1) }))
		}
		return out
	}
	closes, _ := w.f.Design.Moment(form.Closes)
	return []lit{
		within("notBefore", func(l form.Limits) bool { return !w.f.Day(l.NotBefore).IsZero() }, func(l form.Limits) lit { return reaches(int64(w.f.Day(l.NotBefore))) }),
		within("notAfter", func(l form.Limits) bool { return !w.f.Day(l.NotAfter).IsZero() }, func(l form.Limits) lit { return -reaches(int64(w.f.Day(l.NotAfter)) + 1) }),
		within("monthsOld", func(l form.Limits) bool { return l.MonthsOld > 0 }, func(l form.Limits) lit { return reaches(int64(closes.At.Date.AddMonths(-l.MonthsOld))) }),
	}
}

// canBeMet reports limits that some answer can meet, for kinds whose value is
// not encoded: those whose least lies above their most.
func (w *world) canBeMet(q *form.Question, l form.Limits) bool {
	options := 0
	switch q.Kind {
	case form.Several, form.AwardPick, form.AwardOrder, form.Ranked:
		options = len(w.f.Options(q))
	case form.Keywords:
		for i := range w.f.Design.Lists {
			if w.f.Design.Lists[i].Key == q.List {
				options = len(w.f.Design.Lists[i].Items)
			}
		}
	case form.Budget:
		return budgetCanBe(q, l)
	case form.Long, form.Short:
		// n words take at least 2n−1 characters
		return l.Characters == 0 || l.LeastWords == 0 || 2*l.LeastWords-1 <= l.Characters
	case form.Date:
		from, to := w.f.Day(l.NotBefore), w.f.Day(l.NotAfter)
		return from.IsZero() || to.IsZero() || from <= to
	case form.Number, form.Money, form.Counts, form.Percent:
		return l.Least == nil || l.Most == nil || *l.Least <= *l.Most
	default:
		return true
	}
	most := options
	if l.PickMost > 0 {
		most = min(most, l.PickMost)
	}
	return l.PickLeast <= most && options > 0
}

// budgetCanBe: with every heading capped, the caps must leave room for all that
// is asked; and others cannot pay everything of what is asked from us.
func budgetCanBe(q *form.Question, l form.Limits) bool {
	if l.MatchPercent >= 100 {
		return false
	}
	if len(q.Options) == 0 {
		return true
	}
	room := int64(0)
	for _, o := range q.Options {
		share := int64(100)
		for _, c := range l.Caps {
			if c.Heading == o.Key {
				share = min(share, c.Percent)
			}
		}
		room += share
	}
	return room >= 100
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
		other := form.Key("")
		switch q := st.q; {
		case q.Kind == form.PageRef:
			other = q.Slot
		case q.Kind == form.File && q.Limits.Else.Slot != nil:
			other = form.Key(q.Limits.Else.Slot.Needs)
		}
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

// source is what a figure reads; a table's column or a budget's total is a
// number of its own, of which nothing else is known.
func (w *world) source(r condition.Ref) *cell {
	i, ok := w.index[r.Answer]
	if !ok || r.Answer == "" {
		return w.cell(r)
	}
	q := w.questions[i]
	if q.q.Kind != form.Budget && q.q.Kind != form.Rows && q.q.Kind != form.Years {
		return w.cell(r)
	}
	key := string(r.Answer) + "/" + string(r.Column)
	if c := w.cells[key]; c != nil {
		return c
	}
	c := *q.cell
	c.typ = condition.TypeNumber
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
	if i, ok := w.index[x.Of[0].Answer]; ok && (w.questions[i].q.Kind == form.Rows || w.questions[i].q.Kind == form.Years) {
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
