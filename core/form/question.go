package form

import (
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/slot"
)

// Kind of question. A different kind is a different key.
type Kind string

// The kinds of this schema. kinds.go says what each is.
const (
	Short       Kind = "short"
	Long        Kind = "long"
	Choice      Kind = "choice"
	Several     Kind = "several"
	Ranked      Kind = "ranked"
	Keywords    Kind = "keywords"
	Pick        Kind = "pick"
	Grade       Kind = "grade"
	StreamPick  Kind = "stream"
	ApplicantIs Kind = "applicant"
	AwardPick   Kind = "awards"
	AwardOrder  Kind = "award-order"
	YesNo       Kind = "yesno"
	Number      Kind = "number"
	Percent     Kind = "percent"
	Date        Kind = "date"
	Money       Kind = "money"
	Phone       Kind = "phone"
	Mail        Kind = "mail"
	Link        Kind = "link"
	Identifier  Kind = "identifier"
	Address     Kind = "address"
	Contact     Kind = "contact"
	Names       Kind = "names"
	Counts      Kind = "counts"
	Rows        Kind = "rows"
	Years       Kind = "years"
	Budget      Kind = "budget"
	Aid         Kind = "aid"
	Declared    Kind = "declared"
	File        Kind = "file"
	PageRef     Kind = "pages"
	Referee     Kind = "referee"
	Signatory   Kind = "signatory"
	Signer      Kind = "signer"
	Fees        Kind = "fees"
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

// Purpose says what an answer is for, besides being read.
type Purpose string

// What an answer counts for: "" is judging. Matching is used without being
// shown, a survey is kept apart from the case.
const (
	ForJudging  Purpose = ""
	ForMatching Purpose = "matching"
	ForReports  Purpose = "reports"
	ForSurvey   Purpose = "survey"
)

// Profile says which part of the profile of whoever applies fills an answer.
type Profile string

// The parts; "" is none.
const (
	ProfileName   Profile = "name"
	ProfileNumber Profile = "number"  // the first registered number
	ProfilePhone  Profile = "phone"   //
	ProfileMail   Profile = "mail"    // of the first contact
	ProfilePost   Profile = "address" // where letters go
	ProfileBorn   Profile = "born"    // a person's date of birth
	ProfileHolder Profile = "sponsor" // the sponsoring body that holds the money: its name, or that there is one
)

// Parties says whom the rows of a table name, so that they are held against those
// who judge and against other applications.
type Parties string

// Whom rows name. The first short text of a row is the name.
const (
	NamesNobody Parties = ""
	NamesPeople Parties = "people" // of the applicant: directors, members, partners
	NamesPaid   Parties = "paid"   // suppliers and others who are to be paid
)

// NonAnswer is an honest answer that holds no value; "" is none.
type NonAnswer string

// The non-answers an officer may allow.
const (
	NotKnown     NonAnswer = "not known"
	NotApply     NonAnswer = "does not apply"
	NoSuchPost   NonAnswer = "no such post"
	RatherNotSay NonAnswer = "prefer not to say"
	ToFollow     NonAnswer = "to follow"
)

// NonAnswers lists them as they are offered.
var NonAnswers = []NonAnswer{NotKnown, NotApply, NoSuchPost, RatherNotSay, ToFollow}

// Question is one thing asked.
type Question struct {
	Key        Key            `json:"key"`
	Kind       Kind           `json:"kind"`
	Label      string         `json:"label"`
	Help       string         `json:"help,omitempty"`
	Terms      []Term         `json:"terms,omitempty"`
	Example    string         `json:"example,omitempty"`
	Nature     Nature         `json:"nature"`
	Blank      Blank          `json:"blank"`
	Asked      condition.Cond `json:"asked,omitzero"`
	Must       condition.Cond `json:"must,omitzero"` // only for a Blank other than Required
	Limits     Cases[Limits]  `json:"limits,omitzero"`
	Options    []Option       `json:"options,omitempty"`
	NonAnswers []NonAnswer    `json:"nonAnswers,omitempty"`
	FollowBy   *Day           `json:"followBy,omitempty"` // until when what is "to follow" must have come
	Sure       Sure           `json:"sure,omitempty"`     // how sure the answer is, asked beside it
	Seen       Audience       `json:"seen"`
	Purpose    Purpose        `json:"purpose,omitempty"`
	Scale      int            `json:"scale,omitempty"`     // decimals of a number
	Unit       string         `json:"unit,omitempty"`      // of a number
	Request    Key            `json:"request,omitempty"`   // budget: the money question it must add up to
	List       Key            `json:"list,omitempty"`      // keywords: what is picked from
	Proposals  bool           `json:"proposals,omitempty"` // keywords: applicants may propose others, which the office rules on
	Table      Key            `json:"table,omitempty"`     // pick, grade: the table the office keeps
	Rounding   Rounding       `json:"rounding,omitempty"`  // grade
	Slot       Key            `json:"slot,omitempty"`      // pages: the file slot before it
	Scheme     string         `json:"scheme,omitempty"`    // identifier: which number it is
	Region     string         `json:"region,omitempty"`    // phone: the country of numbers typed without one, ISO 3166
	CopyOf     Key            `json:"copyOf,omitempty"`    // address: one before it that it can be copied from
	Shared     bool           `json:"shared,omitempty"`    // contact: a shared mailbox will do instead of a person
	Media      bool           `json:"media,omitempty"`     // long: a film or sound in the slot below may stand in for the text
	Initials   bool           `json:"initials,omitempty"`  // statement: agreed to by typing one's initials, not by a tick
	Every      bool           `json:"every,omitempty"`     // awards: one may ask for every award that fits
	Profile    Profile        `json:"profile,omitempty"`   // what of the applicant's profile fills it
	Parties    Parties        `json:"parties,omitempty"`   // rows: whom its rows name
	Columns    []Question     `json:"columns,omitempty"`   // rows; of a referee or signatory, what they answer themselves
	Ask        *Ask           `json:"ask,omitempty"`       // referee, signatory: what they are asked
	Costing    *Costing       `json:"costing,omitempty"`   // budget: what its lines hold
	Aid        *AidRule       `json:"aid,omitempty"`       // aid: how it is added up, and to what ceiling
	Declared   *DeclaredRule  `json:"declared,omitempty"`  // declared: what it is compared with
}

// ForReaders reports a question whose answer readers see and judge by.
func (q *Question) ForReaders() bool { return q.Seen != ToOffice && q.Purpose == ForJudging }

// Term explains a word of the question at the word.
type Term struct {
	Word  string `json:"word"`
	Means string `json:"means"`
}

// Sure is a mark beside an answer that says how sure it is.
type Sure string

// The marks: "" asks for none.
const (
	Estimated Sure = "estimated or actual"
	Expected  Sure = "known or expected"
)

// Marks are the two words of a Sure; nil for none.
func (s Sure) Marks() []string {
	switch s {
	case Estimated:
		return []string{"actual", "estimated"}
	case Expected:
		return []string{"known", "expected"}
	}
	return nil
}

// Option of a choice.
type Option struct {
	Key   Key    `json:"key"`
	Label string `json:"label"`
}

// Limits of an answer; a zero member does not limit. Sums are minor units,
// numbers at their question's scale.
type Limits struct {
	Words        int          `json:"words,omitempty"`
	LeastWords   int          `json:"leastWords,omitempty"`
	Characters   int          `json:"characters,omitempty"`
	Least        *int64       `json:"least,omitempty"`
	Most         *int64       `json:"most,omitempty"`
	NotBefore    *Day         `json:"notBefore,omitempty"`
	NotAfter     *Day         `json:"notAfter,omitempty"`
	MonthsOld    int          `json:"monthsOld,omitempty"`    // a date is at most so many months before the closing
	PickLeast    int          `json:"pickLeast,omitempty"`    // of several
	PickMost     int          `json:"pickMost,omitempty"`     //
	RowsLeast    int          `json:"rowsLeast,omitempty"`    //
	RowsMost     int          `json:"rowsMost,omitempty"`     //
	MatchPercent int64        `json:"matchPercent,omitempty"` // budget: others pay at least so much of the cost
	MatchOfAsked int64        `json:"matchOfAsked,omitempty"` // budget: others pay at least so much of what is asked, in percent
	InKindMost   int64        `json:"inKindMost,omitempty"`   // budget: in kind counts as match up to so much of the cost, in percent
	Caps         []Cap        `json:"caps,omitempty"`         // budget: a heading's greatest share
	Slot         *slot.Limits `json:"slot,omitempty"`
	Referees     int          `json:"referees,omitempty"` // exactly so many
}

// Cap on a heading of a budget.
type Cap struct {
	Heading Key   `json:"heading"`
	Percent int64 `json:"percent"`
	Of      CapOf `json:"of,omitempty"` // of what it is a share
}

// Day is a fixed date or one of the calendar.
type Day struct {
	On  calendar.Date `json:"on,omitzero"`
	Key Key           `json:"calendar,omitempty"`
}

// Zero reports no day.
func (d *Day) Zero() bool { return d == nil || d.On.IsZero() && d.Key == "" }

// Amounts are the least and the most that any case of a question's limits
// allows; nil where one has no bound. depends reports that cases differ.
func (q *Question) Amounts() (least, most *int64, depends bool) {
	least, most = q.Limits.Else.Least, q.Limits.Else.Most
	differ := func(a, b *int64) bool { return (a == nil) != (b == nil) || a != nil && *a != *b }
	for _, w := range q.Limits.When {
		depends = depends || differ(w.Then.Least, q.Limits.Else.Least) || differ(w.Then.Most, q.Limits.Else.Most)
		if least != nil && (w.Then.Least == nil || *w.Then.Least < *least) {
			least = w.Then.Least
		}
		if most != nil && (w.Then.Most == nil || *w.Then.Most > *most) {
			most = w.Then.Most
		}
	}
	return least, most, depends
}
