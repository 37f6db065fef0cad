// Package aid adds up public aid that was given to somebody over three years, and
// holds it to a ceiling. Two readings of three years are in use: a period that
// rolls back from the day of grant (Regulation (EU) 2023/2831, article 3(2) and
// recital 11), and financial years, the one of the grant and those before it
// (Regulation (EU) No 1407/2013, article 3(2), until 2023-12-31; Subsidy Control
// Act 2022, section 36, with years from 1 April). What would go beyond the
// ceiling is not given in part (article 3(7)): it does not fit.
package aid

import (
	"math"
	"time"

	"ulvant/core/calendar"
)

// Window is how far back aid counts.
type Window struct {
	Years int // 3 for both readings: of financial years, the one of the grant among them
	// Financial counts whole financial years, which begin on Month and Day; else
	// the period rolls.
	Financial bool
	Month     time.Month
	Day       int
	// Lenient: of a period that rolls, what was given on the very day so many
	// years before counts no more. The cautious reading (Regulation (EEC, Euratom)
	// No 1182/71, article 3) counts it.
	Lenient bool
}

// Given is aid that was given.
type Given struct {
	On  calendar.Date
	Sum int64 // minor units
}

// From is the first day on which aid counts towards a grant on a day.
func (w Window) From(grant calendar.Date) calendar.Date {
	if !w.Financial {
		from := grant.AddMonths(-12 * w.Years)
		if w.Lenient {
			from = from.AddDays(1)
		}
		return from
	}
	y, m, d := grant.Civil()
	if m < w.Month || m == w.Month && d < w.Day {
		y--
	}
	return calendar.NewDate(y-w.Years+1, w.Month, w.Day)
}

// Counted adds up what counts towards a grant on a day; what was given after it
// does not. ok is false when the sum leaves the range of an int64.
func (w Window) Counted(list []Given, grant calendar.Date) (sum int64, ok bool) {
	from := w.From(grant)
	for _, g := range list {
		if g.On < from || g.On > grant {
			continue
		}
		if g.Sum > 0 && sum > math.MaxInt64-g.Sum {
			return sum, false
		}
		sum += g.Sum
	}
	return sum, true
}
