// Package promise says how what a round promised stands: by when, how much of it is
// done, and whether it slips, or will.
package promise

import (
	"time"

	"ulvant/core/calendar"
)

// Kind of what was promised.
type Kind string

// The kinds, in the order of a round’s life.
const (
	LookOver Kind = "look over" // organisations
	Enquiry  Kind = "enquiry"   // questions about the round
	Query    Kind = "query"     // answers to the office’s own questions, to be read
	Time     Kind = "time"      // wishes for more time
	Checks   Kind = "checks"
	Turns    Kind = "turns" // reviewing bodies
	Reading  Kind = "reading"
	Answer   Kind = "answer"  // every case
	Letters  Kind = "letters" // of what was decided
)

// Promise of a kind: what is open, with its day.
type Promise struct {
	Kind Kind
	Who  string // of turns, the body
	Due  time.Time
	Open int
	Done int // by then, or so far
	Late int // of those done, after their day
}

// Standing of a promise.
type Standing string

// The standings.
const (
	Kept   Standing = "kept"
	OnTime Standing = "on time"
	Soon   Standing = "soon"     // due within a few working days, with something open
	Slips  Standing = "slips"    // its day is over, with something open
	Broken Standing = "was late" // all done, some after their day
)

// soonDays are the working days before its day from which a promise is pointed out;
// common practice, no source.
const soonDays = 3

// Stands at a time; off are days that are no working days (nil: weekends alone).
func (p Promise) Stands(now time.Time, zone *time.Location, off func(calendar.Date) bool) Standing {
	switch {
	case p.Open == 0 && p.Late > 0:
		return Broken
	case p.Open == 0:
		return Kept
	case now.After(p.Due):
		return Slips
	case calendar.WorkingDaysBetween(calendar.DateOf(now, zone), calendar.DateOf(p.Due, zone), off) <= soonDays:
		return Soon
	}
	return OnTime
}
