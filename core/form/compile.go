package form

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/money"
	"ulvant/core/refusal"
)

// Form is a design compiled to dense indexes; it is immutable and may be
// shared between goroutines.
type Form struct {
	Design *Design
	Zone   *time.Location
	// Off are the funder's days that are no working days, besides weekends; nil
	// for none. Whoever keeps the form sets it: it is no part of a design.
	Off func(calendar.Date) bool

	sections  []section
	questions []question // in reading order
	figures   []figure   // in an order in which each can be worked out
	rules     []rule
	awards    []award
	bodies    []condition.Program
	criteria  []condition.Program // when each applies
	letters   []condition.Program // to whom each goes out in the place of another
	fees      []fee
	judged    []bool      // questions that the rules hang on
	index     map[Key]int // of questions
	lists     map[Key]*listIndex
	tables    map[Key]*Table
	frameSize int
	dates     []int       // frame index of each moment
	stages    map[Key]int // frame index of each stage's result
	today     int
	others    int               // of the count in the round; that in the programme follows
	counted   bool              // whether anything reads the two
	theirs    map[Key]*Form     // what people who answer by a link are asked, by question
	instants  map[Key]time.Time // of the calendar
	rises     []time.Time       // at which a fee is another one
}

type section struct {
	def   *Section
	asked condition.Program
	first int // its questions are questions[first:last]
	last  int
	reads []int // questions its asked condition reads
	stage int   // the stage it is asked in, by its place in the design
	again []int // later stages in which it is asked again
}

type question struct {
	def     *Question
	section int
	asked   condition.Program
	must    condition.Program
	limits  []condition.Program
	kind    *kind
	reads   []int // questions that its conditions read
	figures []int // figures that can be worked out once this is walked
	columns []question
	cells   int // frame index of its first column, for tables and picks
}

type rule struct {
	def      *Rule
	when     condition.Program
	holds    condition.Program
	reads    []int
	stage    int    // the first in which all it reads is known
	evidence string // lists looked up, with their versions
}

type fee struct {
	def     *Fee
	offered condition.Program
	prices  []condition.Program
}

var keyForm = regexp.MustCompile(`^[a-z][a-z0-9]*(-[a-z0-9]+)*$`)

// Fault is one thing wrong with a design, and where: Path leads to it through
// the document, Place is for people.
type Fault struct{ Path, Place, Says string }

// Error says where and what.
func (f Fault) Error() string { return f.Place + ": " + f.Says }

// Sentence is the same on its own.
func (f Fault) Sentence() string { return refusal.Sentence(f.Error()) }

// Faults are those that an error of Compile holds; nil for any other error.
func Faults(err error) (out []Fault) {
	for _, e := range unjoin(err) {
		var f Fault
		if errors.As(e, &f) {
			out = append(out, f)
		}
	}
	return out
}

type compiler struct {
	f      *Form
	walked int // questions before this index may be referred to
	rows   int // the table whose column is being compiled, -1 outside; its columns before column may be read
	column int
	faults []Fault
	path   string
	place  string
	reads  []int
	stage  int     // of the section being compiled; what it may read is asked by then
	known  int     // the first stage in which every stage result read is known
	lists  []*List // looked up by the condition being compiled
}

// Compile checks a design and compiles it. The error joins a Fault for every
// thing that is wrong.
func Compile(d *Design) (*Form, error) {
	f, faults := Draft(d)
	if len(faults) > 0 {
		errs := make([]error, len(faults))
		for i := range faults {
			errs[i] = faults[i]
		}
		return nil, errors.Join(errs...)
	}
	return f, nil
}

// Draft compiles a design that may still have faults, as well as it goes: a
// condition that cannot be read holds always. It is for looking at a design
// being worked on, not for taking applications.
func Draft(d *Design) (*Form, []Fault) {
	c := &compiler{f: &Form{Design: d, index: map[Key]int{}, lists: map[Key]*listIndex{}, tables: map[Key]*Table{},
		stages: map[Key]int{}}, rows: -1, stage: len(d.Stages)}
	c.head()
	c.layout()
	for i := range c.f.sections {
		c.compileSection(i)
	}
	c.walked = len(c.f.questions)
	c.awards()
	for i := range d.Rules {
		r := &d.Rules[i]
		c.at("rules/"+string(r.Key), "rule "+name(r.Label, r.Key), r.Key)
		c.need(r.Yes != "" && r.No != "", "a rule needs a sentence for yes and one for no")
		c.reads, c.lists, c.known, c.stage = nil, nil, 0, len(d.Stages)
		when, holds := c.cond(r.When), c.cond(r.Holds)
		stage := c.known
		for _, i := range c.reads {
			stage = max(stage, c.f.sections[c.f.questions[i].section].stage)
		}
		c.need(stage < len(d.Stages) || len(d.Stages) == 0, "a rule reads nothing of a survey, which is kept apart")
		c.f.rules = append(c.f.rules, rule{r, when, holds, c.reads, max(stage, c.f.place("")), evidence(c.lists)})
	}
	c.stage = len(d.Stages)
	c.f.judge()
	c.things()
	c.assessment()
	return c.f, c.faults
}

