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
)

// Form is a design compiled to dense indexes; it is immutable and may be
// shared between goroutines.
type Form struct {
	Design *Design
	Zone   *time.Location

	sections  []section
	questions []question // in reading order
	figures   []figure
	rules     []rule
	index     map[Key]int // of questions
	frameSize int
	dates     []int // frame index of each moment
}

type section struct {
	def   *Section
	asked condition.Program
	first int // its questions are questions[first:last]
	last  int
	reads []int // questions its asked condition reads
}

type question struct {
	def     *Question
	section int
	asked   condition.Program
	must    condition.Program
	limits  []condition.Program
	kind    kindRule
	reads   []int // questions that its conditions read
	figures []int // figures that can be worked out once this is walked
}

type figure struct {
	def   *Figure
	frame int
	of    []int // questions
	cols  []Key
}

type rule struct {
	def   *Rule
	holds condition.Program
	reads []int
}

var keyForm = regexp.MustCompile(`^[a-z][a-z0-9]*(-[a-z0-9]+)*$`)

// Fault is one thing wrong with a design, and where.
type Fault struct{ Place, Says string }

// Error says where and what.
func (f Fault) Error() string { return f.Place + ": " + f.Says }

type compiler struct {
	f      *Form
	walked int // questions before this index may be referred to
	faults []error
	place  string
	reads  []int
}

// Compile checks a design and compiles it. The error joins a Fault for every
// thing that is wrong.
func Compile(d *Design) (*Form, error) {
	c := &compiler{f: &Form{Design: d, index: map[Key]int{}}}
	c.head()
	c.layout()
	for i := range c.f.sections {
		c.compileSection(i)
	}
	c.walked = len(c.f.questions)
	for i := range d.Rules {
		r := &d.Rules[i]
		c.at("rule "+string(r.Key), r.Key)
		c.need(r.Yes != "" && r.No != "", "a rule needs a sentence for yes and one for no")
		c.reads = nil
		holds := c.cond(r.Holds)
		c.f.rules = append(c.f.rules, rule{r, holds, c.reads})
	}
	c.assessment()
	if len(c.faults) > 0 {
		return nil, errors.Join(c.faults...)
	}
	return c.f, nil
}

func (c *compiler) at(place string, key Key) {
	c.place = place
	c.need(keyForm.MatchString(string(key)), "the key %q must be small letters, digits and single hyphens", key)
}

func (c *compiler) need(ok bool, format string, args ...any) {
	if !ok {
		c.faults = append(c.faults, Fault{c.place, fmt.Sprintf(format, args...)})
	}
}

