// Package offer says what becomes of what is offered to whoever was awarded something:
// it is accepted or declined by whom it is offered to, until its day; nobody else answers
// for them but the office, which says why; what is not answered lapses. A case that was
// given several awards answers each for itself, and what came back is free for others.
package offer

import (
	"slices"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
)

// Answer to an offer.
type Answer string

// The answers.
const (
	Open     Answer = "open"
	Accepted Answer = "accepted"
	Declined Answer = "declined"
	Lapsed   Answer = "lapsed" // nobody answered in time
)

// Answers lists them in the order in which they are shown.
var Answers = []Answer{Open, Accepted, Declined, Lapsed}

// CameBack reports what is free for others.
func (a Answer) CameBack() bool { return slices.Contains(Back(), a) }

// Back are the answers after which what was offered is free for others.
func Back() []Answer { return []Answer{Declined, Lapsed} }

// By is who answers.
type By int

// Who may.
const (
	Them   By = iota // to whom it is offered
	Office           // for them, or to correct what was answered; it says why
	Clock
)

// May reports whether an answer may take the place of another at a time; the error says
// why not. Whoever accepted may still decline; what came back is opened again by the
// office alone, since somebody else may have it by now.
func May(from, to Answer, by By, due, now time.Time) error {
	switch {
	case from == to:
		return refusal.Newf("it is %s already", from).But("look at it again")
	case by == Clock && (from != Open || to != Lapsed || now.Before(due)):
		return refusal.New("an offer lapses when its day is over, and only where it is open")
	case by == Clock:
		return nil
	case by == Office && to != Open && to != Accepted && to != Declined:
		return refusal.New("the office opens an offer again, or puts in that it is accepted or declined")
	case by == Office:
		return nil
	case to != Accepted && to != Declined:
		return refusal.New("an offer is accepted or declined")
	case from == Lapsed || from == Open && !now.Before(due):
		return refusal.New("the day by which this could be answered is over").But(
			"write to the office: it may open the offer again, if the money is still there")
	case from == Declined:
		return refusal.New("you declined this").But("write to the office: it may open the offer again, if the money is still there")
	case from == Accepted && to != Declined:
		return refusal.New("it is accepted")
	}
	return nil
}

// State of a case by the answers to all that it was offered: offered while one is open,
// accepted when something is, else declined, or lapsed where nobody said anything.
func State(answers []Answer) lifecycle.State {
	switch has := func(a Answer) bool { return slices.Contains(answers, a) }; {
	case has(Open):
		return lifecycle.OnOffer
	case has(Accepted):
		return lifecycle.Accepted
	case has(Declined):
		return lifecycle.OfferDown
	}
	return lifecycle.OfferLapsed
}

// Line is one thing that is offered: an award by its key, or "" for a sum as a whole.
type Line struct {
	Award  string
	Amount int64 // minor units
}

// Carried is the answer that a line of a new decision starts from: what was said of the
// same award with the same sum before stays said; all else is asked anew.
func Carried(now Line, before map[Line]Answer) Answer {
	if before[now] == Accepted {
		return Accepted
	}
	return Open
}

// RemindDays is how many working days before its end whoever has not answered is reminded.
const RemindDays = 2
