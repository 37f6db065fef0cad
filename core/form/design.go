// Package form is a round's design as data, compiled once per design and
// walked once per save: which questions are on an applicant's path, which
// limits hold, what each answer says, and what still stands in the way of
// sending. Reading order is the document's order; a condition refers only to
// what comes before it, so one pass is the answer.
package form

import (
	"ulvant/core/calendar"
	"ulvant/core/condition"
)

// Key names a thing in a design for ever.
type Key = condition.Key

// Schema is the version of the design document this program writes.
const Schema = 1

// Design is everything that defines a round, as one JSON document.
type Design struct {
	Schema      int         `json:"schema"`
	Key         Key         `json:"key"`
	Kind        string      `json:"kind"` // the pattern it started from: grant, scholarship, fellowship, competition
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
	Streams     []Stream    `json:"streams,omitempty"`
	Applicants  []Option    `json:"applicants,omitempty"` // the kinds of applicant there are
	Gifts       []Gift      `json:"gifts,omitempty"`
	Awards      []Award     `json:"awards,omitempty"`
	Placing     *Placing    `json:"placing,omitempty"` // how awards are placed; nil: by the marks, without caps
	Vote        *Vote       `json:"vote,omitempty"`    // nil: the public does not vote
	Offer       *Offer      `json:"offer,omitempty"`   // how what is awarded is accepted; nil: it is theirs when they are told
	Lists       []List      `json:"lists,omitempty"`
	Tables      []Table     `json:"tables,omitempty"`
	Figures     []Figure    `json:"figures,omitempty"`
	Rules       []Rule      `json:"rules"`
	Sections    []Section   `json:"sections"`
	Fees        []Fee       `json:"fees,omitempty"`
	Codes       []FeeCode   `json:"codes,omitempty"`
	Payment     *Payment    `json:"payment,omitempty"`
	Request     Key         `json:"request,omitempty"`  // the money question that says what is asked of the fund
	Listed      Listing     `json:"listed,omitzero"`    // the choice that lists show beside each application
	Score       ScoreRule   `json:"score,omitempty"`    // what the order of cases goes by
	Tie         Key         `json:"tie,omitempty"`      // what settles the order of equal scores: a criterion, TieSent, TieLot; "": the panel
	Language    Key         `json:"language,omitempty"` // the choice that tells the language an application is written in
	Notes       NotesRule   `json:"notes,omitempty"`    // whom readers’ notes for applicants go to
	NotesOn     Key         `json:"notesOn,omitempty"`  // the moment at which they go out by themselves; "": with the letter
	Useful      Key         `json:"useful,omitempty"`   // the sum that is the least of use to an application
	Field       Key         `json:"field,omitempty"`    // the choice that tells an application’s field, by which readers are found
	Ready       []string    `json:"ready,omitempty"`    // what the officer adds to "what to have ready"
	Criteria    []Criterion `json:"criteria"`
	Overall     []string    `json:"overall,omitempty"` // steps of an overall judgement beside the criteria
	ReadersEach int         `json:"readersEach"`
	Control     int         `json:"control,omitempty"`    // percent of cases that one reader more marks, unknown to readers; 0: none
	TrainFirst  bool        `json:"trainFirst,omitempty"` // cases go to readers who have marked the sample case alone
	ReaderWord  string      `json:"readerWord,omitempty"` // juror, assessor; "" for reader
	HideNames   bool        `json:"hideNames,omitempty"`
	Bodies      []Body      `json:"bodies,omitempty"` // which bodies review, in turn
	HoldMinutes int         `json:"holdMinutes"`      // letters wait this long and can be cancelled
	Password    bool        `json:"password"`         // sending asks for the password again

	MoreThanAsked bool     `json:"moreThanAsked,omitempty"` // the panel may award more than was asked
	Letters       []Letter `json:"letters"`
	Retired       []Key    `json:"retired,omitempty"` // keys of what was taken out: never used again
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

	Reminds bool `json:"reminds,omitempty"` // those with drafts are reminded then
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
	Key     Key    `json:"key"`
	Label   string `json:"label"`
	Does    Work   `json:"does"`
	From    Key    `json:"from"`
	To      Key    `json:"to"`
	Invited bool   `json:"invited,omitempty"` // by invitation only; such a stage has no public page
}

// Work is what happens in a stage.
type Work string

// What a stage may do.
const (
	Apply     Work = "apply"
	Check     Work = "check"
	Read      Work = "read"
	Interview Work = "interview"
	Votes     Work = "vote" // the public does
	Decide    Work = "decide"
)