func (c *compiler) head() {
	d := c.f.Design
	c.place = "design"
	c.need(d.Schema == Schema, "schema %d is not one this program reads; it reads %d", d.Schema, Schema)
	c.need(d.Name != "", "the round needs a name")
	c.need(regexp.MustCompile(`^[A-Z]{2,6}$`).MatchString(d.Prefix), "the prefix of reference numbers is two to six capital letters")
	c.need(money.Known(d.Currency), "%q is not a currency (ISO 4217)", d.Currency)
	c.need(d.Fund > 0, "the fund must be more than nothing")
	zone, err := time.LoadLocation(d.Zone)
	c.need(err == nil && d.Zone != "" && d.Zone != "Local", "%q is not a time zone", d.Zone)
	if err != nil {
		zone = time.UTC
	}
	c.f.Zone = zone
	for _, k := range []Key{Opens, Closes, WorkFrom, ChecksBy, ReadingEnd, AnswerOn} {
		_, ok := d.Moment(k)
		c.need(ok, "the calendar lacks %q", k)
	}
	var last time.Time
	for _, k := range []Key{Opens, Closes, ChecksBy, ReadingEnd, AnswerOn} {
		if m, ok := d.Moment(k); ok {
			t, _ := m.At.In(zone)
			c.need(last.IsZero() || t.After(last), "%s (%s) must come after the date before it", m.Label, m.At)
			last = t
		}
	}
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

// layout gives every question, figure and moment its place in the frame.
func (c *compiler) layout() {
	d := c.f.Design
	seen := map[Key]bool{}
	once := func(k Key) {
		c.need(!seen[k], "the key %q is used twice", k)
		seen[k] = true
	}
	for i := range d.Sections {
		s := &d.Sections[i]
		c.at("section "+string(s.Key), s.Key)
		once(s.Key)
		first := len(c.f.questions)
		for j := range s.Questions {
			q := &s.Questions[j]
			c.at("question "+string(q.Key), q.Key)
			once(q.Key)
			kind, ok := kinds[q.Kind]
			c.need(ok, "there is no kind of question %q", q.Kind)
			c.f.index[q.Key] = len(c.f.questions)
			c.f.questions = append(c.f.questions, question{def: q, section: i, kind: kind})
		}
		c.f.sections = append(c.f.sections, section{def: s, first: first, last: len(c.f.questions)})
	}
	n := len(c.f.questions)
	for i := range d.Figures {
		fig := &d.Figures[i]
		c.at("figure "+string(fig.Key), fig.Key)
		once(fig.Key)
		c.need(fig.Op == "sum" && len(fig.Of) > 0 || fig.Op == "share" && len(fig.Of) == 2, "a figure is a sum, or the share of one thing in another")
		out := figure{def: fig, frame: n + i}
		last := -1
		for _, r := range fig.Of {
			j, ok := c.f.index[r.Answer]
			c.need(ok, "nothing is called %q", r.Answer)
			last = max(last, j)
			out.of, out.cols = append(out.of, j), append(out.cols, r.Column)
		}
		c.f.figures = append(c.f.figures, out)
		if last >= 0 && len(c.f.questions) > last {
			c.f.questions[last].figures = append(c.f.questions[last].figures, i)
		}
	}
	n += len(d.Figures)
	for i := range d.Calendar {
		c.at("calendar "+string(d.Calendar[i].Key), d.Calendar[i].Key)
		c.f.dates = append(c.f.dates, n+i)
	}
	c.f.frameSize = n + len(d.Calendar)
}

func (c *compiler) compileSection(i int) {
	s := &c.f.sections[i]
	c.place, c.walked, c.reads = "section "+string(s.def.Key), s.first, nil
	s.asked = c.cond(s.def.Asked)
	s.reads = c.reads
	for j := s.first; j < s.last; j++ {
		q := &c.f.questions[j]
		c.place, c.walked, c.reads = "question "+string(q.def.Key), j, nil
		q.asked, q.must = c.cond(q.def.Asked), c.cond(q.def.Must)
		for _, w := range q.def.Limits.When {
			q.limits = append(q.limits, c.cond(w.If))
			c.checkLimits(w.Then)
		}
		c.checkLimits(q.def.Limits.Else)
		q.reads = c.reads
		c.need(q.def.Label != "", "a question needs a label")
		c.need(slices.Contains([]Blank{Required, MeansNo, MeansUnknown}, q.def.Blank), "say what a blank means")
		c.need(slices.Contains([]Nature{Fact, Chosen}, q.def.Nature), "say whether it is a fact or a choice")
		c.need(slices.Contains([]Audience{ToReaders, ToPublic, ToOffice}, q.def.Seen), "say who sees it")
		c.need((q.def.Kind == Choice) == (len(q.def.Options) > 0), "a choice needs options, and only a choice has them")
		options := map[Key]bool{}
		for _, o := range q.def.Options {
			c.need(!options[o.Key] && keyForm.MatchString(string(o.Key)), "the option %q is given twice or badly named", o.Key)
			options[o.Key] = true
		}
		if q.def.Kind == Budget {
			r, ok := c.f.index[q.def.Request]
			c.need(ok && r < j && c.f.questions[r].def.Kind == Money, "a budget names the money question before it that it must add up to")
		}
		c.need(q.def.Kind != File || q.def.Limits.Else.Slot != nil, "a file slot needs its limits")
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
	c.need(l.Words >= 0 && l.Characters >= 0 && l.Referees >= 0 && l.MatchPercent >= 0 && l.MatchPercent <= 100, "a limit lies outside what is possible")
}

func (c *compiler) assessment() {
	d := c.f.Design
	sum := 0
	for _, cr := range d.Criteria {
		c.at("criterion "+string(cr.Key), cr.Key)
		c.need(len(cr.Steps) >= 2 && len(cr.Steps) <= MostSteps, "a criterion describes 2 to %d steps", MostSteps)
		c.need(cr.Weight > 0, "a criterion has a weight")
		sum += cr.Weight
	}
	c.place = "assessment"
	c.need(sum == 100, "the weights add up to %d, not 100", sum)
	c.need(d.ReadersEach >= 1 && d.ReadersEach <= 20, "each application has 1 to 20 readers")
	c.need(d.HoldMinutes >= 0, "letters are held for a time that is not negative")
	if l := d.Listed; l.Question != "" {
		q := c.f.Question(l.Question)
		c.need(q != nil && q.Kind == Choice, "lists show a choice; %q is none", l.Question)
	}
	for _, l := range d.Letters {
		c.at("letter "+string(l.Key), l.Key)
		c.need(l.Subject != "" && l.Body != "", "a letter needs a subject and a text")
	}
	for _, s := range d.Stages {
		c.at("stage "+string(s.Key), s.Key)
		_, from := d.Moment(s.From)
		_, to := d.Moment(s.To)
		c.need(from && to, "a stage runs from one moment of the calendar to another")
		c.need(slices.Contains([]Work{Apply, Check, Read, Decide}, s.Does), "a stage does %q", s.Does)
	}
}

func (c *compiler) cond(cond condition.Cond) condition.Program {
	p, err := condition.Compile(cond, c.resolve)
	if err != nil {
		c.need(false, "%s", err)
	}
	return p
}

func (c *compiler) resolve(r condition.Ref) (int, condition.Type, error) {
	switch {
	case r.Answer != "" && r.Column == "":
		i, ok := c.f.index[r.Answer]
		if !ok {
			return 0, 0, fmt.Errorf("nothing is called %q", r.Answer)
		}
		if i >= c.walked {
			return 0, 0, fmt.Errorf("%q is asked later; a condition reads only what comes before it", r.Answer)
		}
		q := &c.f.questions[i]
		if !q.kind.comparable {
			return 0, 0, fmt.Errorf("a condition cannot read %q, which is a %s", r.Answer, q.def.Kind)
		}
		c.reads = append(c.reads, i)
		return i, q.kind.typ, nil
	case r.Figure != "":
		for _, f := range c.f.figures {
			if f.def.Key == r.Figure {
				for _, of := range f.of {
					if of >= c.walked {
						return 0, 0, fmt.Errorf("the figure %q is not known yet there", r.Figure)
					}
					c.reads = append(c.reads, of)
				}
				return f.frame, condition.TypeNumber, nil
			}
		}
		return 0, 0, fmt.Errorf("no figure is called %q", r.Figure)
	case r.Date != "":
		for i, m := range c.f.Design.Calendar {
			if m.Key == r.Date {
				return c.f.dates[i], condition.TypeDate, nil
			}
		}
		return 0, 0, fmt.Errorf("the calendar has no %q", r.Date)
	}
	return 0, 0, errors.New("a test reads an answer, a figure or a date")
}

// Question finds a question of the design; nil when there is none.
func (f *Form) Question(k Key) *Question {
	if i, ok := f.index[k]; ok {
		return f.questions[i].def
	}
	return nil
}

// SectionOf finds the key of the section a question stands in.
func (f *Form) SectionOf(k Key) Key {
	if i, ok := f.index[k]; ok {
		return f.sections[f.questions[i].section].def.Key
	}
	return ""
}

// At is the instant of a moment that Compile found to be there.
func (f *Form) At(k Key) time.Time {
	m, _ := f.Design.Moment(k)
	t, _ := m.At.In(f.Zone)
	return t
}

// Window is when applications may be written and sent.
func (f *Form) Window() calendar.Window {
	return calendar.Window{Opens: f.At(Opens), Closes: f.At(Closes)}
}

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
