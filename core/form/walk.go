package form

import (
	"slices"

	"ulvant/core/budget"
	"ulvant/core/condition"
	"ulvant/core/lifecycle"
)

// Path is what one applicant meets, worked out from a Filled.
type Path struct {
	Sections  []SectionState   // as the design's sections
	Questions []QuestionState  // all of them, in reading order
	Obstacles []Obstacle       // in reading order
	Rules     []RuleState      // as the design's rules, without those that do not apply
	Awards    []condition.Tri  // as the design's awards: who is met by their criteria
	Figures   []condition.Cell // as the design's figures
	Bodies    []condition.Tri  // as the design's bodies: which of them it is for
	Criteria  []condition.Tri  // as the design’s criteria: which of them apply
	Letters   []condition.Tri  // as the design’s letters: which would go out in the place of another
	Done, All int              // questions that must be answered, and how many are
}

// SectionState is one section on the path.
type SectionState struct {
	Key       Key
	Asked     condition.Tri
	Done, All int // questions asked that must be answered
	Third     bool
}

// QuestionState is one question on the path, or one column of a row.
type QuestionState struct {
	Key      Key
	Section  Key
	Asked    condition.Tri
	Must     condition.Tri
	Limits   Limits
	Settled  bool // the limits do not hang on anything still open
	Presence condition.Presence
	Non      NonAnswer // of a declared answer
	Raw      string    // as typed, for plain kinds
	Value    condition.Value
	Words    int
	Totals   *budget.Totals // of a budget that can be added up
	Parts    []PartState    // of a kind kept piece by piece
	Rows     []RowState     // of a table; rows with nothing in them are left out
	Fees     []FeeState
	Charge   *Charge // of fees: what they come to
	Unfit    []Unfit // of awards, where every one that fits is asked for: those that do not, and why
	Faults   int     // obstacles at this question
	blankNo  bool
}

// Unfit is an award that does not fit somebody: their places in the design and in the
// award’s conditions.
type Unfit struct{ Award, Condition int }

// PartState is one piece of an answer.
type PartState struct {
	Part
	Raw      string
	Presence condition.Presence
	Value    condition.Value
}

// RowState is one row of a table; its cells are in the order of the columns.
type RowState struct {
	Key   string
	Cells []QuestionState
}

func (s *QuestionState) cell() condition.Cell {
	return condition.Cell{Presence: s.Presence, BlankNo: s.blankNo, Value: s.Value}
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
	Key      Key
	Outcome  Outcome
	Reason   string // the rule's own sentence for the outcome
	Evidence string // the lists that were looked up, "" for none
}

type walk struct {
	form   *Form
	filled *Filled
	path   *Path
	frame  []condition.Cell
	now    int // the stage being written for, by its place
}

// Walk works the whole design through once, in reading order.
func (f *Form) Walk(filled *Filled) *Path {
	w := f.begin(filled)
	w.sections(nil)
	w.rules()
	for _, a := range f.awards {
		w.path.Awards = append(w.path.Awards, a.match.Eval(w.frame).Tri)
	}
	for _, b := range f.bodies {
		w.path.Bodies = append(w.path.Bodies, b.Eval(w.frame).Tri)
	}
	for _, c := range f.criteria {
		w.path.Criteria = append(w.path.Criteria, c.Eval(w.frame).Tri)
	}
	for _, c := range w.form.letters {
		w.path.Letters = append(w.path.Letters, c.Eval(w.frame).Tri)
	}
	w.workedOut()
	return w.path
}

// workedOut brings the figures into the order of the design.
func (w *walk) workedOut() {
	f := w.form
	w.path.Figures = make([]condition.Cell, len(f.Design.Figures))
	for i := range f.Design.Figures {
		for _, x := range f.figures {
			if x.def == &f.Design.Figures[i] && !x.unfit {
				w.path.Figures[i] = w.frame[x.frame]
			}
		}
	}
}

// Judge works through the rules alone; see Judges.
func (f *Form) Judge(filled *Filled) *Path { return f.Judges()(filled) }

