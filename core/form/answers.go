package form

import (
	"slices"
	"strings"
	"time"

	"ulvant/core/budget"
	"ulvant/core/calendar"
	"ulvant/core/lifecycle"
	"ulvant/core/slot"
)

// Place of an answer. Row and Column are "" for plain questions; the rows of a
// table read in the order of their keys.
type Place struct {
	Question Key    `json:"question"`
	Row      string `json:"row,omitempty"`
	Column   Key    `json:"column,omitempty"`
}

// Answer is what was typed, kept as typed even when it cannot be read. Several
// picked stand on a line each.
type Answer struct {
	Raw string
	Non NonAnswer // given instead of a value; "" for none
}

// Empty reports nothing but blanks.
func (a Answer) Empty() bool { return a.Non == "" && strings.TrimSpace(a.Raw) == "" }

// Filled is all that a walk reads of one application.
type Filled struct {
	Answers  map[Place]Answer
	Files    map[Key][]slot.File
	Referees map[Key][]RefereeStanding
	Lead     string         // the lead's name on file, which a signature must match
	Signers  []string       // names of those who may sign for whoever applies; nil: the lead alone
	Today    calendar.Date  // the day it is looked at; 0 when that does not matter
	Others   Others         // sent by the same applicant
	Stage    Key            // the stage being written for; "" for the first
	Results  map[Key]string // of earlier stages, by stage
	Earlier  *Filled        // what was sent in earlier stages; nil when there are none
	Paying   Paying
}

// Paying is what the fees hang on besides answers.
type Paying struct {
	At     time.Time   // the instant by which prices are taken; zero: any
	Mail   string      // of the lead; "" when it is not known
	Used   map[Key]int // how many other applications each code was used for
	Waived bool        // the office has waived the fees
}

// Authorised are the names of those who may sign an agreement.
func (f *Filled) Authorised() []string {
	if f.Signers == nil {
		return []string{f.Lead}
	}
	return f.Signers
}

// Others counts the applications that the same applicant has sent and not
// withdrawn, this one apart.
type Others struct {
	Round     int `json:"round,omitempty"`     // in the same round
	Programme int `json:"programme,omitempty"` // in any round of the programme that is not answered yet
}

// RefereeStanding is how one referee's letter, or one signatory's
// confirmation, stands.
type RefereeStanding struct {
	Name   string
	Letter LetterState
	Since  calendar.Date // of the state
	// Bounced: the mail that asked them came back.
	Bounced bool
	// Fingerprint of what a signatory confirmed; "" when it is not known.
	Fingerprint string
}

// LetterState is how far a letter is.
type LetterState string

// A letter's states.
const (
	ToAsk    LetterState = "to ask"
	Asked    LetterState = "asked"
	Accepted LetterState = "accepted"
	Declined LetterState = "declined"
	Uploaded LetterState = "uploaded" // put up or written, not sent
	SentIn   LetterState = "sent"
	Replaced LetterState = "replaced"
)

// Rows of a table question, in order.
func (f *Filled) Rows(q Key) []string {
	var rows []string
	seen := map[string]bool{}
	for p := range f.Answers {
		if p.Question == q && p.Row != "" && !seen[p.Row] {
			seen[p.Row] = true
			rows = append(rows, p.Row)
		}
	}
	slices.Sort(rows)
	return rows
}

// Code of an obstacle; the sentences are made in core/say.
type Code string

