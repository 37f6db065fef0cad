package form

import (
	"ulvant/core/budget"
	"ulvant/core/condition"
	"ulvant/core/lifecycle"
)

// Path is what one applicant meets, worked out from a Filled.
type Path struct {
	Sections  []SectionState  // as the design's sections
	Questions []QuestionState // all of them, in reading order
	Obstacles []Obstacle      // in reading order
	Rules     []RuleState     // as the design's rules
	Done, All int             // questions that must be answered, and how many are
}

// SectionState is one section on the path.
type SectionState struct {
	Key       Key
	Asked     condition.Tri
	Done, All int // questions asked that must be answered
	Third     bool
}

// QuestionState is one question on the path.
type QuestionState struct {
	Key      Key
	Section  Key
	Asked    condition.Tri
	Must     condition.Tri
	Limits   Limits
	Settled  bool // the limits do not hang on anything still open
	Presence condition.Presence
	Raw      string // as typed, for plain kinds
	Value    condition.Value
	Words    int
	Totals   *budget.Totals // of a budget that can be added up
	Faults   int            // obstacles at this question
}

// Outcome of a rule for one applicant.
type Outcome string

// The outcomes.
const (
	Holds  Outcome = "yes"
	Fails  Outcome = "no"
	Person Outcome = "person" // somebody must look
	NotYet Outcome = "not yet"
)

// RuleState is how one rule stands.
type RuleState struct {
	Key     Key
	Outcome Outcome
	Reason  string // the rule's own sentence for the outcome
}

type walk struct {
	form   *Form
	filled *Filled
	path   *Path
	frame  []condition.Cell
}

// Walk works the whole design through once, in reading order.
func (f *Form) Walk(filled *Filled) *Path {
	w := &walk{form: f, filled: filled, frame: make([]condition.Cell, f.frameSize), path: &Path{
		Sections: make([]SectionState, len(f.sections)), Questions: make([]QuestionState, len(f.questions)),
	}}
	for i, m := range f.Design.Calendar {
		w.frame[f.dates[i]] = condition.Cell{Presence: condition.Given, Value: condition.Value{Date: m.At.Date}}
	}
	for i := range f.sections {
		s := &f.sections[i]
		st := &w.path.Sections[i]
		st.Key = s.def.Key
		st.Asked = w.asked(s.asked, s.reads, condition.Yes)
		for j := s.first; j < s.last; j++ {
			w.question(j, st)
		}
		w.path.Done += st.Done
		w.path.All += st.All
	}
	w.rules()
	return w.path
}

// asked answers an "is it asked" condition. While writing, unknown is not
// shown; a declared non-answer that decides it asks for the greater.
func (w *walk) asked(p condition.Program, reads []int, within condition.Tri) condition.Tri {
	v := p.Eval(w.frame)
	t := v.Tri
	if v.ForPerson() {
		t = condition.Yes
	}
	return min(t, within)
}

func (w *walk) question(i int, sec *SectionState) {
	q := &w.form.questions[i]
	s := &w.path.Questions[i]
	s.Key, s.Section = q.def.Key, sec.Key
	s.Asked = w.asked(q.asked, q.reads, sec.Asked)
	s.Limits, s.Settled = w.limits(q)
	cell := &w.frame[i]
	switch s.Asked {
	case condition.No:
		cell.Presence = condition.NotAsked
		s.Presence = condition.NotAsked
		w.figures(q)
		return
	case condition.Unknown:
		cell.Presence = condition.Unsettled
		s.Presence = condition.Unsettled
		w.figures(q)
		return
	}
	s.Must = condition.Yes
	if q.def.Blank != Required {
		s.Must = condition.No
		if !q.def.Must.Always() {
			v := q.must.Eval(w.frame)
			s.Must = v.Tri
			if v.ForPerson() {
				s.Must = condition.Yes
			}
		}
	}
	before := len(w.path.Obstacles)
	w.answer(q, s)
	s.Faults = len(w.path.Obstacles) - before
	for _, o := range w.path.Obstacles[before:] {
		sec.Third = sec.Third || o.Move == lifecycle.Third
	}
	if s.Must != condition.No || s.Presence == condition.Given {
		sec.All++
		if s.Faults == 0 && s.Presence != condition.Blank {
			sec.Done++
		}
	}
	*cell = condition.Cell{Presence: s.Presence, BlankNo: q.def.Blank == MeansNo, Value: s.Value}
	w.figures(q)
}

// answer reads what was given and finds what is wrong with it.
func (w *walk) answer(q *question, s *QuestionState) {
	if q.kind.read == nil {
		s.Presence = condition.Blank
		if q.kind.empty(w, q.def) {
			w.blank(s)
			return
		}
		if q.kind.check != nil {
			if q.def.Kind == Address || q.def.Kind == Budget {
				s.Presence = condition.Given
			}
			q.kind.check(w, q, s)
		}
		return
	}
	a := w.filled.Answers[Place{Question: q.def.Key}]
	s.Raw = a.Raw
	switch {
	case a.Declared && q.def.NotKnown:
		s.Presence = condition.Declared
	case a.Empty():
		s.Presence = condition.Blank
		w.blank(s)
	default:
		v, ok := q.kind.read(w.form, q.def, a.Raw)
		if !ok {
			s.Presence = condition.Blank
			w.obstacle(s, Obstacle{Code: CodeUnreadable, Name: a.Raw})
			return
		}
		s.Presence, s.Value = condition.Given, v
		if q.kind.check != nil {
			q.kind.check(w, q, s)
		}
	}
}

func (w *walk) blank(s *QuestionState) {
	if s.Must != condition.No {
		w.obstacle(s, Obstacle{Code: CodeBlank})
	}
}

