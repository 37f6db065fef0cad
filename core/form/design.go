// Package form is a round's design as data, compiled once per design and
// walked once per save: which questions are on an applicant's path, which
// limits hold, what each answer says, and what still stands in the way of
// sending. Reading order is the document's order; a condition refers only to
// what comes before it, so one pass is the answer.
package form

import (
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/slot"
)

// Key names a thing in a design for ever.
type Key = condition.Key

// Schema is the version of the design document this program writes.
const Schema = 1

// Design is everything that defines a round, as one JSON document.
type Design struct {
	Schema      int         `json:"schema"`
	Key         Key         `json:"key"`
	Kind        string      `json:"kind"` // the pattern it started from: grant
	Name        string      `json:"name"`
	Programme   string      `json:"programme"`
	Prefix      string      `json:"prefix"` // of reference numbers: two to six capital letters
	About       string      `json:"about"`
	Gives       string      `json:"gives"`
	Contact     string      `json:"contact"` // mail address of the office for this round
	Zone        string      `json:"zone"`    // IANA name
	Currency    string      `json:"currency"`
	Fund        int64       `json:"fund"` // minor units
	Calendar    []Moment    `json:"calendar"`
	Stages      []Stage     `json:"stages"`
	Figures     []Figure    `json:"figures,omitempty"`
	Rules       []Rule      `json:"rules"`
	Sections    []Section   `json:"sections"`
	Listed      Listing     `json:"listed,omitzero"` // the choice that lists show beside each application
	Ready       []string    `json:"ready,omitempty"` // what the officer adds to "what to have ready"
	Criteria    []Criterion `json:"criteria"`
	ReadersEach int         `json:"readersEach"`
	HoldMinutes int         `json:"holdMinutes"` // letters wait this long and can be cancelled
	Password    bool        `json:"password"`    // sending asks for the password again
	Letters     []Letter    `json:"letters"`
}

// Listing names a choice whose answer lists show in a column of their own.
type Listing struct {
	Question Key    `json:"question"`
	Heading  string `json:"heading"` // of the column: District
}

// Moment is a date of the calendar. Closing times are local to the second;
// they become instants in the round's zone.
type Moment struct {
	Key   Key           `json:"key"`
	Label string        `json:"label"`
	At    calendar.Wall `json:"at"`
}

// The moments every round has.
const (
	Opens      Key = "opens"
	Closes     Key = "closes"
	WorkFrom   Key = "work-from"
	ChecksBy   Key = "checks-by"
	ReadingEnd Key = "reading-ends"
	AnswerOn   Key = "answer-on"
)

// Stage is a step on the strand, from one moment to another.
type Stage struct {
	Key   Key    `json:"key"`
	Label string `json:"label"`
	Does  Work   `json:"does"`
	From  Key    `json:"from"`
	To    Key    `json:"to"`
}

// Work is what happens in a stage.
type Work string

// What a stage may do.
const (
	Apply  Work = "apply"
	Check  Work = "check"
	Read   Work = "read"
	Decide Work = "decide"
)

// Figure is computed from answers and used like one.
type Figure struct {
	Key   Key             `json:"key"`
	Label string          `json:"label"`
	Op    string          `json:"op"` // sum | share (first of second)
	Of    []condition.Ref `json:"of"`
}

// Rule says who may apply. When Holds is no, the applicant is refused, or a
// person looks when Person is set.
type Rule struct {
	Key    Key            `json:"key"`
	Label  string         `json:"label"`
	Holds  condition.Cond `json:"holds"`
	Person bool           `json:"person,omitempty"`
	Yes    string         `json:"yes"`
	No     string         `json:"no"`
	Look   string         `json:"look"`
}

// Section groups questions.
type Section struct {
	Key       Key            `json:"key"`
	Label     string         `json:"label"`
	Help      string         `json:"help,omitempty"`
	Asked     condition.Cond `json:"asked,omitzero"`
	Questions []Question     `json:"questions"`
}

// Kind of question. A different kind is a different key.
type Kind string