// Judges makes a function that works through the rules alone: the questions
// that they read, and what decides whether those are asked. The Path holds
// nothing of the others, and is written over by the next call: it is for going
// over many applications, one after another.
func (f *Form) Judges() func(*Filled) *Path {
	w := f.begin(&Filled{})
	return func(filled *Filled) *Path {
		w.filled = filled
		w.path.Obstacles, w.path.Rules, w.path.Done, w.path.All = w.path.Obstacles[:0], w.path.Rules[:0], 0, 0
		w.stand(filled)
		w.sections(f.judged)
		w.rules()
		return w.path
	}
}

// sections walks them all in reading order; only, if not nil, says which
// questions are walked anew.
func (w *walk) sections(only []bool) {
	w.now = w.form.place(w.filled.Stage)
	for i := range w.form.sections {
		s, filled := &w.form.sections[i], w.filled
		st := &w.path.Sections[i]
		*st = SectionState{Key: s.def.Key, Asked: w.asked(s.asked, condition.Yes)}
		behind, before := s.behind(w.now), len(w.path.Obstacles)
		if s.ahead(w.now) || behind && filled.Earlier == nil {
			st.Asked = condition.No
		} else if behind {
			w.filled = filled.Earlier
		}
		for j := s.first; j < s.last; j++ {
			if only == nil || only[j] {
				w.path.Questions[j] = QuestionState{}
				w.question(j, st)
			}
		}
		if behind { // it can be read, and is not asked
			w.filled, w.path.Obstacles = filled, w.path.Obstacles[:before]
			*st = SectionState{Key: s.def.Key, Asked: condition.No}
			for j := s.first; j < s.last; j++ {
				w.path.Questions[j].Asked, w.path.Questions[j].Faults = condition.No, 0
			}
		}
		w.path.Done += st.Done
		w.path.All += st.All
	}
}

// begin makes a walk whose frame holds what stands before the first question.
func (f *Form) begin(filled *Filled) *walk {
	w := &walk{form: f, filled: filled, frame: make([]condition.Cell, f.frameSize), path: &Path{
		Sections: make([]SectionState, len(f.sections)), Questions: make([]QuestionState, len(f.questions))}}
	w.stand(filled)
	return w
}

// stand fills in what stands before the first question.
func (w *walk) stand(filled *Filled) {
	f := w.form
	for i, m := range f.Design.Calendar {
		w.frame[f.dates[i]] = condition.Cell{Presence: condition.Given, Value: condition.Value{Date: m.At.Date}}
	}
	for key, i := range f.stages {
		if r, ok := filled.Results[key]; ok {
			w.frame[i] = condition.Cell{Presence: condition.Given, Value: condition.Value{Text: r}}
		}
	}
	if !filled.Today.IsZero() {
		w.frame[f.today] = condition.Cell{Presence: condition.Given, Value: condition.Value{Date: filled.Today}}
	} else {
		w.frame[f.today] = condition.Cell{Presence: condition.Unsettled}
	}
	for i, n := range []int{filled.Others.Round, filled.Others.Programme} {
		w.frame[f.others+i] = condition.Cell{Presence: condition.Given,
			Value: condition.Value{Number: &condition.Number{Num: int64(n), Den: 1}}}
	}
	for i := range f.figures {
		if f.figures[i].after < 0 {
			w.frame[f.figures[i].frame] = w.figure(&f.figures[i])
		}
	}
}

// CountsOthers reports a form that asks what else the applicant has sent.
func (f *Form) CountsOthers() bool { return f.counted }

// ByInvitation reports a stage to which only those invited come.
func (f *Form) ByInvitation(stage Key) bool {
	return slices.ContainsFunc(f.Design.Stages, func(s Stage) bool { return s.Key == stage && s.Invited })
}

