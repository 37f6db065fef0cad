package calendar

import "time"

// moreDays is how many working days more an officer is offered when she gives
// one applicant more time; common practice, no source.
const moreDays = 2

// MoreTime proposes until when one applicant may go on: two working days after
// it closes, or from now when that is over, at the hour at which it closes.
func MoreTime(closes, now time.Time, zone *time.Location) Wall {
	from := closes
	if now.After(from) {
		from = now
	}
	return Wall{AddWorkingDays(DateOf(from, zone), moreDays, nil), WallOf(closes, zone).Second}
}
