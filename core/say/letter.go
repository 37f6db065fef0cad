package say

import (
	"time"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/phrase"
)

// LetterFault says why a letter cannot be sent, and what would make it right.
func LetterFault(a *form.Ask, f form.LetterFault, closing calendar.Date) string {
	switch f {
	case form.LetterUndated:
		return "Give the day on the letter."
	case form.LetterAhead:
		return "The day on the letter lies ahead; give the day it was signed."
	case form.LetterOld:
		return "The letter must be dated " + closing.AddMonths(-a.LetterMonths).Words() +
			" or later; put a newer one in its place."
	case form.LetterNoYears:
		return "Say from which year to which you can speak of them."
	case form.LetterCrossed:
		return "The last year stands before the first."
	case form.LetterYearAhead:
		return "The last year lies ahead."
	case form.LetterFewYears:
		return "The letter must speak of at least " + phrase.Count(int64(a.YearsLeast), "year", "years") + "."
	}
	return string(f)
}

// LetterNeeds says what is asked of a letter beside its text; "" for nothing.
func LetterNeeds(a *form.Ask) string {
	day, years := a.Asks()
	out := ""
	if day {
		when := "at the closing"
		if !a.By.Zero() {
			when = "on the day it is due"
		}
		out = "The letter is at most " + phrase.Count(int64(a.LetterMonths), "month", "months") + " old " + when + "."
	}
	if years {
		out = join(out, "It speaks of at least "+phrase.Count(int64(a.YearsLeast), "year", "years")+".")
	}
	return out
}

func join(a, b string) string {
	if a == "" {
		return b
	}
	return a + " " + b
}

// ReadBy says to an applicant who reads a letter, when they name somebody.
func ReadBy(a *form.Ask) string {
	switch {
	case a == nil || a.Sight == form.SightNever:
		return "You are not shown it."
	case a.Sight == form.SightOpen:
		return "You may read it once it is sent."
	}
	return ""
}

// Enough says how many of those named have to answer; "" for all of them.
func Enough(a *form.Ask, most int) string {
	if a == nil || a.Enough == 0 || a.Enough >= most {
		return ""
	}
	if a.Enough == 1 {
		return "One of up to " + phrase.Count(int64(most), "person", "people") + " is enough."
	}
	return "At least " + phrase.Count(int64(a.Enough), "of them", "of them") + " must answer, of up to " +
		phrase.Count(int64(most), "person", "people") + "."
}

// LettersAwaited says of a case that waits for letters whether they are in.
// until is when the last of them is taken; zero when the time of all is over.
func LettersAwaited(names []string, until, due time.Time, zone *time.Location) (form.Outcome, string) {
	switch {
	case len(names) == 0:
		return form.Holds, "Everything that may come after the closing is in."
	case until.IsZero():
		return form.Person, "It did not come by " + calendar.WallOf(due, zone).Words() + ": " + phrase.List(names) +
			". Decide whether the application goes on without it."
	}
	return form.Person, "Awaited until " + calendar.WallOf(until, zone).Words() + ": " + phrase.List(names) +
		". When it is in, this is settled by itself."
}

// Promised says of a case whether what was to follow has come. due is the instant
// at which its time is over; came is nil while it has not.
func Promised(due time.Time, came *time.Time, at time.Time, zone *time.Location) (form.Outcome, string) {
	last := calendar.DateOf(due.Add(-time.Second), zone).Words()
	switch {
	case came != nil:
		return form.Holds, "It came on " + calendar.DateOf(*came, zone).Words() + "."
	case !at.Before(due):
		return form.Person, "It was to follow by " + last +
			" and did not come. Decide whether the application goes on without it."
	}
	return form.Person, "It is to follow by " + last + ". When it has come, this is settled by itself."
}
