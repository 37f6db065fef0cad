// Package lifecycle is the table of an application's life: which event takes
// an entry from which state to which, whose move it is afterwards, and which
// letter goes out. Nothing else decides a state.
package lifecycle

import (
	"slices"

	"ulvant/core/refusal"
)

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
	TakeUp       Event = "take up the invitation"
	Send         Event = "send"
	SendOwing    Event = "send, with a fee to pay"
	Pay          Event = "take the payment"
	PayLate      Event = "let the time to pay run out"
	MayPay       Event = "give more time to pay"
	HandBack     Event = "hand back"
	TakeQuery    Event = "take the query back"
	RunOut       Event = "let the query run out"
	FindComplete Event = "find complete"
	FindEligible Event = "find eligible"
	Refuse       Event = "find not eligible"
	LookAgain    Event = "look at the checks again"
	HandOut      Event = "hand out for reading"
	FinishRead   Event = "finish reading"
	TakeBack     Event = "reopen reading"
	CallIn       Event = "invite to an interview"
	CallOff      Event = "call the interview off"
	FinishMeet   Event = "finish the interview"
	InviteOn     Event = "invite on"
	Award        Event = "award"
	Hold         Event = "put on reserve"
	Decline      Event = "do not award"
	MakeOffer    Event = "make the offer"
	TakeOffer    Event = "accept the offer"
	TurnDown     Event = "decline the offer"
	LetLapse     Event = "let the offer lapse"
	OfferAgain   Event = "open the offer again"
	Withdraw     Event = "withdraw"
)

// Step is one row of the table.
type Step struct {
	From   []State
	Event  Event
	To     State
	Move   Move   // whose move it is afterwards
	Letter string // key of the letter that goes out after its hold; "" for none
	// Unread states are in From only for a stage that nobody reads.
	Unread []State
	// Revises are states of an earlier decision that this one may take the place
	// of, with a reason that is kept.
	Revises []State
	// ByLetter: the applicant learns of it when its letter leaves, and until then
	// sees the state from before.
	ByLetter bool
}

var unread = []State{Eligible}

// Table is every step there is.
var Table = []Step{
	{From: []State{Invited}, Event: TakeUp, To: Draft, Move: Applicant},
	{From: []State{Draft, HandedBack}, Event: Send, To: Sent, Move: Office, Letter: "received"},
	{From: []State{Draft}, Event: SendOwing, To: Owing, Move: Applicant},
	{From: []State{Owing, Unpaid}, Event: Pay, To: Sent, Move: Office, Letter: "received"},
	{From: []State{Owing}, Event: PayLate, To: Unpaid, Move: Nobody},
	{From: []State{Unpaid}, Event: MayPay, To: Owing, Move: Applicant},
	{From: []State{Sent, Complete, Eligible, NotEligible}, Event: HandBack, To: HandedBack, Move: Applicant},
	{From: []State{HandedBack}, Event: TakeQuery, To: Sent, Move: Office},
	{From: []State{HandedBack}, Event: RunOut, To: Sent, Move: Office},
	{From: []State{Sent}, Event: FindComplete, To: Complete, Move: Office},
	{From: []State{Sent, Complete, NotEligible}, Event: FindEligible, To: Eligible, Move: Office},
	{From: []State{Sent, Complete, Eligible}, Event: Refuse, To: NotEligible, Move: Nobody, Letter: "not-eligible",
		ByLetter: true},
	{From: []State{Eligible, NotEligible}, Event: LookAgain, To: Complete, Move: Office},
	{From: []State{Eligible}, Event: HandOut, To: Reading, Move: Reader},
	{From: []State{Reading}, Event: FinishRead, To: Read, Move: Office},
	{From: []State{Read}, Event: TakeBack, To: Reading, Move: Reader},
	{From: []State{Read}, Event: CallIn, To: Interview, Move: Office, Unread: unread},
	{From: []State{Interview}, Event: CallOff, To: Read, Move: Office},
	{From: []State{Interview}, Event: FinishMeet, To: Read, Move: Office},
	{From: []State{Read, Reserve}, Event: InviteOn, To: InvitedOn, Move: Nobody, Letter: "invited", Unread: unread,
		Revises: []State{NotAwarded}, ByLetter: true},
	{From: []State{Read, Reserve}, Event: Award, To: Awarded, Move: Nobody, Letter: "awarded", Unread: unread,
		Revises: []State{NotAwarded, Awarded, OnOffer, Accepted, OfferDown, OfferLapsed}, ByLetter: true},
	{From: []State{Read}, Event: Hold, To: Reserve, Move: Office, Letter: "reserve", Unread: unread,
		Revises: []State{Awarded, NotAwarded, InvitedOn, OnOffer, Accepted, OfferDown, OfferLapsed}, ByLetter: true},
	{From: []State{Read, Reserve}, Event: Decline, To: NotAwarded, Move: Nobody, Letter: "not-awarded", Unread: unread,
		Revises: []State{Awarded, InvitedOn, OnOffer, Accepted}, ByLetter: true},
	{From: []State{Awarded}, Event: MakeOffer, To: OnOffer, Move: Applicant},
	{From: []State{OnOffer, OfferDown, OfferLapsed}, Event: TakeOffer, To: Accepted, Move: Nobody},
	{From: []State{OnOffer, Accepted, OfferLapsed}, Event: TurnDown, To: OfferDown, Move: Nobody},
	{From: []State{OnOffer}, Event: LetLapse, To: OfferLapsed, Move: Nobody},
	{From: []State{Accepted, OfferDown, OfferLapsed}, Event: OfferAgain, To: OnOffer, Move: Applicant},
	{From: []State{Invited, Draft, Owing, Unpaid, Sent, HandedBack, Complete, Eligible, Reading, Read, Interview, Reserve},
		Event: Withdraw, To: Withdrawn, Move: Nobody},
}

