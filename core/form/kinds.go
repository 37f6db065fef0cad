package form

import (
	"maps"
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/decimal"
)

// Keeping says how an answer is kept.
type Keeping string

// The ways. In text, one text; in pieces, a text for each of its Parts; in
// rows, those of a table with Columns; in lines, those of a budget; as files
// and as people, outside the answers.
const (
	InText   Keeping = "text"
	InPieces Keeping = "pieces"
	InRows   Keeping = "rows"
	InLines  Keeping = "lines"
	AsFiles  Keeping = "files"
	AsPeople Keeping = "people"
)

// Measure says what the number of an answer counts.
type Measure string

// The measures. Scaled is at the question's own scale and unit, Shares are
// parts of a whole, Sums are minor units of the design's currency, Days are
// dates; Whole counts things.
const (
	NoMeasure Measure = ""
	Scaled    Measure = "scaled"
	Shares    Measure = "shares"
	Sums      Measure = "sums"
	Days      Measure = "days"
	Whole     Measure = "whole"
)

// Values are what answers of a kind there can be, for a proof that makes
// literals of them.
type Values struct {
	Of        ValuesOf
	Listed    []condition.Value
	Keys      []string // that can be picked
	Low, High int64    // in units of Question.Den
	// FirstIfMust: where it must be answered only the first listed will do.
	FirstIfMust bool
	// Vague: the number hangs on more than the kind can say.
	Vague bool
}

// ValuesOf says which of its members a Values has.
type ValuesOf string

// What there is: nothing that can be told apart, a list, any text, some of
// many keys, a span of numbers.
const (
	Opaque  ValuesOf = ""
	Listed  ValuesOf = "listed"
	Texts   ValuesOf = "texts"
	Picks   ValuesOf = "picks"
	Numbers ValuesOf = "numbers"
)

// Bound is a place at which limits cut the numbers of an answer.
type Bound struct {
	Member string // of the limits that set it
	Low    bool   // the least there may be; else the most
	At     int64
}

// Control is how a kind is asked on a page.
type Control struct {
	As      control.As
	Options []Option
	Notes   map[Key]string // beside options that need more than their label
	Unit    string
	Hint    string // "" for the question's example
}

// kind is all that the program knows of one kind of question: a file kind_*.go
// for each, and no other place tells kinds apart. A member that may be nil
// says what is done then.
type kind struct {
	key             Kind
	means           string // what it is, for the officer who chooses it
	keeps           Keeping
	members, limits []string // what of a Question and its Limits counts, by their names in the document, in the order they are set
	begin           func(q *Question)
	// compile finds faults of the question in a design; nil for none.
	compile func(c *compiler, q *Question)
	// needs is another question that must be asked where this one is; nil for none.
	needs func(q *Question) Key

	// What conditions and figures read.
	typ        condition.Type
	comparable bool
	measure    Measure
	supplies   condition.Fixed // what of the applicant its answer is, for conditions and letters
	fills      bool            // a pick fills in the other columns of its Table

	// read brings what was typed to a value; nil unless kept in text.
	read func(f *Form, q *Question, raw string) (condition.Value, bool)
	// normal: what is typed differently can be the same.
	normal bool
	// options are what is chosen from; nil for kinds that choose nothing.
	options func(f *Form, q *Question) []Option
	// parts are the pieces of an answer kept so; columns those of rows; cells
	// the keys of lines.
	parts   func(f *Form, q *Question) []Part
	columns func(f *Form, q *Question) []Question
	cells   func(q *Question) []Key
	unasked bool // worked out even when nothing is given
	// check adds obstacles beyond "blank" and "unreadable"; nil for none.
	check func(w *walk, q *question, s *QuestionState)
	// offered narrows the options of a piece, as things stand; nil leaves them.
	offered func(f *Form, path *Path, options []Option, chosen string) []Option

	// words writes an answer that was given, for reading.
	words func(f *Form, q *Question, filled *Filled, s *QuestionState) string
	// how says how it is written, to somebody whose answer cannot be read; nil
	// for kinds not kept in text.
	how func(q *Question) string
	// limitsSay is what is said of limits beyond what each says for itself; nil for nothing.
	limitsSay func(q *Question, l Limits) string
	// blank says that it is not answered, and the remedy; nil for the usual.
	blank func(q *Question) (what, remedy string)
	// ready says what must be got ready for it; nil for nothing. limit is what
	// is said of its limits.
	ready func(q *Question, l Limits, limit string) string
	// note is what the program makes of an answer, said beside it; nil for nothing.
	note func(f *Form, q *Question, filled *Filled, s *QuestionState) string

	// standing is said beside it whether it is answered or not; nil for nothing.
	standing func(filled *Filled) string

	// values are those there can be; nil for Opaque.
	values func(f *Form, q *Question) Values
	bounds func(f *Form, q *Question, l Limits) []Bound
	// possible reports limits that some answer can meet; nil for all.
	possible func(f *Form, q *Question, l Limits) bool
	// example is an answer in text that meets limits, as it is typed.
	example func(f *Form, q *Question, l Limits) string
	// typed is a value as it is typed; nil for the usual.
	typed func(f *Form, q *Question, v condition.Value) string
	// complete answers what is missing of an answer that is not kept in text;
	// false when it can do nothing. nil for files and people.
	complete func(f *Form, filled *Filled, q *Question, s *QuestionState) bool

	// tenths of a minute that answering takes.
	tenths     func(q *Question, l Limits) int
	anew       bool // given anew in each stage, never carried over
	surveys    bool // a survey may ask it: nothing in it must be kept, signed, paid or checked
	identifies func(q *Question) bool
	weighed    bool // asked in order to be weighed or counted
	confirms   bool // the person asked confirms one thing, and writes no letter
	// control draws one input; value is what is typed there. nil for people and files.
	control func(f *Form, q *Question, filled *Filled, value string) Control
}