// Stream is one line of money or subject inside a round.
type Stream struct {
	Key   Key    `json:"key"`
	Label string `json:"label"`
	About string `json:"about,omitempty"`
	Fund  int64  `json:"fund,omitempty"` // its part of the fund, minor units; 0: no part of its own
}

// Gift is something given besides the money of the request.
type Gift struct {
	Key   Key    `json:"key"`
	Label string `json:"label"`
	What  string `json:"what"`            // money | goods | place | admission
	Value int64  `json:"value,omitempty"` // of one, minor units; a budget takes it for what one costs
	About string `json:"about,omitempty"`
	Stock int64  `json:"stock,omitempty"` // of what is counted in pieces, how many there are in the round; 0: nothing bounds it
	Fund  int64  `json:"fund,omitempty"`  // of money, how much there is in the round, minor units; 0: nothing bounds it

	// In a budget that asks for it: the least and the most, minor units; nil for none.
	// Request is the question that says how much: of money, or, of what is counted in
	// pieces and stands in no budget, a number of them; "": the budget alone.
	Least   *int64 `json:"least,omitempty"`
	Most    *int64 `json:"most,omitempty"`
	Request Key    `json:"request,omitempty"`
}

// Award is a purse or place with criteria of its own, given within a round.
type Award struct {
	Key    Key            `json:"key"`
	Label  string         `json:"label"`
	About  string         `json:"about,omitempty"`
	Purse  int64          `json:"purse,omitempty"` // minor units, for each place
	Places int            `json:"places"`
	Donor  string         `json:"donor,omitempty"`
	Led    string         `json:"led,omitempty"`    // need | merit
	Match  condition.Cond `json:"match,omitzero"`   // who meets it; empty: everybody who may apply
	Public bool           `json:"public,omitempty"` // stands in the public catalogue

	Least      int64          `json:"least,omitempty"`      // of one place, where its sum is a range up to Purse; 0: exactly Purse
	ByNeed     *int           `json:"byNeed,omitempty"`     // percent of its worth that goes by need, the rest by merit; nil: as it is led
	NeedBy     Key            `json:"needBy,omitempty"`     // the figure or answer that says need for it; "": as for all
	MeritBy    Key            `json:"meritBy,omitempty"`    // the same of merit
	LeastMerit int            `json:"leastMerit,omitempty"` // of 100
	WordsIn    Key            `json:"wordsIn,omitempty"`    // the written answer in which one of Words must stand
	Words      []string       `json:"words,omitempty"`
	Look       bool           `json:"look,omitempty"`  // words alone never meet it: somebody says whether they do
	First      condition.Cond `json:"first,omitzero"`  // who comes before all others, such as last year’s holders
	Apart      string         `json:"apart,omitempty"` // of all awards with the same word here one person is given one
}

// Placing is how awards are placed.
type Placing struct {
	Need  Key        `json:"need,omitempty"`  // the figure or question that says how much somebody needs
	Merit Key        `json:"merit,omitempty"` // by which merit goes; "": the marks of the readers
	Most  int        `json:"most,omitempty"`  // awards of one person; 0: any number
	Cap   CapOnAward `json:"cap,omitempty"`   // on the money of one person
	Wish  int        `json:"wish,omitempty"`  // points of 100 by which the first wish is worth more, the second half of it…
	Order bool       `json:"order,omitempty"` // the awards are prizes: the first goes to whoever is worth most, and so on down
}

// CapOnAward is what the money of one person is held to.
type CapOnAward string

// The caps.
const (
	UpToAsked CapOnAward = "asked" // what they ask for
	UpToNeed  CapOnAward = "need"  // what they need
)

// List is a controlled list: keywords, places, schools.
type List struct {
	Key     Key           `json:"key"`
	Label   string        `json:"label"`
	Version string        `json:"version,omitempty"`
	Day     calendar.Date `json:"day,omitzero"`     // of the version; evidence
	Prefix  bool          `json:"prefix,omitempty"` // an item holds every text that begins with its code
	Items   []Item        `json:"items"`
}

// Item of a list. Its code is what is kept; it never changes its meaning.
type Item struct {
	Code  string `json:"code"`
	Label string `json:"label"`
}

// Table is one the office keeps, from which a pick fills in the rest: a course
// brings its credits and site, a grade its step.
type Table struct {
	Key     Key      `json:"key"`
	Label   string   `json:"label"`
	Columns []Column `json:"columns"`
	Rows    []Row    `json:"rows"`
}

// Column of a Table.
type Column struct {
	Key     Key    `json:"key"`
	Label   string `json:"label"`
	Numbers bool   `json:"numbers,omitempty"` // its cells are numbers, with a point
}

