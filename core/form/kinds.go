package form

import (
	"maps"
	"slices"

	"ulvant/core/condition"
	"ulvant/core/control"
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
	// tells is what an answer tells of who somebody is; nil for nothing. names lists
	// whom an answer that is not kept in text names; nil for nobody.
	tells tells
	names func(f *Form, q *Question, filled *Filled) []Named
	prose bool // a text that can be compared with others’

	weighed  bool // asked in order to be weighed or counted
	confirms bool // the person asked confirms one thing, and writes no letter
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
var kindOrder = []Kind{
	Short,
	Long,
	Choice,
	YesNo,
	Several,
	Ranked,
	Keywords,
	Pick,
	Grade,
	Number,
	Percent,
	Money,
	Date,
	Names,
	Contact,
	Address,
	Phone,
	Mail,
	Link,
	Identifier,
	Counts,
	Rows,
	Years,
	Budget,
	Aid,
	Declared,
	File,
	PageRef,
	Referee,
	Signatory,
	StreamPick,
	ApplicantIs,
	AwardPick,
	AwardOrder,
	Fees,
	Signer,
	Declaration,
	Signature,
}

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

// TypeOf is what conditions compare a Ref by; ok is false when they cannot.
func (f *Form) TypeOf(r condition.Ref) (condition.Type, bool) {
	c := &compiler{f: f, walked: len(f.questions), rows: -1, stage: len(f.Design.Stages)}
	if i, isAnswer := f.index[r.Answer]; isAnswer && r.Column != "" && f.questions[i].columns != nil {
		c.rows, c.column = i, len(f.questions[i].columns)
	}
	_, t, err := c.Resolve(r)
	return t, err == nil
}