func name(label string, key Key) string {
	if label == "" {
		return string(key)
	}
	return "“" + label + "”"
}

func (c *compiler) at(path, place string, key Key) {
	c.path, c.place = path, place
	c.need(keyForm.MatchString(string(key)), "the key %q must be small letters, digits and single hyphens", key)
}

func (c *compiler) need(ok bool, format string, args ...any) {
	if !ok {
		c.faults = append(c.faults, Fault{c.path, c.place, fmt.Sprintf(format, args...)})
	}
}

var prefixForm = regexp.MustCompile(`^[A-Z]{2,6}$`)

func (c *compiler) head() {
	d := c.f.Design
	c.path, c.place = "", "design"
	c.need(d.Schema == Schema, "schema %d is not one this program reads; it reads %d", d.Schema, Schema)
	c.need(d.Name != "", "the round needs a name")
	c.need(prefixForm.MatchString(d.Prefix),
		"the prefix of reference numbers is two to six capital letters")
	c.need(money.Known(d.Currency), "%q is not a currency (ISO 4217)", d.Currency)
	c.need(d.Fund > 0, "the fund must be more than nothing")
	zone, err := time.LoadLocation(d.Zone)
	c.need(err == nil && d.Zone != "" && d.Zone != "Local", "%q is not a time zone", d.Zone)
	if err != nil {
		zone = time.UTC
	}
	c.f.Zone, c.f.instants = zone, make(map[Key]time.Time, len(d.Calendar))
	for _, m := range d.Calendar {
		c.f.instants[m.Key], _ = m.At.In(zone)
	}
	c.path = "calendar"
	for _, k := range []Key{Opens, Closes, ChecksBy, ReadingEnd, AnswerOn} {
		_, ok := d.Moment(k)
		c.need(ok, "the calendar lacks %q", k)
	}
	var last time.Time
	for _, k := range []Key{Opens, Closes, ChecksBy, ReadingEnd, AnswerOn} {
		if m, ok := d.Moment(k); ok {
			t, _ := m.At.In(zone)
			c.path = "calendar/" + string(k)
			c.need(last.IsZero() || t.After(last), "%s (%s) must come after the date before it", m.Label, m.At)
			last = t
		}
	}
	c.path = "sections"
	c.need(len(d.Sections) > 0, "a round asks at least one section")
}

// Moment finds a moment of the calendar that has a date.
func (d *Design) Moment(k Key) (Moment, bool) {
	for _, m := range d.Calendar {
		if m.Key == k && !m.At.IsZero() {
			return m, true
		}
	}
	return Moment{}, false
}

