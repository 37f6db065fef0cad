package form

import (
	"maps"
	"slices"

	"ulvant/core/condition"
)

// kindRule is all that the core knows of one kind of question; docs/kinds.md
// says what else a new kind touches.
type kindRule struct {
	means      string // what it is, for the officer who chooses it
	typ        condition.Type
	comparable bool // conditions may read it
	// read brings a plain answer to a value; nil for kinds that are not plain.
	read func(f *Form, q *Question, raw string) (condition.Value, bool)
	// options are what is chosen from; nil for kinds that choose nothing.
	options func(f *Form, q *Question) []Option
	// parts are the fixed pieces of an answer that is kept piece by piece.
	parts func(f *Form, q *Question) []Part
	// columns are those of a table whose rows the applicant adds.
	columns func(f *Form, q *Question) []Question
	// check adds obstacles beyond "blank" and "unreadable"; it may be nil.
	check func(w *walk, q *question, s *QuestionState)
	// compile finds faults of the question in a design; it may be nil.
	compile func(c *compiler, q *Question)
	// members and limits name what of a Question and its Limits counts for this
	// kind, by their names in the document, in the order they are set.
	members, limits []string
}

// Part is one fixed piece of an answer, kept under its key as column.
type Part struct {
	Key     Key
	Label   string
	Kind    Kind // how it is read: a plain kind
	Options []Option
	May     bool // may be left
}

// kindOrder is the order in which kinds are offered.
var kindOrder = []Kind{Short, Long, Choice, YesNo, Several, Ranked, Keywords, Pick, Grade, Number, Percent, Money, Date,
	Names, Contact, Address, Phone, Mail, Link, Identifier, Counts, Rows, Years, Budget, File, PageRef, Referee, Signatory,
	StreamPick, ApplicantIs, AwardPick, AwardOrder, Fees, Signer, Declaration, Signature}

// kinds is the catalogue: put together from the files kinds_*.go while the
// package is loaded, and never changed.
var kinds = map[Kind]*kindRule{}

func register(list map[Kind]*kindRule) bool {
	maps.Copy(kinds, list)
	return true
}

// KindInfo describes a kind for pages that let an officer choose one.
type KindInfo struct {
	Kind            Kind
	Means           string
	Members, Limits []string
	Chooses         bool           // it has options of its own
	Compared        bool           // conditions may read it
	Plain           bool           // it may be a column of a table
	Type            condition.Type // what conditions compare it by
}

// Kinds lists every kind, in the order they are offered.
func Kinds() []KindInfo {
	out := make([]KindInfo, len(kindOrder))
	for i, k := range kindOrder {
		r := kinds[k]
		out[i] = KindInfo{k, r.means, r.members, r.limits, slices.Contains(r.members, "options"), r.comparable, r.read != nil, r.typ}
	}
	return out
}

// KindOf describes one kind.
func KindOf(k Kind) KindInfo {
	for _, i := range Kinds() {
		if i.Kind == k {
			return i
		}
	}
	return KindInfo{Kind: k, Means: string(k)}
}

// Options are what a question chooses from: its own, the streams, the kinds of
// applicant, the awards, or the rows of its table. nil for other kinds.
func (f *Form) Options(q *Question) []Option {
	if k := kinds[q.Kind]; k != nil && k.options != nil {
		return k.options(f, q)
	}
	return nil
}

// Parts are the fixed pieces of a question's answer; nil when it has none.
func (f *Form) Parts(q *Question) []Part {
	if k := kinds[q.Kind]; k != nil && k.parts != nil {
		return k.parts(f, q)
	}
	return nil
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
