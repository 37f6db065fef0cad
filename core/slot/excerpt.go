package slot

import (
	"strconv"
	"strings"
)

// Excerpt is the part of a film or a recording that should be looked at or listened
// to, in seconds from its beginning.
type Excerpt struct{ From, To float64 }

// ExcerptFault is what is wrong with an excerpt.
type ExcerptFault string

// The faults of an excerpt.
const (
	NoExcerpt       ExcerptFault = "none"      // nothing is said, or one end of it
	ExcerptUnread   ExcerptFault = "unread"    // not as minutes and seconds
	ExcerptCrossed  ExcerptFault = "crossed"   // it ends before it begins
	ExcerptBeyond   ExcerptFault = "beyond"    // it ends after the whole
	ExcerptTooLong  ExcerptFault = "too long"  // longer than the slot says
	ExcerptComplete ExcerptFault = ""          // nothing is wrong
	excerptSlack                 = float64(.5) // of a second that a player shows rounded
)

// ReadExcerpt reads both ends as people type them (1:23, 0:01:23, 83) and holds them
// to the length of the whole, 0 when that is not known, and to most seconds.
func ReadExcerpt(from, to string, whole float64, most int) (Excerpt, ExcerptFault) {
	if strings.TrimSpace(from) == "" || strings.TrimSpace(to) == "" {
		return Excerpt{}, NoExcerpt
	}
	a, ok := ParseTime(from)
	b, okb := ParseTime(to)
	e := Excerpt{a, b}
	switch {
	case !ok || !okb:
		return Excerpt{}, ExcerptUnread
	case b <= a:
		return e, ExcerptCrossed
	case whole > 0 && b > whole+excerptSlack:
		return e, ExcerptBeyond
	case most > 0 && b-a > float64(most):
		return e, ExcerptTooLong
	}
	return e, ExcerptComplete
}

// ParseTime reads a place in a recording: seconds, minutes and seconds, or hours,
// minutes and seconds, with colons between. Only the first may go beyond 59.
func ParseTime(s string) (seconds float64, ok bool) {
	parts := strings.Split(strings.TrimSpace(s), ":")
	if len(parts) > 3 {
		return 0, false
	}
	for i, p := range parts {
		n, err := strconv.Atoi(p)
		if err != nil || n < 0 || len(p) > 5 || p[0] == '+' || i > 0 && (n > 59 || len(p) != 2) {
			return 0, false
		}
		seconds = seconds*60 + float64(n)
	}
	return seconds, true
}

// Runs writes a place in a recording as players show it: 1:23, 1:02:03.
func Runs(seconds float64) string {
	n := int(seconds)
	two := func(n int) string {
		if n < 10 {
			return "0" + strconv.Itoa(n)
		}
		return strconv.Itoa(n)
	}
	if n >= 3600 {
		return strconv.Itoa(n/3600) + ":" + two(n/60%60) + ":" + two(n%60)
	}
	return strconv.Itoa(n/60) + ":" + two(n%60)
}
