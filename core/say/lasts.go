package say

import (
	"time"

	"ulvant/core/phrase"
)

// Lasts is how long something holds, to the minute: “1 hour”, “30 minutes”, “1 hour and
// 30 minutes”, “3 days” from three days on, “48 hours” before; what is under a minute in
// seconds, and less than one of them is “0 seconds”.
func Lasts(d time.Duration) string {
	count := func(one string, each time.Duration) string { return phrase.Count(int64(d/each), one, one+"s") }
	switch {
	case d < time.Minute:
		return count("second", time.Second)
	case d < time.Hour:
		return count("minute", time.Minute)
	case d >= 72*time.Hour && d%(24*time.Hour) == 0:
		return count("day", 24*time.Hour)
	}
	hours := count("hour", time.Hour)
	if d %= time.Hour; d < time.Minute {
		return hours
	}
	return hours + " and " + count("minute", time.Minute)
}
