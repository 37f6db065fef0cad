package calendar

import "time"

// moreDays is how many working days more an officer is offered when she gives
// one applicant more time; common practice, no source.
const moreDays = 2

// MoreTime proposes until when one applicant may go on: two working days after
// it closes, or from now when that is over, at the hour at which it closes; off are
// days that are no working days, nil for weekends alone.
func MoreTime(closes, now time.Time, zone *time.Location, off func(Date) bool) Wall {
	from := closes
	if now.After(from) {
		from = now
	}
	return Wall{AddWorkingDays(DateOf(from, zone), moreDays, off), WallOf(closes, zone).Second}
}
