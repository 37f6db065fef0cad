// Package request holds the rules of requests that somebody answers by a link
// of their own: referees, partners, landowners, guardians, co-signers, officers
// of a body, sponsoring bodies. Whatever is asked, the same times hold: when
// somebody is reminded without being asked to, when no more may be written, and
// what an address was probably meant to be when its mail came back.
package request

import (
	"time"

	"ulvant/core/form"
)

// Times after which somebody is reminded without anybody pressing anything.
const (
	AfterHour = time.Hour          // put up and not sent
	AfterDay  = 24 * time.Hour     // put up and not sent, for the second time
	Silent    = 6 * 24 * time.Hour // nothing is heard, or yes was said and nothing came
	BeforeDue = 2 * 24 * time.Hour // whatever is open
	Apart     = 24 * time.Hour     // two reminders to one person lie at least so far apart …
	ApartLeft = AfterHour          // … but for the one that says that a letter is put up and not sent
)

// Reminding is what a reminder hangs on.
type Reminding struct {
	State form.LetterState
	Since time.Time // of the state
	Last  time.Time // reminder of whatever kind; zero for none
	Had   int       // reminders, counted over all ways of reminding
	Most  int       // that one person gets
	Due   time.Time // until when the answer is taken; zero for no date
}

// Awaited reports a state in which an answer is awaited from the person.
func Awaited(s form.LetterState) bool {
	return s == form.Asked || s == form.Accepted || s == form.Uploaded
}

// Next is when the person is reminded next without anybody pressing anything;
// ok is false when they are not reminded any more.
func (r Reminding) Next() (at time.Time, ok bool) {
	if !Awaited(r.State) || r.Had >= r.Most {
		return time.Time{}, false
	}
	from := r.Since
	if r.Last.After(from) {
		from = r.Last
	}
	var times []time.Time
	if r.State == form.Uploaded {
		times = append(times, r.Since.Add(AfterHour), r.Since.Add(AfterDay))
	}
	times = append(times, from.Add(Silent))
	if !r.Due.IsZero() {
		times = append(times, r.Due.Add(-BeforeDue))
	}
	for _, t := range times {
		switch {
		case !t.After(from): // that time is over, or what fell due then was written
			continue
		case !r.Last.IsZero() && t.Before(r.Last.Add(r.apart(t))):
			t = r.Last.Add(r.apart(t))
		}
		if (at.IsZero() || t.Before(at)) && (r.Due.IsZero() || t.Before(r.Due)) {
			at = t
		}
	}
	return at, !at.IsZero()
}

// apart is how far a reminder at t lies at least from the one before it.
func (r Reminding) apart(t time.Time) time.Duration {
	if r.State == form.Uploaded && t.Equal(r.Since.Add(AfterHour)) {
		return ApartLeft
	}
	return Apart
}

// Refused says why somebody cannot be reminded by hand now; "" when they can.
func (r Reminding) Refused(at time.Time) Refusal {
	switch {
	case !Awaited(r.State):
		return NotAwaited
	case r.Had >= r.Most:
		return Enough
	case !r.Last.IsZero() && at.Sub(r.Last) < Apart:
		return TooSoon
	case !r.Due.IsZero() && !at.Before(r.Due):
		return Over
	}
	return ""
}

// Refusal is why somebody is not reminded.
type Refusal string

// The refusals.
const (
	NotAwaited Refusal = "nothing is awaited"
	Enough     Refusal = "as many reminders as there may be"
	TooSoon    Refusal = "reminded within the day"
	Over       Refusal = "its time is over"
)
