// Package lifecycle is the table of an application's life: which event takes
// an entry from which state to which, whose move it is afterwards, and which
// letter goes out. Nothing else decides a state.
package lifecycle

import (
	"fmt"
	"slices"
)

// State of an entry: one application in one stage.
type State string

// The states of this table, in the order of a case's life. Lapsed is not
// stored: it is a draft whose window has closed.
const (
	Draft       State = "draft"
	Sent        State = "sent"
	Complete    State = "complete"
	Eligible    State = "eligible"
	NotEligible State = "not eligible"
	Reading     State = "reading"
	Read        State = "read"
	Awarded     State = "awarded"
	Reserve     State = "reserve"
	NotAwarded  State = "not awarded"
	Withdrawn   State = "withdrawn"
	Lapsed      State = "lapsed"
)

// States lists them in order.
var States = []State{Draft, Sent, Complete, Eligible, NotEligible, Reading, Read, Awarded, Reserve, NotAwarded, Withdrawn, Lapsed}

// Decided reports a state in which the panel has spoken.
func (s State) Decided() bool { return s == Awarded || s == Reserve || s == NotAwarded }

// Ended reports a state after which nobody moves.
func (s State) Ended() bool {
	return s == Awarded || s == NotAwarded || s == NotEligible || s == Withdrawn || s == Lapsed
}

// Sealed reports a state that has a seal behind it.
func (s State) Sealed() bool { return s != Draft && s != Lapsed && s != "" }

// Move says who must act next.
type Move string

// The movers.
const (
	Applicant Move = "applicant"
	Third     Move = "third party"
	Office    Move = "office"
	Reader    Move = "reader"
	Nobody    Move = "nobody"
)

// Moves lists them in the order in which they are shown.
var Moves = []Move{Applicant, Third, Office, Reader, Nobody}

// Event takes an entry from one state to another.
type Event string

// The events.
const (
	Send         Event = "send"
	FindComplete Event = "find complete"
	FindEligible Event = "find eligible"
	Refuse       Event = "find not eligible"
	HandOut      Event = "hand out for reading"
	FinishRead   Event = "finish reading"
	TakeBack     Event = "reopen reading"
	Award        Event = "award"
	Hold         Event = "put on reserve"
	Decline      Event = "do not award"
	Withdraw     Event = "withdraw"
)

// Step is one row of the table.
type Step struct {
	From   []State
	Event  Event
	To     State
	Move   Move   // whose move it is afterwards
	Letter string // key of the letter that goes out after its hold; "" for none
}

// Table is every step there is.
var Table = []Step{
	{[]State{Draft}, Send, Sent, Office, "received"},
	{[]State{Sent}, FindComplete, Complete, Office, ""},
	{[]State{Sent, Complete, NotEligible}, FindEligible, Eligible, Office, ""},
	{[]State{Sent, Complete, Eligible}, Refuse, NotEligible, Nobody, "not-eligible"},
	{[]State{Eligible}, HandOut, Reading, Reader, ""},
	{[]State{Reading}, FinishRead, Read, Office, ""},
	{[]State{Read}, TakeBack, Reading, Reader, ""},
	{[]State{Read, Reserve}, Award, Awarded, Nobody, "awarded"},
	{[]State{Read}, Hold, Reserve, Office, "reserve"},
	{[]State{Read, Reserve}, Decline, NotAwarded, Nobody, "not-awarded"},
	{[]State{Draft, Sent, Complete, Eligible, Reading, Read, Reserve}, Withdraw, Withdrawn, Nobody, ""},
}

// Next finds the step for an event; the error says why there is none.
func Next(from State, event Event) (Step, error) {
	for _, s := range Table {
		if s.Event == event && slices.Contains(s.From, from) {
			return s, nil
		}
	}
	return Step{}, fmt.Errorf("it is %s now, so you cannot %s", from, event)
}

// OutcomeEvent is the event that records an outcome.
func OutcomeEvent(outcome State) (Event, bool) {
	switch outcome {
	case Awarded:
		return Award, true
	case Reserve:
		return Hold, true
	case NotAwarded:
		return Decline, true
	}
	return "", false
}

// MoveIn says whose move an entry in this state is. A draft's depends on what
// stands in its way and is worked out in core/form.
func MoveIn(s State) Move {
	if s == Draft {
		return Applicant
	}
	for _, step := range Table {
		if step.To == s {
			return step.Move
		}
	}
	return Nobody
}