// Part is one fixed piece of an answer, kept under its key as column.
type Part struct {
	Key     Key
	Label   string
	Kind    Kind // how it is read: a plain kind
	Options []Option
	May     bool // may be left
	Named   bool // read with its label before it
}

// kindOrder is the order in which kinds are offered; what is not in it comes last.
var kindOrder = []Kind{Short, Long, Choice, YesNo, Several, Ranked, Keywords, Pick, Grade, Number, Percent, Money, Date,
	Names, Contact, Address, Phone, Mail, Link, Identifier, Counts, Rows, Years, Budget, File, PageRef, Referee, Signatory,
	StreamPick, ApplicantIs, AwardPick, AwardOrder, Fees, Signer, Declaration, Signature}

// kinds is the catalogue: put together from the files kind_*.go while the
// package is loaded, and never changed.
var kinds = map[Kind]*kind{}

func register(k kind) bool {
	kinds[k.key] = &k
	return true
}

// KindInfo describes a kind, for whatever must know it without knowing which.
type KindInfo struct {
	Kind            Kind
	Means           string
	Keeps           Keeping
	Members, Limits []string
	Chooses         bool           // it has options of its own
	Compared        bool           // conditions may read it
	Plain           bool           // it may be a column of a table
	Type            condition.Type // what conditions compare it by
	Measure         Measure
	Normal          bool // what is typed differently can be the same
	Weighed         bool // asked in order to be weighed or counted
}

// Kinds lists every kind, in the order they are offered.
func Kinds() []KindInfo {
	order := slices.Clone(kindOrder)
	for _, k := range slices.Sorted(maps.Keys(kinds)) {
		if !slices.Contains(order, k) {
			order = append(order, k)
		}
	}
	out := make([]KindInfo, len(order))
	for i, k := range order {
		out[i] = KindOf(k)
	}
	return out
}

// KindOf describes one kind; one that is not there means its own name.
func KindOf(key Kind) KindInfo {
	k, ok := kinds[key]
	if !ok {
		return KindInfo{Kind: key, Means: string(key)}
	}
	return KindInfo{key, k.means, k.keeps, k.members, k.limits, slices.Contains(k.members, "options"), k.comparable,
		k.read != nil,
		k.typ, k.measure, k.normal, k.weighed}
}

// rule is the kind of a question; one without anything when it is not there.
func (q *Question) rule() *kind {
	if k := kinds[q.Kind]; k != nil {
		return k
	}
	return &kind{}
}

// Keeps says how its answer is kept.
func (q *Question) Keeps() Keeping { return q.rule().keeps }

// TakesFiles reports a question that files are put in at.
func (q *Question) TakesFiles() bool { return q.Keeps() == AsFiles || q.Media }

// Written reports a question that is answered in writing: not by files, and not
// by others.
func (q *Question) Written() bool { return q.Keeps() != AsFiles && q.Keeps() != AsPeople }

