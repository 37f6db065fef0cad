package form

import (
	"slices"

	"ulvant/core/condition"
	"ulvant/core/wordlist"
)

// award compiled: who meets it, as a whole and condition by condition.
type award struct {
	match condition.Program
	parts []condition.Program // of Match, those that must all hold
	conds []condition.Cond    // as parts
	first condition.Program
	words *wordlist.List // nil: none are asked for
}

// Stand is how somebody stands to an award.
type Stand string

// The ways in which one can stand to an award.
const (
	Fits    Stand = "fits"
	MustSay Stand = "must say" // a person must say whether they do
	Nearly  Stand = "nearly"   // they miss it by one criterion
	FarFrom Stand = "no"
)

// Meeting is how one person stands to one award, criterion by criterion.
type Meeting struct {
	Stand Stand
	Parts []condition.Verdict // as Conditions of the award
	Found []wordlist.Found    // words in the answer that they are looked for in
	First bool                // they come before all others
}

// Misses is the place of the one part that somebody misses who nearly meets an award;
// that of the words is the number of conditions.
func (m Meeting) Misses() int {
	return slices.IndexFunc(m.Parts, func(v condition.Verdict) bool { return v.Tri != condition.Yes && !v.ForPerson() })
}

// Conditions are the parts of who meets an award, by its place: all must hold.
func (f *Form) Conditions(award int) []condition.Cond { return f.awards[award].conds }

// Asked reports that somebody was asked every question that who meets an award reads.
func (f *Form) Asked(award int, path *Path) bool {
	asked := true
	for _, c := range f.awards[award].conds {
		c.Refs(func(r condition.Ref) {
			if i, ok := f.index[r.Answer]; ok && r.Answer != "" {
				asked = asked && path.Questions[i].Asked == condition.Yes
			}
		})
	}
	return asked
}

// conjuncts are what a condition asks all of.
func conjuncts(c condition.Cond) (out []condition.Cond) {
	switch {
	case c.Always():
		return nil
	case c.All == nil:
		return []condition.Cond{c}
	}
	for _, m := range c.All {
		out = append(out, conjuncts(m)...)
	}
	return out
}

func (c *compiler) award(a *Award) award {
	out := award{match: c.cond(a.Match), conds: conjuncts(a.Match)}
	for _, part := range out.conds {
		p, err := condition.Compile(part, c)
		if err != nil {
			break // said once, of the whole
		}
		out.parts = append(out.parts, p)
	}
	walked, stage, reads := c.walked, c.stage, c.reads
	c.walked, c.stage = len(c.f.questions), len(c.f.Design.Stages)
	out.first = c.cond(a.First)
	c.walked, c.stage, c.reads = walked, stage, reads // it decides nothing that is asked
	c.need(a.Least >= 0 && a.Least <= a.Purse, "the least of an award is from 0 to its purse")
	c.need(a.ByNeed == nil || *a.ByNeed >= 0 && *a.ByNeed <= 100, "an award goes 0 to 100 percent by need")
	c.need(a.LeastMerit >= 0 && a.LeastMerit <= 100, "the least merit is from 0 to 100")
	for _, k := range []Key{a.NeedBy, a.MeritBy} {
		c.need(k == "" || c.f.numeric(k), "an award goes by a figure or an answer that is a number or a sum; %q is none", k)
	}
	if a.WordsIn != "" || len(a.Words) > 0 {
		q := c.f.Question(a.WordsIn)
		c.need(q != nil && q.Written() && !q.PicksOne(), "words are looked for in a written answer; %q is none", a.WordsIn)
		out.words = wordlist.New(a.Words)
		c.need(len(out.words.Words()) > 0, "say which words are looked for")
	}
	return out
}

// placing checks how awards are placed.
func (c *compiler) placing() {
	p := c.f.Design.Placing
	if p == nil {
		return
	}
	c.path, c.place = "placing", "placing of awards"
	for _, k := range []Key{p.Need, p.Merit} {
		c.need(k == "" || c.f.numeric(k), "awards are placed by a figure or an answer that is a number or a sum; %q is none",
			k)
	}
	c.need(p.Most >= 0, "a person has no fewer than 0 awards")
	c.need(p.Wish >= 0 && p.Wish <= 100, "a wish is worth 0 to 100 points")
	c.need(p.Cap == "" || p.Cap == UpToAsked && c.f.Design.Request != "" || p.Cap == UpToNeed && p.Need != "",
		"the money of a person is held to what they ask for or need, and nothing says how much that is")
	groups := map[string]bool{}
	for _, a := range c.f.Design.Awards {
		if a.Apart != "" {
			groups[a.Apart] = true
		}
	}
	c.need(len(groups) <= mostApart, "awards exclude each other in at most %d groups", mostApart)
}