// Row of a Table; cells in the order of its columns.
type Row struct {
	Key   Key      `json:"key"`
	Label string   `json:"label"`
	Cells []string `json:"cells"`
}

// Rounding says which step of a table a number between two steps takes.
type Rounding string

// The roundings. A tie goes upward where a rounding to the nearest meets one.
const (
	Nearest  Rounding = "to the nearest step, a tie upward"
	NextUp   Rounding = "to the next step above"
	NextDown Rounding = "to the next step below"
)

// Figure is computed from answers and used like one.
type Figure struct {
	Key      Key             `json:"key"`
	Label    string          `json:"label"`
	Op       FigureOp        `json:"op"`
	Of       []condition.Ref `json:"of"`
	Where    condition.Cond  `json:"where,omitzero"` // which rows of a table count, are added up or compared
	Table    Key             `json:"table,omitempty"`
	Rounding Rounding        `json:"rounding,omitempty"`
	Percent  int64           `json:"percent,omitempty"` // of PartOf
}

// FigureOp is how a figure is worked out.
type FigureOp string

// The operations.
const (
	Sum        FigureOp = "sum"
	Difference FigureOp = "difference" // the first less the others
	Share      FigureOp = "share"      // the first in the second
	AgeOn      FigureOp = "age"        // complete years from the first date to the second
	MonthsTo   FigureOp = "months"     // complete months from the first date to the second
	CountWhere FigureOp = "count"      // rows that count; or, of yes/no answers, those that are yes
	AnyRow     FigureOp = "any row"
	EveryRow   FigureOp = "every row"
	LeastOf    FigureOp = "least"
	MostOf     FigureOp = "most"
	StepOf     FigureOp = "step" // of a number in a table, by its rounding
	PartOf     FigureOp = "part" // so many percent of the first
)

// Readers are called so in this round: readers, jurors or assessors.
func (d *Design) Readers() string {
	if d.ReaderWord == "" {
		return "readers"
	}
	return d.ReaderWord + "s"
}

// StageLabel is how a stage is called; "" when there is none by that key.
func (d *Design) StageLabel(k Key) string {
	if k == AfterSending {
		return "after sending"
	}
	for _, s := range d.Stages {
		if s.Key == k {
			return s.Label
		}
	}
	return ""
}

// Rule says who may apply. When Holds is no, the applicant is refused, or a
// person looks when Person is set. A rule with When is worked only where that
// is yes.
type Rule struct {
	Key    Key            `json:"key"`
	Label  string         `json:"label"`
	When   condition.Cond `json:"when,omitzero"`
	Holds  condition.Cond `json:"holds"`
	Person bool           `json:"person,omitempty"`
	Says   string         `json:"says,omitempty"` // the rule of anybody, for who may apply and for the office
	Yes    string         `json:"yes"`            // to the applicant: it is met
	No     string         `json:"no"`             // it is not: what would make it right
	Look   string         `json:"look"`           // a person must look
}

// Section groups questions.
type Section struct {
	Key       Key            `json:"key"`
	Label     string         `json:"label"`
	Help      string         `json:"help,omitempty"`
	Stage     Key            `json:"stage,omitempty"` // the stage it is asked in; "" for the first, AfterSending for a survey
	Again     []Key          `json:"again,omitempty"` // later stages in which it is asked again, starting from what was answered
	Asked     condition.Cond `json:"asked,omitzero"`
	Questions []Question     `json:"questions"`
}

// Fee is one charge.
type Fee struct {
	Key     Key            `json:"key"`
	Label   string         `json:"label"`
	What    string         `json:"what"` // entry | extra | thing | bundle
	Offered condition.Cond `json:"offered,omitzero"`
	Price   Cases[Price]   `json:"price"`
	Most    int            `json:"most,omitempty"` // of an extra or thing, how many one may take; 0 for one
	Of      []Key          `json:"of,omitempty"`   // of a bundle: the fees whose sum its one price takes the place of
}

// Price in minor units, and what it becomes.
type Price struct {
	Amount int64  `json:"amount"`
	Later  []Rise `json:"later,omitempty"` // in the order of their moments
}

// Rise is what a price is from a moment of the calendar on: whoever sends at that
// very second pays it.
type Rise struct {
	From   Key   `json:"from"`
	Amount int64 `json:"amount"`
}

// FeeCode takes something off the fees.
type FeeCode struct {
	Key     Key           `json:"key"`
	Code    string        `json:"code"` // as it is typed
	Percent int           `json:"percent,omitempty"`
	Off     int64         `json:"off,omitempty"`     // minor units
	Until   calendar.Date `json:"until,omitzero"`    // it works to the end of that day
	Uses    int           `json:"uses,omitempty"`    // how many applications it can be used for; 0 for any number
	Members []string      `json:"members,omitempty"` // mail addresses for whose leads alone it works; nil for anybody's
}