// layout gives every question, figure, moment and stage its place in the frame.
func (c *compiler) layout() {
	d := c.f.Design
	seen := map[Key]bool{}
	once := func(k Key) {
		c.need(!seen[k], "the key %q is used twice", k)
		seen[k] = true
	}
	for i := range d.Lists {
		l := &d.Lists[i]
		c.at("lists/"+string(l.Key), "list "+name(l.Label, l.Key), l.Key)
		once(l.Key)
		c.f.lists[l.Key] = indexList(l)
	}
	for i := range d.Tables {
		t := &d.Tables[i]
		c.at("tables/"+string(t.Key), "table "+name(t.Label, t.Key), t.Key)
		once(t.Key)
		c.f.tables[t.Key] = t
		c.checkTable(t)
	}
	for i := range d.Sections {
		s := &d.Sections[i]
		c.at("sections/"+string(s.Key), "section "+name(s.Label, s.Key), s.Key)
		once(s.Key)
		first := len(c.f.questions)
		for j := range s.Questions {
			q := &s.Questions[j]
			c.atQuestion(s, q)
			once(q.Key)
			c.f.index[q.Key] = len(c.f.questions)
			c.f.questions = append(c.f.questions, question{def: q, section: i, kind: c.kind(q)})
		}
		sec := section{def: s, first: first, last: len(c.f.questions), stage: c.f.place(s.Stage)}
		for _, k := range s.Again {
			sec.again = append(sec.again, c.f.place(k))
		}
		c.f.sections = append(c.f.sections, sec)
	}
	n := len(c.f.questions) + len(d.Figures)
	for i := range d.Calendar {
		c.at("calendar", "calendar "+string(d.Calendar[i].Key), d.Calendar[i].Key)
		c.f.dates = append(c.f.dates, n)
		n++
	}
	for i := range d.Stages {
		c.at("stages/"+string(d.Stages[i].Key), "stage "+name(d.Stages[i].Label, d.Stages[i].Key), d.Stages[i].Key)
		c.f.stages[d.Stages[i].Key] = n
		n++
	}
	c.f.today, c.f.others = n, n+1
	n += 3
	for i := range c.f.questions {
		q := &c.f.questions[i]
		q.cells = n
		n += len(c.columnsOf(q.def))
		if t := c.f.Fills(q.def); t != nil {
			n += len(t.Columns)
		}
	}
	c.f.frameSize = n
	c.compileFigures(once)
}

func (c *compiler) kind(q *Question) *kind {
	k, ok := kinds[q.Kind]
	c.need(ok, "there is no kind of question %q", q.Kind)
	if !ok {
		k = &kind{}
	}
	return k
}

func (c *compiler) atQuestion(s *Section, q *Question) {
	c.at("sections/"+string(s.Key)+"/questions/"+string(q.Key), "question "+name(q.Label, q.Key), q.Key)
}

// columnsOf a table question; nil for other kinds.
func (c *compiler) columnsOf(q *Question) []Question {
	if k := kinds[q.Kind]; k != nil && k.columns != nil {
		return k.columns(c.f, q)
	}
	return nil
}

func (c *compiler) compileSection(i int) {
	s := &c.f.sections[i]
	c.path, c.place = "sections/"+string(s.def.Key), "section "+name(s.def.Label, s.def.Key)
	c.walked, c.reads = s.first, nil
	c.need(s.def.Label != "", "a section needs a label")
	_, stage := c.f.stages[s.def.Stage]
	c.need(s.def.Stage == "" || s.def.Stage == AfterSending || stage, "there is no stage %q", s.def.Stage)
	c.need(s.def.Stage != AfterSending || len(s.def.Again) == 0, "a survey is asked once, after sending")
	for n, k := range s.def.Again {
		_, there := c.f.stages[k]
		c.need(there, "there is no stage %q", k)
		c.need(!there || s.again[n] > s.stage, "it can be asked again only in a stage after its own")
	}
	c.stage = s.stage
	s.asked = c.cond(s.def.Asked)
	s.reads = c.reads
	for j := s.first; j < s.last; j++ {
		q := &c.f.questions[j]
		c.atQuestion(s.def, q.def)
		c.walked, c.reads = j, nil
		c.compileQuestion(q)
		c.compileTheirs(q.def)
		columns := c.columnsOf(q.def)
		c.rows = j
		seen := map[Key]bool{}
		for n := range columns {
			col := question{def: &columns[n], section: i, kind: c.kind(&columns[n])}
			c.column = n
			c.need(keyForm.MatchString(string(col.def.Key)) && !seen[col.def.Key],
				"the column %q is given twice or badly named", col.def.Key)
			seen[col.def.Key] = true
			c.need(col.kind.read != nil, "a column cannot be a %s", col.def.Kind)
			c.compileQuestion(&col)
			q.columns = append(q.columns, col)
		}
		c.rows = -1
		q.reads = c.reads
	}
}