// mostApart is as many groups as core/placing can keep apart.
const mostApart = 64

// numeric reports a figure or a question whose value is a number.
func (f *Form) numeric(k Key) bool {
	for i := range f.figures {
		if x := &f.figures[i]; x.def.Key == k {
			return x.typ == condition.TypeNumber
		}
	}
	q := f.Question(k)
	return q != nil && q.Keeps() == InText && f.questions[f.index[k]].kind.typ == condition.TypeNumber
}

// Numeric lists what awards can be placed by: figures and questions whose value is a
// number, with what they are called.
func (f *Form) Numeric() (out []Option) {
	for _, x := range f.Design.Figures {
		if f.numeric(x.Key) {
			out = append(out, Option{x.Key, x.Label})
		}
	}
	for _, s := range f.Design.Sections {
		for _, q := range s.Questions {
			if f.numeric(q.Key) {
				out = append(out, Option{q.Key, q.Label})
			}
		}
	}
	return out
}

// Number reads a figure or an answer by its key; ok is false where there is none.
func (f *Form) Number(path *Path, k Key) (n condition.Number, ok bool) {
	for i, x := range f.Design.Figures {
		if x.Key == k {
			cell := path.Figures[i]
			return numberOf(cell.Presence, cell.Value)
		}
	}
	for i := range path.Questions {
		if st := &path.Questions[i]; st.Key == k && st.Asked == condition.Yes {
			return numberOf(st.Presence, st.Value)
		}
	}
	return n, false
}

func numberOf(p condition.Presence, v condition.Value) (condition.Number, bool) {
	if p != condition.Given || v.Number == nil {
		return condition.Number{}, false
	}
	return *v.Number, true
}

// Meetings works out how somebody stands to every award, in the order of the design,
// and the path they were on.
func (f *Form) Meetings(filled *Filled) ([]Meeting, *Path) {
	w := f.begin(filled)
	w.sections(nil)
	w.rules()
	w.workedOut()
	out := make([]Meeting, len(f.awards))
	for i := range f.awards {
		out[i] = w.meeting(i)
	}
	return out, w.path
}

func (w *walk) meeting(i int) Meeting {
	a, def := &w.form.awards[i], &w.form.Design.Awards[i]
	var m Meeting
	for _, p := range a.parts {
		m.Parts = append(m.Parts, p.Eval(w.frame))
	}
	if a.words != nil {
		v := condition.Verdict{Tri: condition.No}
		m.Found = a.words.In(w.form.Written(w.path, def.WordsIn))
		sure := slices.ContainsFunc(m.Found, func(f wordlist.Found) bool { return !f.Near })
		switch {
		case sure && !def.Look:
			v.Tri = condition.Yes
		case len(m.Found) > 0:
			v = condition.Verdict{Tri: condition.Unknown, Declared: true}
		}
		m.Parts = append(m.Parts, v)
	}
	missed, look, open := 0, false, false
	for _, v := range m.Parts {
		switch {
		case v.ForPerson():
			look = true
		case v.Tri != condition.Yes:
			missed++
			open = v.Tri == condition.Unknown
		}
	}
	switch {
	case missed > 1 || missed == 1 && len(m.Parts) == 1 && !open: // of one criterion nobody is near who misses it
		m.Stand = FarFrom
	case missed == 1:
		m.Stand = Nearly
	case look:
		m.Stand = MustSay
	default:
		m.Stand = Fits
	}
	m.First = !def.First.Always() && a.first.Eval(w.frame).Tri == condition.Yes
	return m
}

// NeedShare is how much of an award’s worth goes by need, in percent.
func (a Award) NeedShare() int {
	switch {
	case a.ByNeed != nil:
		return *a.ByNeed
	case a.Led == "need":
		return 100
	case a.Led == "merit":
		return 0
	}
	return 50
}

// LeastSum is the least that one place gives.
func (a Award) LeastSum() int64 {
	if a.Least > 0 {
		return a.Least
	}
	return a.Purse
}

// Written is the text of an answer as it was typed; "" where none was given.
func (f *Form) Written(path *Path, k Key) string {
	i, ok := f.index[k]
	if !ok {
		return ""
	}
	if st := &path.Questions[i]; st.Asked == condition.Yes && st.Presence == condition.Given {
		return st.Raw
	}
	return ""
}