// Payment is how the fees of a round are paid. Nil: by card, with DefaultGrace,
// nothing given back but by the office.
type Payment struct {
	Grace       int    `json:"grace"`                 // minutes after closing within which a payment begun before it still counts
	Invoice     bool   `json:"invoice,omitempty"`     // one may ask for an invoice; the application is in at once
	InvoiceDays int    `json:"invoiceDays,omitempty"` // days within which an invoice is paid
	Account     string `json:"account,omitempty"`     // into which account invoices are paid, as it stands on them
	Back        []Back `json:"back,omitempty"`        // what is given back to whoever withdraws, the earliest moment first
	Second      int64  `json:"second,omitempty"`      // minor units above which what the office gives back needs a second person
}

// Back is what is given back to whoever withdraws before a moment.
type Back struct {
	Until   Key `json:"until"`
	Percent int `json:"percent"`
}

// DefaultGrace is in minutes.
const DefaultGrace = 60

// Criterion is what readers mark against. Steps describe the marks 0, 1, 2 …
type Criterion struct {
	Key        Key            `json:"key"`
	Label      string         `json:"label"`
	Weight     int            `json:"weight"` // percent
	Applies    condition.Cond `json:"applies,omitzero"`
	Steps      []string       `json:"steps"`
	PassPoints []Option       `json:"passPoints,omitempty"` // met or not met, under the criterion
	At         Key            `json:"at,omitempty"`         // stage of interviews it is marked in, by whoever is there; "": readers mark it
}

// ScoreRule is what the order of cases goes by.
type ScoreRule string

// The rules.
const (
	ByMean       ScoreRule = ""           // the mean of the readers' weighted marks
	ByCalibrated ScoreRule = "calibrated" // brought to one scale
)

// What settles the order of equal scores, besides a criterion by its key.
const (
	TieSent Key = "by-sending" // whoever was sent first
	TieLot  Key = "by-lot"     // drawn from the numbers of the cases and the key of the round: whoever draws it again draws the same
)

// NotesRule is to whom readers’ notes for applicants go.
type NotesRule string

// The rules.
const (
	NotesStay     NotesRule = ""         // nobody; the office has them
	NotesDeclined NotesRule = "declined" // those who are not awarded
	NotesAll      NotesRule = "all"
)

// MostSteps is the greatest number of described steps a criterion can have.
const MostSteps = 11

// Body reviews in its turn, seeing only its own cases.
type Body struct {
	Key   Key            `json:"key"`
	Label string         `json:"label"`
	Sees  condition.Cond `json:"sees,omitzero"`
	By    Key            `json:"by,omitempty"` // moment by which it has reviewed

	Points []Option `json:"points,omitempty"` // what it looks at, each met or not met
	Marks  int      `json:"marks,omitempty"`  // it gives a mark from 0 to this with its yes or no; 0: none is asked
}

// MostBodyMark is the greatest mark a reviewing body can be asked for.
const MostBodyMark = 100

// BodyLabel is how a reviewing body is called; its key when there is none.
func (d *Design) BodyLabel(key string) string {
	for _, b := range d.Bodies {
		if string(b.Key) == key {
			return b.Label
		}
	}
	return key
}

// Award finds an award by its key.
func (d *Design) Award(key Key) (Award, bool) {
	for _, a := range d.Awards {
		if a.Key == key {
			return a, true
		}
	}
	return Award{}, false
}

// AwardLabel is how an award is called; its key when there is none.
func (d *Design) AwardLabel(key string) string {
	for _, a := range d.Awards {
		if string(a.Key) == key {
			return a.Label
		}
	}
	return key
}

// Letter is a text sent at a step of a case's life. Fields stand in double
// braces: {{name}}, {{title}}, {{ref}}, {{amount}}.
type Letter struct {
	Key     Key            `json:"key"`
	Subject string         `json:"subject"`
	Body    string         `json:"body"`
	Of      Key            `json:"of,omitempty"`    // the letter in whose place it goes out; "": none
	When    condition.Cond `json:"when,omitzero"`   // to whom it does: such as those of a stream, or who write in a language
	Award   Key            `json:"award,omitempty"` // to those who are given this award
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

// MostMark is the highest mark that any criterion has a step for; 0 without
// criteria.
func (d *Design) MostMark() (most int) {
	for _, c := range d.Criteria {
		most = max(most, len(c.Steps)-1)
	}
	return most
}
