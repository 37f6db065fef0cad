package proof

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
)

// world is one applicant, as literals: who they are, what they choose, what
// they are therefore asked and whether it can be sent.
type world struct {
	*formula
	f     *form.Form
	sel   map[string]lit // of each fragment of the design, by its path; shared by worlds
	facts *world         // the world whose facts are shared; nil for the first
	twin  bool           // choices are shared too: it is the same applicant on another day
	fix   map[form.Key]choice

	sections  []*asked
	questions []*asked
	index     map[form.Key]int
	cells     map[string]*cell
	deciding  map[form.Key]bool // questions that something reads
	figures   map[form.Key]*form.Figure
	byFigure  map[form.Key]*cell
	exact     bool // every test could be turned into literals
	rules     []ruled
	awards    []tri
	results   map[form.Key]*cell
}

// asked is a section or a question as it is met.
type asked struct {
	path    string
	stage   int
	section int
	q       *form.Question
	asked   tri // person is taken as yes
	must    lit // it may not be left blank
	ok      lit // nothing of it stands in the way of sending
	fits    lit // its value is within its limits
	cell    *cell
	cases   []lit // each case of its limits: it is the one that holds
}

// ruled is a rule as it stands.
type ruled struct {
	fails, open lit // it refuses; it is not known yet
	holds       tri
	stage       int
}

// choice is what a model gives a question.
type choice struct {
	blank, declared bool
	value           int // index of a finite value
	picks           []bool
	extra           int
	number          int64
}

// path of a question in the document.
func pathOf(section, question form.Key) string {
	return "sections/" + string(section) + "/questions/" + string(question)
}

func newWorld(fm *formula, f *form.Form, sel map[string]lit) *world {
	w := &world{formula: fm, f: f, sel: sel, index: map[form.Key]int{}, cells: map[string]*cell{}, deciding: map[form.Key]bool{}, figures: map[form.Key]*form.Figure{},
		byFigure: map[form.Key]*cell{}, exact: true, results: map[form.Key]*cell{}}
	d := f.Design
	for i := range d.Figures {
		w.figures[d.Figures[i].Key] = &d.Figures[i]
	}
	w.decide()
	return w
}

// share makes a world with the same facts and choices of its own, or fixed.
func (w *world) share(fix map[form.Key]choice) *world {
	o := newWorld(w.formula, w.f, w.sel)
	o.facts, o.fix = w, fix
	o.encode()
	return o
}

// later is the same applicant, on a day of its own.
func (w *world) later() *world {
	o := newWorld(w.formula, w.f, w.sel)
	o.facts, o.twin = w, true
	o.encode()
	return o
}

// guard ties a literal to the fragment of the design that defines it: without
// the fragment nothing is known of it.
func (w *world) guard(path string, is lit) lit {
	s, ok := w.sel[path]
	if !ok {
		s = w.fresh()
		w.sel[path] = s
	}
	v := w.fresh()
	w.add(-s, -v, is)
	w.add(-s, v, -is)
	return v
}

// decide marks the questions that conditions and figures read.
func (w *world) decide() {
	d := w.f.Design
	var see func(r condition.Ref)
	cond := func(c condition.Cond) { c.Refs(see) }
	see = func(r condition.Ref) {
		switch {
		case r.Answer != "":
			w.deciding[r.Answer] = true
		case r.Fixed == condition.Stream || r.Fixed == condition.Applicant:
			w.deciding[w.fixedKey(r.Fixed)] = true
		case r.Figure != "":
			if x := w.figures[r.Figure]; x != nil && !w.deciding[r.Figure] {
				w.deciding[r.Figure] = true
				for _, o := range x.Of {
					see(o)
				}
			}
		}
	}
	for i := range d.Sections {
		s := &d.Sections[i]
		cond(s.Asked)
		for j := range s.Questions {
			q := &s.Questions[j]
			cond(q.Asked)
			cond(q.Must)
			for _, k := range q.Limits.When {
				cond(k.If)
			}
		}
	}
	for _, r := range d.Rules {
		cond(r.When)
		cond(r.Holds)
	}
	for _, a := range d.Awards {
		cond(a.Match)
	}
	for _, x := range d.Fees {
		cond(x.Offered)
		for _, k := range x.Price.When {
			cond(k.If)
		}
	}
	for _, c := range d.Criteria {
		cond(c.Applies)
	}
	for _, b := range d.Bodies {
		cond(b.Sees)
	}
}

