package calendar

import (
	"fmt"
	"time"
)

// Wall is a local date and time without a zone, to the second: what an
// officer types. The zero Wall means "not set".
type Wall struct {
	Date   Date
	Second int32 // since local midnight, 0 to 86399
}

// At is the Wall of a date at hour:minute.
func At(d Date, hour, minute int) Wall { return Wall{d, int32(hour*3600 + minute*60)} }

// WallOf is what a clock in zone shows at t, truncated to the second.
func WallOf(t time.Time, zone *time.Location) Wall {
	l := t.In(zone)
	return Wall{DateOf(t, zone), int32(l.Hour()*3600 + l.Minute()*60 + l.Second())}
}

// IsZero reports "not set".
func (w Wall) IsZero() bool { return w.Date.IsZero() }

// String is 2006-01-02T15:04, with seconds only when there are some.
func (w Wall) String() string {
	if w.IsZero() {
		return ""
	}
	s := fmt.Sprintf("%sT%02d:%02d", w.Date, w.Second/3600, w.Second/60%60)
	if w.Second%60 != 0 {
		s += fmt.Sprintf(":%02d", w.Second%60)
	}
	return s
}

// Words is the moment as people write it: 3 July 2027, 16:00.
func (w Wall) Words() string {
	return fmt.Sprintf("%s, %02d:%02d", w.Date.Words(), w.Second/3600, w.Second/60%60)
}

// MarshalText writes String.
func (w Wall) MarshalText() ([]byte, error) { return []byte(w.String()), nil }

// UnmarshalText reads 2006-01-02T15:04 or 2006-01-02T15:04:05; empty means not set.
func (w *Wall) UnmarshalText(b []byte) error {
	if len(b) == 0 {
		*w = Wall{}
		return nil
	}
	for _, layout := range []string{"2006-01-02T15:04", "2006-01-02T15:04:05"} {
		if t, err := time.Parse(layout, string(b)); err == nil && t.Year() >= 1 {
			*w = WallOf(t, time.UTC)
			return nil
		}
	}
	return fmt.Errorf("%q is not a date and time; write it as 2027-04-09T16:00", b)
}

// Kind says whether a wall time names one instant in its zone.
type Kind string

// The three kinds of wall time.
const (
	Normal      Kind = "normal"
	Ambiguous   Kind = "ambiguous"   // the clock shows it twice
	Nonexistent Kind = "nonexistent" // the clock jumps over it
)

// In is the instant that w means in zone. Where the clock shows w twice, or
// never, it is the later reading: a closing time is read in the applicant's
// favour. time.Date is not used, because it picks differently by zone.
func (w Wall) In(zone *time.Location) (time.Time, Kind) {
	u := (int64(w.Date)+epoch)*secondsPerDay + int64(w.Second)
	offsetAt := func(sec int64) int64 {
		_, off := time.Unix(sec, 0).In(zone).Zone()
		return int64(off)
	}
	before, after := offsetAt(u-secondsPerDay), offsetAt(u+secondsPerDay)
	early, late := u-max(before, after), u-min(before, after)
	earlyFits, lateFits := early+offsetAt(early) == u, late+offsetAt(late) == u
	switch {
	case early == late:
		return time.Unix(late, 0).In(zone), Normal
	case earlyFits && lateFits:
		return time.Unix(late, 0).In(zone), Ambiguous
	case earlyFits:
		return time.Unix(early, 0).In(zone), Normal
	case lateFits:
		return time.Unix(late, 0).In(zone), Normal
	default:
		return time.Unix(late, 0).In(zone), Nonexistent
	}
}

// Window is the half-open span of instants [Opens, Closes).
type Window struct{ Opens, Closes time.Time }

// Phase says where an instant lies against a window.
type Phase string

// The phases of a window.
const (
	Before Phase = "before"
	Open   Phase = "open"
	Closed Phase = "closed"
)

// Phase at t: Closes itself is already closed.
func (w Window) Phase(t time.Time) Phase {
	switch {
	case t.Before(w.Opens):
		return Before
	case t.Before(w.Closes):
		return Open
	default:
		return Closed
	}
}

// AddWorkingDays moves n working days from d; d itself is not counted.
// Days for which off is true do not count; where off is nil, Saturdays and Sundays
// do not. n may be negative.
func AddWorkingDays(d Date, n int, off func(Date) bool) Date {
	step := 1
	if n < 0 {
		step, n = -1, -n
	}
	for n > 0 {
		d = d.AddDays(step)
		if IsWorkingDay(d, off) {
			n--
		}
	}
	return d
}

// WorkingDaysBetween counts the working days after from, up to and including
// to; 0 when to is not after from.
func WorkingDaysBetween(from, to Date, off func(Date) bool) int {
	n := 0
	for d := from.AddDays(1); d <= to; d = d.AddDays(1) {
		if IsWorkingDay(d, off) {
			n++
		}
	}
	return n
}

// IsWorkingDay reports a day on which the office is not off. off knows which days of
// the week are worked; where it is nil they are Monday to Friday.
func IsWorkingDay(d Date, off func(Date) bool) bool {
	if off == nil {
		wd := d.Weekday()
		return wd != time.Saturday && wd != time.Sunday
	}
	return !off(d)
}