// The kinds of this schema.
const (
	Short       Kind = "short"
	Long        Kind = "long"
	Choice      Kind = "choice"
	YesNo       Kind = "yesno"
	Number      Kind = "number"
	Date        Kind = "date"
	Money       Kind = "money"
	Address     Kind = "address"
	Budget      Kind = "budget"
	File        Kind = "file"
	Referee     Kind = "referee"
	Declaration Kind = "declaration"
	Signature   Kind = "signature"
)

// Nature says whether an applicant could answer otherwise.
type Nature string

// Fact is true of the applicant whatever they wish; Chosen is theirs to make.
const (
	Fact   Nature = "fact"
	Chosen Nature = "choice"
)

// Blank says how conditions read an empty answer.
type Blank string

// How a blank reads.
const (
	Required     Blank = "required"
	MeansNo      Blank = "means no"
	MeansUnknown Blank = "means unknown"
)

// Audience says who sees an answer besides the applicant and the office.
type Audience string

// The audiences.
const (
	ToReaders Audience = "readers"
	ToPublic  Audience = "public"
	ToOffice  Audience = "office"
)

// Question is one thing asked.
type Question struct {
	Key      Key            `json:"key"`
	Kind     Kind           `json:"kind"`
	Label    string         `json:"label"`
	Help     string         `json:"help,omitempty"`
	Example  string         `json:"example,omitempty"`
	Nature   Nature         `json:"nature"`
	Blank    Blank          `json:"blank"`
	Asked    condition.Cond `json:"asked,omitzero"`
	Must     condition.Cond `json:"must,omitzero"` // only for a Blank other than Required
	Limits   Cases[Limits]  `json:"limits,omitzero"`
	Options  []Option       `json:"options,omitempty"`
	NotKnown bool           `json:"notKnown,omitempty"` // "not known" is an allowed answer
	Seen     Audience       `json:"seen"`
	Scale    int            `json:"scale,omitempty"`   // decimals of a number
	Unit     string         `json:"unit,omitempty"`    // of a number
	Request  Key            `json:"request,omitempty"` // budget: the money question it must add up to
}

// Option of a choice.
type Option struct {
	Key   Key    `json:"key"`
	Label string `json:"label"`
}

// Cases holds a value that depends on conditions: the first case that is yes
// wins, in the officer's order; otherwise Else.
type Cases[T any] struct {
	When []Case[T] `json:"when,omitempty"`
	Else T         `json:"else"`
}

// Case is one case.
type Case[T any] struct {
	If   condition.Cond `json:"if"`
	Then T              `json:"then"`
}

// Limits of an answer; a zero member does not limit.
type Limits struct {
	Words        int          `json:"words,omitempty"`
	Characters   int          `json:"characters,omitempty"`
	Least        *int64       `json:"least,omitempty"` // money in minor units, numbers at their scale
	Most         *int64       `json:"most,omitempty"`
	NotBefore    *Day         `json:"notBefore,omitempty"`
	NotAfter     *Day         `json:"notAfter,omitempty"`
	MatchPercent int64        `json:"matchPercent,omitempty"` // budget: others pay at least so much of the cost
	Slot         *slot.Limits `json:"slot,omitempty"`
	Referees     int          `json:"referees,omitempty"` // exactly so many
}

// Day is a fixed date or one of the calendar.
type Day struct {
	On  calendar.Date `json:"on,omitzero"`
	Key Key           `json:"calendar,omitempty"`
}

// Criterion is what readers mark against. Steps describe the marks 0, 1, 2 …
type Criterion struct {
	Key    Key      `json:"key"`
	Label  string   `json:"label"`
	Weight int      `json:"weight"` // percent
	Steps  []string `json:"steps"`
}

// Letter is a text sent at a step of a case's life. Fields stand in double
// braces: {{name}}, {{title}}, {{ref}}, {{amount}}.
type Letter struct {
	Key     Key    `json:"key"`
	Subject string `json:"subject"`
	Body    string `json:"body"`
}

// MostSteps is the greatest number of described steps a criterion can have.
const MostSteps = 11
