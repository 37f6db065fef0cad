package proof

import (
	"slices"

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
	budgets   map[form.Key]*sums // of which something is read
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
	sums            map[form.Key]int64 // of a budget: see sums.each
}

// path of a question in the document.
func pathOf(section, question form.Key) string {
	return "sections/" + string(section) + "/questions/" + string(question)
}

func newWorld(fm *formula, f *form.Form, sel map[string]lit) *world {
	w := &world{formula: fm, f: f, sel: sel, index: map[form.Key]int{}, cells: map[string]*cell{},
		deciding: map[form.Key]bool{}, figures: map[form.Key]*form.Figure{},
		byFigure: map[form.Key]*cell{}, exact: true, results: map[form.Key]*cell{},
		budgets: map[form.Key]*sums{}}
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
	eachCond(d, func(_ string, c condition.Cond) { c.Refs(see) })
	w.readsBudgets()
}

func (w *world) fixedKey(x condition.Fixed) form.Key {
	if q := w.f.Supplying(x); q != nil {
		return q.Key
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
	w.matches()
}

// matches is who meets each award. It is first looked at where one may ask for
// every award that fits, which stands after all that they read.
func (w *world) matches() []tri {
	d := w.f.Design
	for i := len(w.awards); i < len(d.Awards); i++ {
		w.awards = append(w.awards, w.guarded("awards/"+string(d.Awards[i].Key)+"/match", d.Awards[i].Match))
	}
	return w.awards
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
	c := &cell{notAsked: st.asked.no, unsettled: st.asked.blank, blankNo: q.Blank == form.MeansNo,
		typ: form.KindOf(q.Kind).Type}
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
	if w.deciding[q.Key] || bounded(w.f, q) {
		c.value = w.values(q)
	}
	st.fits = w.limits(st, q, c)
	st.ok = w.and(-w.and(c.blank, st.must), -w.and(c.given, -st.fits))
	w.filledIn(q, c)
}

// bounded reports a question whose value can lie outside its limits.
func bounded(f *form.Form, q *form.Question) bool {
	if q.Every {
		return true
	}
	for _, c := range append(slices.Clone(q.Limits.When), form.Case[form.Limits]{Then: q.Limits.Else}) {
		l := c.Then
		if l.Least != nil || l.Most != nil || l.PickLeast > 1 || l.PickMost > 0 || l.NotBefore != nil || l.NotAfter != nil ||
			l.MonthsOld > 0 {
			of := f.Values(q)
			return of.Of == form.Picks || of.Of == form.Numbers
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
	relevant := w.deciding[q.Key] || bounded(w.f, q) || !q.Must.Always()
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