func (c *compiler) compileQuestion(q *question) {
	d := q.def
	q.asked, q.must = c.cond(d.Asked), c.cond(d.Must)
	for _, w := range d.Limits.When {
		q.limits = append(q.limits, c.cond(w.If))
		c.checkLimits(w.Then)
	}
	c.checkLimits(d.Limits.Else)
	c.need(d.Label != "", "a question needs a label")
	c.need(slices.Contains([]Blank{Required, MeansNo, MeansUnknown}, d.Blank), "say what a blank means")
	c.need(slices.Contains([]Nature{Fact, Chosen}, d.Nature), "say whether it is a fact or a choice")
	c.need(slices.Contains([]Audience{ToReaders, ToPublic, ToOffice}, d.Seen), "say who sees it")
	for _, n := range d.NonAnswers {
		c.need(slices.Contains(NonAnswers, n), "%q is not an answer the program knows", n)
	}
	options := map[Key]bool{}
	for _, o := range d.Options {
		c.need(!options[o.Key] && keyForm.MatchString(string(o.Key)), "the option %q is given twice or badly named", o.Key)
		c.need(o.Label != "", "an option needs a label")
		options[o.Key] = true
	}
	c.need(c.stage < len(c.f.Design.Stages) || c.rows >= 0 || q.kind.surveys, "a survey does not ask for a %s", d.Kind)
	if q.kind.compile != nil {
		q.kind.compile(c, d)
	}
}

func (c *compiler) checkLimits(l Limits) {
	for _, d := range []*Day{l.NotBefore, l.NotAfter} {
		if d != nil && d.Key != "" {
			_, ok := c.f.Design.Moment(d.Key)
			c.need(ok, "the calendar has no %q", d.Key)
		}
	}
	c.need(l.Least == nil || l.Most == nil || *l.Least <= *l.Most, "least is above most")
	for _, n := range []int{l.Words, l.LeastWords, l.Characters, l.MonthsOld, l.PickLeast, l.PickMost, l.RowsLeast,
		l.RowsMost, l.Referees} {
		c.need(n >= 0, "a limit lies outside what is possible")
	}
	c.need(l.MatchPercent >= 0 && l.MatchPercent <= 100, "a share lies between 0 and 100 percent")
	c.need(l.PickMost == 0 || l.PickLeast <= l.PickMost, "the least that must be picked is above the most")
	c.need(l.RowsMost == 0 || l.RowsLeast <= l.RowsMost, "the least number of rows is above the most")
	c.need(l.Words == 0 || l.LeastWords <= l.Words, "the least number of words is above the most")
}

// Question finds a question of the design; nil when there is none.
func (f *Form) Question(k Key) *Question {
	if i, ok := f.index[k]; ok {
		return f.questions[i].def
	}
	return nil
}

// Columns of a table question, in order; nil for other kinds.
func (f *Form) Columns(k Key) []*Question {
	i, ok := f.index[k]
	if !ok {
		return nil
	}
	var out []*Question
	for n := range f.questions[i].columns {
		out = append(out, f.questions[i].columns[n].def)
	}
	return out
}

// SectionOf finds the key of the section a question stands in.
func (f *Form) SectionOf(k Key) Key {
	if i, ok := f.index[k]; ok {
		return f.sections[f.questions[i].section].def.Key
	}
	return ""
}

// At is the instant of a moment that Compile found to be there.
func (f *Form) At(k Key) time.Time { return f.instants[k] }

// Day brings a limit's day to a date; 0 for none.
func (f *Form) Day(d *Day) calendar.Date {
	switch {
	case d == nil:
		return 0
	case d.Key != "":
		m, _ := f.Design.Moment(d.Key)
		return m.At.Date
	}
	return d.On
}

// Letter finds a letter of the design.
func (f *Form) Letter(k Key) (Letter, bool) {
	i := slices.IndexFunc(f.Design.Letters, func(l Letter) bool { return l.Key == k })
	if i < 0 {
		return Letter{}, false
	}
	return f.Design.Letters[i], true
}

// Varies reports a letter that has others which go out in its place to some.
func (f *Form) Varies(k Key) bool {
	return slices.ContainsFunc(f.Design.Letters, func(l Letter) bool { return l.Of == k })
}

// LetterTo is the letter that somebody is sent: the first of those that go out in its
// place to them, or itself. path is what they sent, nil where it is not known; awards are
// those they are given.
func (f *Form) LetterTo(k Key, path *Path, awards []Key) (Letter, bool) {
	for i, l := range f.Design.Letters {
		if l.Of != k || l.Award != "" && !slices.Contains(awards, l.Award) {
			continue
		}
		if l.When.Always() || path != nil && path.Letters[i] == condition.Yes {
			return l, true
		}
	}
	return f.Letter(k)
}

// Table finds a table the office keeps; nil when there is none.
func (f *Form) Table(k Key) *Table { return f.tables[k] }