// The codes.
const (
	CodeBlank            Code = "blank"
	CodeUnreadable       Code = "unreadable"
	CodeTooLong          Code = "too-long"
	CodeTooShort         Code = "too-short"
	CodeTooManyChars     Code = "too-many-characters"
	CodeTooLittle        Code = "below-least"
	CodeTooMuch          Code = "above-most"
	CodeTooEarly         Code = "too-early"
	CodeTooLate          Code = "too-late"
	CodeTooOld           Code = "too-old"
	CodeTooFewPicked     Code = "too-few-picked"
	CodeTooManyPicked    Code = "too-many-picked"
	CodePickedTwice      Code = "picked-twice"
	CodeNotApplied       Code = "not-applied-for" // an award is ranked that is not among those applied for
	CodeLessThanNone     Code = "less-than-none"  // a negative number of something that is taken
	CodeNotSure          Code = "not-said-how-sure"
	CodeBoxNumber        Code = "box-number"
	CodePart             Code = "part-missing"
	CodePartUnreadable   Code = "part-unreadable"
	CodeTooFewRows       Code = "too-few-rows"
	CodeTooManyRows      Code = "too-many-rows"
	CodeBudgetLine       Code = "budget-line"
	CodeBudgetOver       Code = "budget-line-over"
	CodeBudgetDivide     Code = "budget-divide" // the parts of a line do not come to its cost
	CodeBudgetChoice     Code = "budget-choice" // something of a line is not chosen
	CodeBudgetValue      Code = "budget-value"  // goods are worth what the round says
	CodeBudgetEarly      Code = "budget-early"
	CodeBudgetSupplier   Code = "budget-supplier"
	CodeBudgetQuotes     Code = "budget-quotes"
	CodeBudgetHuge       Code = "budget-huge" // the sums leave the range that can be kept
	CodeBudgetLeast      Code = "budget-least"
	CodeBudgetMost       Code = "budget-most"
	CodeBudgetPayer      Code = "budget-payer"
	CodeAidCeiling       Code = "aid-ceiling" // aid that was given and what is asked go beyond it
	CodeBudgetRequest    Code = "budget-request"
	CodeBudgetMatch      Code = "budget-match"
	CodeBudgetMatchAsked Code = "budget-match-asked"
	CodeBudgetCap        Code = "budget-cap"
	CodeFile             Code = "file"
	CodeFileMissing      Code = "file-missing"
	CodeFilesFew         Code = "too-few-files"
	CodeFilesMany        Code = "too-many-files"
	CodeFilesSize        Code = "files-too-large"
	CodeFileNeeds        Code = "file-needs-another"
	CodeFileDetail       Code = "file-detail"
	CodeFileMade         Code = "file-made-before"
	CodeFileExcerpt      Code = "file-excerpt" // Detail says what is wrong with it
	CodeFileWhole        Code = "file-whole"   // Detail says of what it is a part; "" when it is longer than that
	CodeFileTick         Code = "file-tick"
	CodeNotAccepted      Code = "not-accepted"
	CodePageRange        Code = "page-range"
	CodePageSlot         Code = "page-slot-empty"
	CodeRefereeMissing   Code = "referee-missing"
	CodeRefereeToAsk     Code = "referee-to-ask"
	CodeRefereeAsked     Code = "referee-asked"
	CodeRefereeWriting   Code = "referee-writing"
	CodeRefereeNo        Code = "referee-declined"
	CodeLetterNotSent    Code = "letter-not-sent"
	CodeRefereeBounced   Code = "referee-bounced" // the mail that asked them came back
	CodeConfirmedOther   Code = "confirmed-other" // what they confirmed was changed since
	CodeFeeCode          Code = "fee-code"
	CodeFeeCodeOver      Code = "fee-code-over"   // its last day is gone
	CodeFeeCodeUsed      Code = "fee-code-used"   // as often as it can be
	CodeFeeCodeTheirs    Code = "fee-code-theirs" // it is for others
	CodeNotOffered       Code = "fee-not-offered" // an extra taken that is not for them
	CodeTooManyTaken     Code = "fee-too-many"
	CodeNotAgreed        Code = "not-agreed"
	CodeInitials         Code = "initials-differ"
	CodeNoAward          Code = "no-award-fits"
	CodeNotAuthorised    Code = "not-authorised"
	CodeNameDiffers      Code = "name-differs"
	CodeNotEligible      Code = "not-eligible"
)

// Obstacle is one thing that stops an application being sent.
type Obstacle struct {
	Code    Code
	Section Key // where to mend it
	Place   Place
	Move    lifecycle.Move
	Have    int64 // what there is: words, minor units, days …
	Limit   int64 // what the limit is, in the same unit
	Day     calendar.Date
	Name    string      // a person, a file, a line or a part of an address
	Detail  string      // a slot.Fault, a rule's own sentence
	Mend    budget.Mend // of a share of a budget: what would mend it
}

// MoveOf says whose move a draft is: the applicant's when any obstacle is
// theirs, else a third party's when any is, else the applicant's: to send it.
func MoveOf(obstacles []Obstacle) lifecycle.Move {
	third := false
	for _, o := range obstacles {
		if o.Move == lifecycle.Applicant {
			return lifecycle.Applicant
		}
		third = true
	}
	if third {
		return lifecycle.Third
	}
	return lifecycle.Applicant
}