func (w *world) fixedKey(x condition.Fixed) form.Key {
	want := map[condition.Fixed]form.Kind{condition.Stream: form.StreamPick, condition.Applicant: form.ApplicantIs}[x]
	for i := range w.f.Design.Sections {
		for _, q := range w.f.Design.Sections[i].Questions {
			if q.Kind == want {
				return q.Key
			}
		}
	}
	return ""
}

// encode the whole design in reading order.
func (w *world) encode() {
	d := w.f.Design
	for i := range d.Sections {
		s := &d.Sections[i]
		st := &asked{path: "sections/" + string(s.Key), stage: w.f.Place(s.Stage)}
		st.asked = w.asking(st.path+"/asked", s.Asked, triYes)
		w.sections = append(w.sections, st)
		for j := range s.Questions {
			w.question(i, &s.Questions[j], st)
		}
	}
	for i := range d.Rules {
		w.rule(i)
	}
	for i := range d.Awards {
		w.awards = append(w.awards, w.guarded("awards/"+string(d.Awards[i].Key)+"/match", d.Awards[i].Match))
	}
}

// asking is whether something is asked, within what holds it.
func (w *world) asking(path string, c condition.Cond, within tri) tri {
	if c.Always() {
		return within
	}
	t := w.guarded(path, c)
	t.yes, t.person = w.or(t.yes, t.person), never
	yes, no := w.and(t.yes, within.yes), w.or(t.no, within.no)
	return tri{yes, no, never, w.and(-yes, -no)}
}

// guarded is a condition tied to its fragment.
func (w *world) guarded(path string, c condition.Cond) tri {
	if c.Always() {
		return triYes
	}
	t := w.cond(c)
	yes, no, person := w.guard(path, t.yes), w.guard(path, t.no), w.guard(path, t.person)
	w.add(-yes, -no)
	w.add(-yes, -person)
	w.add(-no, -person)
	return tri{yes, no, person, w.and(-yes, -no, -person)}
}

// question encodes one, its presence, its limits and what stands in its way.
func (w *world) question(section int, q *form.Question, in *asked) {
	st := &asked{path: in.path + "/questions/" + string(q.Key), stage: in.stage, section: section, q: q}
	w.index[q.Key] = len(w.questions)
	w.questions = append(w.questions, st)
	st.asked = w.asking(st.path+"/asked", q.Asked, in.asked)
	c := &cell{notAsked: st.asked.no, unsettled: st.asked.blank, blankNo: q.Blank == form.MeansNo, typ: form.KindOf(q.Kind).Type}
	st.cell = c
	w.cells[string(q.Key)] = c
	w.presence(st, q, c)
	st.must = never
	switch {
	case q.Blank == form.Required:
		st.must = always
	case !q.Must.Always():
		st.must = -w.guarded(st.path+"/must", q.Must).no
	}
	if w.deciding[q.Key] || bounded(q) {
		c.value = w.values(q)
	}
	st.fits = w.limits(st, q, c)
	st.ok = w.and(-w.and(c.blank, st.must), -w.and(c.given, -st.fits))
	if q.Kind == form.Pick {
		w.filledIn(q, c)
	}
}

// bounded reports a question whose value can lie outside its limits.
func bounded(q *form.Question) bool {
	switch q.Kind {
	case form.Number, form.Money, form.Percent, form.Date, form.Counts, form.Several, form.AwardPick, form.Ranked, form.Keywords:
	default:
		return false
	}
	for _, c := range append(slices.Clone(q.Limits.When), form.Case[form.Limits]{Then: q.Limits.Else}) {
		l := c.Then
		if l.Least != nil || l.Most != nil || l.PickLeast > 1 || l.PickMost > 0 || l.NotBefore != nil || l.NotAfter != nil || l.MonthsOld > 0 {
			return true
		}
	}
	return false
}