// AsksPeople reports a question that others answer by a link of their own;
// Confirms those of them where they confirm one thing and write no letter.
func (q *Question) AsksPeople() bool { return q.Keeps() == AsPeople }

// Confirms reports a question at which somebody confirms one thing.
func (q *Question) Confirms() bool { return q.rule().confirms }

// InTable reports a question answered in rows or lines.
func (q *Question) InTable() bool { return q.Keeps() == InRows || q.Keeps() == InLines }

// Type is what conditions compare its answer by.
func (q *Question) Type() condition.Type { return q.rule().typ }

// Measure is what its numbers count.
func (q *Question) Measure() Measure { return q.rule().measure }

// Limited reports a limit that counts for its kind, by its name in the document.
func (q *Question) Limited(by string) bool { return slices.Contains(q.rule().limits, by) }

// Identifies reports a question whose answer says who applies.
func (q *Question) Identifies() bool { k := q.rule(); return k.identifies != nil && k.identifies(q) }

// Needs is another question that must be asked where this one is; "" for none.
func (q *Question) Needs() Key {
	if k := q.rule(); k.needs != nil {
		return k.needs(q)
	}
	return ""
}

// Den is what its whole numbers are divided by: 100 for two decimals.
func (q *Question) Den() int64 {
	den := int64(1)
	switch m := q.Measure(); m {
	case Scaled, Shares:
		for range q.Scale {
			den *= 10
		}
		if m == Shares {
			den *= 100
		}
	}
	return den
}

// ValueOf is the value of n, counted in units of Den; of dates, a day.
func (q *Question) ValueOf(n int64) condition.Value {
	if q.Measure() == Days {
		return dayValue(n)
	}
	return condition.Value{Number: &condition.Number{Num: n, Den: q.Den()}}
}

// Begin sets what a new question of its kind cannot be without.
func (q *Question) Begin() {
	if k := q.rule(); k.begin != nil {
		k.begin(q)
	}
}

// How says how an answer is written.
func (q *Question) How() string {
	if k := q.rule(); k.how != nil {
		return k.how(q)
	}
	return "Write it again."
}

// LimitsSay is what is said of limits beyond what each of them says for itself; "" for nothing.
func (q *Question) LimitsSay(l Limits) string {
	if k := q.rule(); k.limitsSay != nil {
		return k.limitsSay(q, l)
	}
	return ""
}

// Unanswered says that it is not answered, and what to do.
func (q *Question) Unanswered() (what, remedy string) {
	if k := q.rule(); k.blank != nil {
		return k.blank(q)
	}
	return "Not answered: " + q.Label, "Answer it."
}

// Ready says what must be got ready for it before one sits down to write; ""
// when nothing. limit is what is said of its limits.
func (q *Question) Ready(limit string) string {
	if k := q.rule(); k.ready != nil {
		return k.ready(q, q.Limits.Else, limit)
	}
	return ""
}

// Tenths of a minute that answering takes, under its limits.
func (q *Question) Tenths(l Limits) int {
	if k := q.rule(); k.tenths != nil {
		return k.tenths(q, l)
	}
	return 0
}

// Note is what the program makes of an answer, said beside it; "" for nothing.
func (f *Form) Note(q *Question, filled *Filled, s *QuestionState) string {
	k := q.rule()
	if k.standing != nil {
		if says := k.standing(filled); says != "" {
			return says
		}
	}
	if k.note != nil && s.Presence == condition.Given {
		return k.note(f, q, filled, s)
	}
	return ""
}

// Words writes an answer that was given, for reading; what was typed when the
// kind has no words for it.
func (f *Form) Words(q *Question, filled *Filled, s *QuestionState) string {
	if k := q.rule(); k.words != nil {
		return k.words(f, q, filled, s)
	}
	return strings.TrimSpace(s.Raw)
}

// Control is how one input of a question is drawn; value is what is typed there.
func (f *Form) Control(q *Question, filled *Filled, value string) Control {
	c := Control{As: control.Line}
	if k := q.rule(); k.control != nil {
		c = k.control(f, q, filled, value)
	}
	if c.Hint == "" {
		c.Hint = q.Example
	}
	return c
}

// Values are what answers of a question there can be.
func (f *Form) Values(q *Question) Values {
	if k := q.rule(); k.values != nil {
		return k.values(f, q)
	}
	return Values{}
}