func (w *walk) obstacle(s *QuestionState, o Obstacle) {
	o.Section = s.Section
	if o.Place.Question == "" {
		o.Place.Question = s.Key
	}
	if o.Move == "" {
		o.Move = lifecycle.Applicant
	}
	w.path.Obstacles = append(w.path.Obstacles, o)
}

// limits finds the case that holds; while that is open, the loosest still
// possible, member by member.
func (w *walk) limits(q *question) (Limits, bool) {
	var open []Limits
	for i := range q.limits {
		switch v := q.limits[i].Eval(w.frame); v.Tri {
		case condition.Yes:
			return loosest(q.def.Limits.When[i].Then, open), len(open) == 0
		case condition.Unknown:
			open = append(open, q.def.Limits.When[i].Then)
		}
	}
	return loosest(q.def.Limits.Else, open), len(open) == 0
}

func loosest(l Limits, others []Limits) Limits {
	for _, o := range others {
		l.Words = looser(l.Words, o.Words)
		l.Characters = looser(l.Characters, o.Characters)
		l.MatchPercent = min(l.MatchPercent, o.MatchPercent)
		l.Referees = min(l.Referees, o.Referees)
		if l.Least == nil || o.Least == nil {
			l.Least = nil
		} else if *o.Least < *l.Least {
			l.Least = o.Least
		}
		if l.Most == nil || o.Most == nil {
			l.Most = nil
		} else if *o.Most > *l.Most {
			l.Most = o.Most
		}
		if o.NotBefore == nil {
			l.NotBefore = nil
		}
		if o.NotAfter == nil {
			l.NotAfter = nil
		}
		if l.Slot != nil && o.Slot != nil {
			merged := *l.Slot
			merged.SizeMost = max(merged.SizeMost, o.Slot.SizeMost)
			merged.PagesMost = looser(merged.PagesMost, o.Slot.PagesMost)
			l.Slot = &merged
		}
	}
	return l
}

func looser(a, b int) int {
	if a == 0 || b == 0 {
		return 0
	}
	return max(a, b)
}

// figures works out what is known once q is walked.
func (w *walk) figures(q *question) {
	for _, i := range q.figures {
		f := &w.form.figures[i]
		cell := &w.frame[f.frame]
		*cell = condition.Cell{Presence: condition.Given}
		sums := make([]int64, len(f.of))
		for k, of := range f.of {
			src := w.frame[of]
			if src.Presence != condition.Given {
				cell.Presence = src.Presence
				break
			}
			sums[k] = w.sum(of, f.cols[k])
		}
		if cell.Presence != condition.Given {
			continue
		}
		n := condition.Number{Den: 1}
		if f.def.Op == "share" {
			n = condition.Number{Num: sums[0], Den: sums[1]}
			if sums[1] <= 0 {
				cell.Presence = condition.Blank
				continue
			}
		} else {
			for _, s := range sums {
				n.Num += s
			}
		}
		cell.Value.Number = &n
	}
}

func (w *walk) sum(of int, col Key) int64 {
	q := w.form.questions[of].def
	if q.Kind != Budget {
		if n := w.frame[of].Value.Number; n != nil {
			return n.Num
		}
		return 0
	}
	t := w.path.Questions[of].Totals
	switch {
	case t == nil:
		return 0
	case col == ColCost:
		return t.Cost
	case col == ColUs:
		return t.FromUs
	}
	return t.Match
}

func (w *walk) rules() {
	for _, r := range w.form.rules {
		v := r.holds.Eval(w.frame)
		st := RuleState{Key: r.def.Key}
		switch {
		case v.Tri == condition.Yes:
			st.Outcome, st.Reason = Holds, r.def.Yes
		case v.ForPerson() || v.Tri == condition.No && r.def.Person:
			st.Outcome, st.Reason = Person, r.def.Look
		case v.Tri == condition.No:
			st.Outcome, st.Reason = Fails, r.def.No
			o := Obstacle{Code: CodeNotEligible, Move: lifecycle.Applicant, Detail: r.def.No, Name: r.def.Label}
			if len(r.reads) > 0 {
				first := &w.path.Questions[r.reads[0]]
				o.Section, o.Place.Question = first.Section, first.Key
			}
			w.path.Obstacles = append(w.path.Obstacles, o)
		default:
			st.Outcome = NotYet
		}
		w.path.Rules = append(w.path.Rules, st)
	}
}

// Verdict sums the rules up: no when any fails, else not yet, else person,
// else yes.
func (p *Path) Verdict() Outcome {
	out := Holds
	rank := map[Outcome]int{Holds: 0, Person: 1, NotYet: 2, Fails: 3}
	for _, r := range p.Rules {
		if rank[r.Outcome] > rank[out] {
			out = r.Outcome
		}
	}
	return out
}

// Find the state of a question; nil when the design has none by that key.
func (p *Path) Find(k Key) *QuestionState {
	for i := range p.Questions {
		if p.Questions[i].Key == k {
			return &p.Questions[i]
		}
	}
	return nil
}

// CheckQuestions are what the rules read, and what decides whether those are
// asked: the questions of "could this be for me", in reading order.
func (f *Form) CheckQuestions() []*Question {
	need := make([]bool, len(f.questions))
	var mark func(i int)
	mark = func(i int) {
		if need[i] {
			return
		}
		need[i] = true
		for _, r := range f.questions[i].reads {
			mark(r)
		}
		for _, r := range f.sections[f.questions[i].section].reads {
			mark(r)
		}
	}
	for _, r := range f.rules {
		for _, i := range r.reads {
			mark(i)
		}
	}
	var out []*Question
	for i, is := range need {
		if is {
			out = append(out, f.questions[i].def)
		}
	}
	return out
}