// presence makes one presence hold.
func (w *world) presence(st *asked, q *form.Question, c *cell) {
	c.blank, c.declared = never, never
	fact := q.Nature == form.Fact && w.facts != nil
	fix, isFixed := w.fix[q.Key]
	if w.twin {
		before := w.facts.questions[w.facts.index[q.Key]]
		c.would = [2]lit{before.leaves(), before.says()}
		c.blank, c.declared = w.and(st.asked.yes, before.leaves()), w.and(st.asked.yes, -before.leaves(), before.says())
		c.given = w.and(st.asked.yes, -before.leaves(), -before.says())
		return
	}
	relevant := w.deciding[q.Key] || bounded(q) || !q.Must.Always()
	truth := func(b bool) lit {
		if b {
			return always
		}
		return never
	}
	// what the applicant would do if they were asked
	leaves, says := never, never
	switch {
	case fact: // what is true is shared; whether it is told is a choice
		says = w.facts.questions[w.facts.index[q.Key]].says()
		switch {
		case isFixed:
			leaves = truth(fix.blank)
		case relevant && q.Blank != form.Required:
			leaves = w.fresh()
		}
	case isFixed:
		leaves, says = truth(fix.blank), truth(fix.declared)
	case relevant:
		if q.Blank != form.Required {
			leaves = w.fresh()
		}
		if len(q.NonAnswers) > 0 {
			says = w.fresh()
		}
	}
	c.would = [2]lit{leaves, says}
	c.blank, c.declared = w.and(st.asked.yes, leaves), w.and(st.asked.yes, -leaves, says)
	c.given = w.and(st.asked.yes, -leaves, -says)
}

func (a *asked) leaves() lit { return a.cell.would[0] }
func (a *asked) says() lit   { return a.cell.would[1] }

// values are what a deciding question can be answered with.
func (w *world) values(q *form.Question) value {
	fact := q.Nature == form.Fact && w.facts != nil
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
		for i, l := range v.is {
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
	f, d := w.f, w.f.Design
	switch q.Kind {
	case form.YesNo, form.Declaration:
		no, yes := false, true
		return w.finite([]condition.Value{{Yes: &yes}, {Yes: &no}})
	case form.Choice, form.StreamPick, form.ApplicantIs, form.Pick:
		var vals []condition.Value
		for _, o := range f.Options(q) {
			vals = append(vals, condition.Value{Text: string(o.Key)})
		}
		return w.finite(vals)
	case form.Grade:
		var vals []condition.Value
		for _, s := range f.Steps(q.Table) {
			vals = append(vals, condition.Value{Number: &s})
		}
		return w.finite(vals)
	case form.Short, form.Identifier, form.Phone:
		return w.finite(w.texts(q))
	case form.Several, form.AwardPick, form.Ranked:
		var keys []string
		for _, o := range f.Options(q) {
			keys = append(keys, string(o.Key))
		}
		return w.several(q, keys, len(keys))
	case form.Keywords:
		var keys []string
		for i := range d.Lists {
			if d.Lists[i].Key == q.List {
				for _, it := range d.Lists[i].Items {
					keys = append(keys, it.Code)
				}
			}
		}
		return w.several(q, keys, len(keys))
	case form.Number:
		return amount{w.number(-1e13, 1e13), tens(q.Scale)}
	case form.Percent:
		top := int64(math.MaxInt32)
		return amount{w.number(0, top), tens(q.Scale) * 100}
	case form.Money:
		return amount{w.number(-9e14, 9e14), 1}
	case form.Counts:
		return amount{w.number(0, 1e12), 1}
	case form.Fees:
		w.exact = false
		return amount{w.number(0, 1e12), 1}
	case form.Date:
		return amount{w.number(firstDay, lastDay), 1}
	}
	return opaque{}
}

func tens(n int) int64 {
	out := int64(1)
	for range n {
		out *= 10
	}
	return out
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
	candidates = append(candidates, specimen(q))
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
	if q.Kind == form.Ranked {
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
	t := w.f.Table(q.Table)
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

// visitTests calls visit for every test of the design.
func (w *world) visitTests(visit func(condition.Test)) {
	var walk func(c condition.Cond)
	walk = func(c condition.Cond) {
		for _, list := range [][]condition.Cond{c.All, c.Any, c.None} {
			for _, k := range list {
				walk(k)
			}
		}
		if c.AtLeast != nil {
			for _, k := range c.AtLeast.Of {
				walk(k)
			}
		}
		if c.Test != nil {
			visit(*c.Test)
		}
	}
	eachCond(w.f.Design, func(_ string, c condition.Cond) { walk(c) })
}
