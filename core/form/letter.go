package form

import (
	"ulvant/core/calendar"
)

// Dating is what a referee says of their letter beside its text.
type Dating struct {
	Dated calendar.Date `json:"dated,omitzero"` // the day on the letter
	From  int           `json:"from,omitempty"` // the first year it speaks of
	To    int           `json:"to,omitempty"`   // the last
}

// Asks reports whether a letter's day, and the years it speaks of, are asked.
// A nil Ask asks neither.
func (a *Ask) Asks() (day, years bool) {
	return a != nil && a.LetterMonths > 0, a != nil && a.YearsLeast > 0
}

// LetterFault is why a letter cannot be sent as it is.
type LetterFault string

// The faults of a letter.
const (
	LetterUndated   LetterFault = "undated"
	LetterAhead     LetterFault = "dated ahead"
	LetterOld       LetterFault = "too old"
	LetterNoYears   LetterFault = "no years"
	LetterCrossed   LetterFault = "years crossed"
	LetterFewYears  LetterFault = "too few years"
	LetterYearAhead LetterFault = "year ahead"
)

// Fault of a letter that is sent on a day for a round closing on another; ""
// when it may go. Both ends of the years count: 2021 to 2023 are three years.
func (a *Ask) Fault(d Dating, today, closing calendar.Date) LetterFault {
	day, years := a.Asks()
	if day {
		switch {
		case d.Dated.IsZero():
			return LetterUndated
		case d.Dated > today:
			return LetterAhead
		case d.Dated < closing.AddMonths(-a.LetterMonths):
			return LetterOld
		}
	}
	if years {
		now, _, _ := today.Civil()
		switch {
		case d.From == 0 || d.To == 0:
			return LetterNoYears
		case d.To < d.From:
			return LetterCrossed
		case d.To > now:
			return LetterYearAhead
		case d.To-d.From+1 < a.YearsLeast:
			return LetterFewYears
		}
	}
	return ""
}

// LettersRule is the key under which a case waits for letters that may come after
// the closing.
func LettersRule(question Key) Key { return "letters-" + question }

// PaperRule is the key under which a checker confirms what was signed on paper
// for a question.
func PaperRule(question Key) Key { return "paper-" + question }
