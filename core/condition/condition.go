// Package condition holds the conditions of a round's design: what they are,
// how they are compiled, and how they are answered in strong Kleene logic
// (S. C. Kleene, Introduction to Metamathematics, 1952, §64) over four
// presences, so that "not known yet" is never taken for no.
package condition

import "ulvant/core/calendar"

// Key names a thing in a design for ever: it survives renaming and copying and
// is never used again.
type Key string

// Ref points to what a test reads: exactly one of Answer, Figure, Date, Stage
// and Fixed is set; Column only beside Answer, for a column of a table (inside
// its own row only) or of the row picked from a table the office keeps.
type Ref struct {
	Answer Key   `json:"answer,omitempty"`
	Column Key   `json:"column,omitempty"`
	Figure Key   `json:"figure,omitempty"`
	Date   Key   `json:"date,omitempty"`  // a date of the round's calendar
	Stage  Key   `json:"stage,omitempty"` // the result of an earlier stage, as text
	Fixed  Fixed `json:"fixed,omitempty"`
}

// Fixed names what every application has.
type Fixed string

// What every application has: the stream it is in, what kind of applicant is
// behind it, the day on which it is looked at, and how many others the same
// applicant has sent.
const (
	Stream    Fixed = "stream"
	Applicant Fixed = "applicant"
	Today     Fixed = "today"

	OthersInRound     Fixed = "others in the round"
	OthersInProgramme Fixed = "others in the programme" // in any round of it that is not answered yet, this one too
)

// Every Fixed there is, in the order they are offered.
var EveryFixed = []Fixed{Stream, Applicant, Today, OthersInRound, OthersInProgramme}

// Zero reports a Ref that points nowhere yet.
func (r Ref) Zero() bool { return r == Ref{} }

// Rel is a relation between what a Ref reads and a value.
type Rel string

// The relations.
const (
	Is      Rel = "is"
	IsNot   Rel = "is not"
	In      Rel = "is one of"
	NotIn   Rel = "is none of"
	AtLeast Rel = "is at least"
	AtMost  Rel = "is at most"
	More    Rel = "is more than"
	Less    Rel = "is less than"

	Includes    Rel = "includes"         // of several picked
	IncludesAny Rel = "includes one of"  //
	Lacks       Rel = "does not include" //
	OnList      Rel = "is on the list"   // the value names a list of the design
	OffList     Rel = "is not on the list"
)

// Rels lists every relation, in the order they are offered.
var Rels = []Rel{Is, IsNot, In, NotIn, AtLeast, AtMost, More, Less, Includes, IncludesAny, Lacks, OnList, OffList}

// RelsOf lists the relations that fit a type, in the order they are offered.
func RelsOf(t Type) []Rel {
	switch t {
	case TypeNumber, TypeDate:
		return []Rel{Is, IsNot, AtLeast, AtMost, More, Less}
	case TypeYes:
		return []Rel{Is, IsNot}
	case TypeSet:
		return []Rel{Includes, IncludesAny, Lacks}
	}
	return []Rel{Is, IsNot, In, NotIn, OnList, OffList}
}

// TakesList reports a relation whose value is a list of choices.
func (r Rel) TakesList() bool { return r == In || r == NotIn || r == IncludesAny }

// List is a list that conditions ask about: whether it holds a text. Lists of
// places match by prefix, so that a list of "OI4" holds the postcode "OI4 2RT".
type List interface{ Holds(text string) bool }

// Cond is a condition; exactly one member is set, or none: the empty Cond is
// always yes.
type Cond struct {
	All     []Cond `json:"all,omitempty"`
	Any     []Cond `json:"any,omitempty"`
	None    []Cond `json:"none,omitempty"`
	AtLeast *Count `json:"atLeast,omitempty"`
	Test    *Test  `json:"test,omitempty"`
}

// Count is "at least N of".
type Count struct {
	N  int    `json:"n"`
	Of []Cond `json:"of"`
}

// Test compares what Of reads with Value, or with what Other reads.
type Test struct {
	Of    Ref    `json:"of"`
	Rel   Rel    `json:"rel"`
	Value *Value `json:"value,omitempty"`
	Other *Ref   `json:"other,omitempty"`
}

// Always reports the empty condition.
func (c Cond) Always() bool {
	return c.All == nil && c.Any == nil && c.None == nil && c.AtLeast == nil && c.Test == nil
}

// Refs calls visit for everything the condition reads.
func (c Cond) Refs(visit func(Ref)) {
	for _, list := range [][]Cond{c.All, c.Any, c.None} {
		for _, m := range list {
			m.Refs(visit)
		}
	}
	if c.AtLeast != nil {
		for _, m := range c.AtLeast.Of {
			m.Refs(visit)
		}
	}
	if c.Test != nil {
		visit(c.Test.Of)
		if c.Test.Other != nil {
			visit(*c.Test.Other)
		}
	}
}

// Value is what an answer, a figure or a test holds. Exactly one member counts,
// by what the Ref reads: Text and Choice compare as text, List is for In and
// NotIn, Number is a ratio of whole numbers so that comparing never rounds.
type Value struct {
	Text   string        `json:"text,omitempty"`
	List   []string      `json:"list,omitempty"`
	Number *Number       `json:"number,omitempty"`
	Date   calendar.Date `json:"date,omitzero"`
	Yes    *bool         `json:"yes,omitempty"`
}

// Number is Num/Den exactly. Den 0 is read as 1. Money is in minor units, a
// share of the whole is 1 at 100%.
type Number struct {
	Num int64 `json:"num"`
	Den int64 `json:"den,omitempty"`
}

// Presence is how an answer stands.
type Presence int8

// The four presences of an answer, and Unsettled for one of which it is not
// yet settled whether it is asked.
const (
	NotAsked  Presence = iota // also: set aside
	Blank                     // asked, empty
	Declared                  // an allowed non-answer, such as "not known"; a given act
	Given                     //
	Unsettled                 //
)

// String names the presence.
func (p Presence) String() string {
	return [...]string{"not asked", "blank", "declared", "given", "unsettled"}[p]
}

// Cell is what a compiled condition reads in one place of its frame.
type Cell struct {
	Presence Presence
	BlankNo  bool // a blank reads as "no": every test but "is no" answers no
	Value    Value
}