// Bounds are where limits cut the numbers of an answer.
func (f *Form) Bounds(q *Question, l Limits) []Bound {
	if k := q.rule(); k.bounds != nil {
		return k.bounds(f, q, l)
	}
	return nil
}

// Possible reports limits that some answer of a question can meet.
func (f *Form) Possible(q *Question, l Limits) bool {
	k := q.rule()
	return k.possible == nil || k.possible(f, q, l)
}

// Example is an answer in text that meets limits, as it is typed; "" for kinds
// not kept so.
func (f *Form) Example(q *Question, l Limits) string {
	if k := q.rule(); k.example != nil {
		return k.example(f, q, l)
	}
	return ""
}

// ExampleOf is an example of a piece of an answer.
func (f *Form) ExampleOf(p Part) string {
	if len(p.Options) > 0 {
		return string(p.Options[0].Key)
	}
	return f.Example(&Question{Key: p.Key, Kind: p.Kind}, Limits{})
}

// Typed is a value as it is typed at a question.
func (f *Form) Typed(q *Question, v condition.Value) string {
	switch k := q.rule(); {
	case k.typed != nil:
		return k.typed(f, q, v)
	case v.Yes != nil:
		return map[bool]string{true: "yes", false: "no"}[*v.Yes]
	case v.Number != nil && q.Measure() == Scaled:
		return decimal.String(*v.Number, q.Scale)
	case v.Number != nil:
		return decimal.String(*v.Number, 6)
	case !v.Date.IsZero():
		return v.Date.String()
	}
	return v.Text
}

// Complete answers what is missing of an answer that is not kept in text, with
// examples; false when it can do nothing.
func (f *Form) Complete(filled *Filled, q *Question, s *QuestionState) bool {
	k := q.rule()
	return k.complete != nil && k.complete(f, filled, q, s)
}

// Options are what a question chooses from: its own, the streams, the kinds of
// applicant, the awards, or the rows of its table. nil for other kinds.
func (f *Form) Options(q *Question) []Option {
	if k := q.rule(); k.options != nil {
		return k.options(f, q)
	}
	return nil
}

// Offered are those of a piece's options that can be chosen as things stand.
// What is chosen already stays, so that it is seen and can be mended.
func (f *Form) Offered(path *Path, q *Question, options []Option, chosen string) []Option {
	if k := q.rule(); k.offered != nil {
		return k.offered(f, path, options, chosen)
	}
	return options
}

// Parts are the fixed pieces of a question's answer; nil when it has none.
func (f *Form) Parts(q *Question) []Part {
	if k := q.rule(); k.parts != nil {
		return k.parts(f, q)
	}
	return nil
}

// Cells are the keys under which each row of a table is kept; nil for others.
func (f *Form) Cells(q *Question) []Key {
	if k := q.rule(); k.cells != nil {
		return k.cells(q)
	}
	var out []Key
	for _, c := range f.Columns(q.Key) {
		out = append(out, c.Key)
	}
	return out
}

// Fills is the table whose other columns an answer fills in; nil for none.
func (f *Form) Fills(q *Question) *Table {
	if !q.rule().fills {
		return nil
	}
	return f.Table(q.Table)
}

// Supplying finds the question that says a fixed thing of the applicant; nil
// when none does.
func (f *Form) Supplying(x condition.Fixed) *Question {
	for i := range f.Design.Sections {
		for j := range f.Design.Sections[i].Questions {
			if q := &f.Design.Sections[i].Questions[j]; x != "" && q.rule().supplies == x {
				return q
			}
		}
	}
	return nil
}

// CarriesOver reports a question whose answer can be taken from an earlier
// stage or application; statements, signatures, files, letters and fees are
// given anew there.
func (f *Form) CarriesOver(q *Question) bool { return !q.rule().anew }

// TypeOf is what conditions compare a Ref by; ok is false when they cannot.
func (f *Form) TypeOf(r condition.Ref) (condition.Type, bool) {
	c := &compiler{f: f, walked: len(f.questions), rows: -1, stage: len(f.Design.Stages)}
	if i, isAnswer := f.index[r.Answer]; isAnswer && r.Column != "" && f.questions[i].columns != nil {
		c.rows, c.column = i, len(f.questions[i].columns)
	}
	_, t, err := c.Resolve(r)
	return t, err == nil
}