// Writes reports a letter that some step of the table sends.
func Writes(letter string) bool {
	return letter != "" && slices.ContainsFunc(Table, func(s Step) bool { return s.Letter == letter })
}

// Next finds the step for an event; the error says why there is none. read
// reports a stage whose applications are read by readers.
func Next(from State, event Event, read bool) (Step, error) {
	for _, s := range Table {
		if s.Event == event && (slices.Contains(s.From, from) || !read && slices.Contains(s.Unread, from)) {
			return s, nil
		}
	}
	return Step{}, refused(from, event)
}

// Between finds the step from one state to another, of those that no reading comes before.
func Between(from, to State) (Step, error) {
	for _, s := range Table {
		if s.To == to && slices.Contains(s.From, from) {
			return s, nil
		}
	}
	return Step{}, refusal.Newf("it is %s now, and cannot become %s", from, to)
}

// refused is an event that a state does not allow.
func refused(from State, event Event) error {
	return refusal.Newf("it is %s now, so you cannot %s", from, event)
}

// Revise finds the step by which a new decision takes the place of an earlier one.
func Revise(from State, event Event) (Step, error) {
	for _, s := range Table {
		if s.Event == event && slices.Contains(s.Revises, from) {
			return s, nil
		}
	}
	return Step{}, refused(from, event)
}

// Tells is the state that a letter of the table tells of; "" for others.
func Tells(letter string) State {
	for _, s := range Table {
		if letter != "" && s.Letter == letter && s.ByLetter {
			return s.To
		}
	}
	return ""
}

// OutcomeEvent is the event that records an outcome.
func OutcomeEvent(outcome State) (Event, bool) {
	switch outcome {
	case InvitedOn:
		return InviteOn, true
	case Awarded:
		return Award, true
	case Reserve:
		return Hold, true
	case NotAwarded:
		return Decline, true
	}
	return "", false
}

// Outcomes are what a stage can be decided with; only the last of a round's
// awards anything.
func Outcomes(last bool) []State {
	if last {
		return []State{Awarded, Reserve, NotAwarded}
	}
	return []State{InvitedOn, Reserve, NotAwarded}
}