// asked answers an "is it asked" condition. While writing, unknown is not
// shown; a declared non-answer that decides it asks for the greater.
func (w *walk) asked(p condition.Program, within condition.Tri) condition.Tri {
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
	s.Section = sec.Key
	before := len(w.path.Obstacles)
	w.state(q, s, w.filled.Answers[Place{Question: q.def.Key}], sec.Asked)
	s.Faults = len(w.path.Obstacles) - before
	if s.Asked == condition.Yes && s.Presence != condition.NotAsked {
		for _, o := range w.path.Obstacles[before:] {
			sec.Third = sec.Third || o.Move == lifecycle.Third
		}
		if s.Must != condition.No || s.Presence == condition.Given {
			sec.All++
			if s.Faults == 0 && s.Presence != condition.Blank {
				sec.Done++
			}
		}
	}
	w.frame[i] = s.cell()
	w.picked(q, s)
	w.figures(q.figures)
}

// state works out one question, or one column of a row.
func (w *walk) state(q *question, s *QuestionState, a Answer, within condition.Tri) {
	s.Key, s.blankNo = q.def.Key, q.def.Blank == MeansNo
	s.Asked = w.asked(q.asked, within)
	s.Limits, s.Settled = w.limits(q)
	switch s.Asked {
	case condition.No:
		s.Presence = condition.NotAsked
		return
	case condition.Unknown:
		s.Presence = condition.Unsettled
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
	w.answer(q, s, a)
}

// answer reads what was given and finds what is wrong with it.
func (w *walk) answer(q *question, s *QuestionState, a Answer) {
	s.Raw, s.Presence = a.Raw, condition.Blank
	switch {
	case a.Non != "" && slices.Contains(q.def.NonAnswers, a.Non):
		s.Presence, s.Non = condition.Declared, a.Non
	case q.columns != nil:
		w.table(q, s)
	case q.kind.parts != nil:
		w.parts(q, s)
	case q.kind.read == nil:
		if q.kind.check != nil {
			q.kind.check(w, q, s)
		}
	case (Answer{Raw: a.Raw}).Empty(): // a statement that is no longer offered is nothing given
		if q.def.Media && s.Limits.Slot != nil && len(w.filled.Files[q.def.Key]) > 0 {
			s.Presence = condition.Given // a film or sound stands in for the text
			w.files(q, s, w.filled.Files[q.def.Key], *s.Limits.Slot)
			return
		}
		w.blank(s)
	default:
		v, ok := q.kind.read(w.form, q.def, a.Raw)
		if !ok {
			w.obstacle(s, Obstacle{Code: CodeUnreadable, Name: a.Raw})
			return
		}
		s.Presence, s.Value = condition.Given, v
		if q.kind.check != nil {
			q.kind.check(w, q, s)
		}
		w.sure(q, s)
	}
}

// ColSure keeps how sure an answer is.
const ColSure Key = "sure"

// sure asks how sure an answer is, where the question wants to know.
func (w *walk) sure(q *question, s *QuestionState) {
	if q.def.Sure == "" {
		return
	}
	at := Place{Question: q.def.Key, Column: ColSure}
	if !slices.Contains(q.def.Sure.Marks(), w.filled.Answers[at].Raw) {
		w.obstacle(s, Obstacle{Code: CodeNotSure, Place: at, Detail: string(q.def.Sure)})
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

func (w *walk) rules() {
	for i := range w.form.rules {
		r := &w.form.rules[i]
		if !r.counts(w.form, w.now) {
			continue
		}
		when := r.when.Eval(w.frame)
		if when.Tri == condition.No {
			continue
		}
		v := r.holds.Eval(w.frame)
		st := RuleState{Key: r.def.Key, Evidence: r.evidence}
		switch {
		case v.Tri == condition.Yes:
			st.Outcome, st.Reason = Holds, r.def.Yes
		case when.Tri == condition.Unknown && !when.ForPerson():
			st.Outcome = NotYet
		case v.ForPerson() || when.ForPerson() || v.Tri == condition.No && r.def.Person:
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
	var out []*Question
	for i, is := range f.judged {
		if is && f.sections[f.questions[i].section].stage == f.place("") {
			out = append(out, f.questions[i].def)
		}
	}
	return out
}

// judge marks the questions that the rules hang on.
func (f *Form) judge() {
	f.judged = make([]bool, len(f.questions))
	var mark func(i int)
	mark = func(i int) {
		if f.judged[i] {
			return
		}
		f.judged[i] = true
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
}
