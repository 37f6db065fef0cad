// Package calendar decides what dates and closing times mean: civil dates,
// local times turned into instants, half-open windows, working days, months
// and ages. It never reads a clock; the instant is always handed in.
//
// Months clamp to the month's end, as dateutil.relativedelta does; ages are
// complete years by month and day (born on 29 February: a year older on
// 1 March). See docs/semantics in shared terms, and check values in tests.
package calendar

import (
	"fmt"
	"time"
)

// Date is a civil date without a zone: days since 31 December of year 0, so
// that the zero Date means "no date".
type Date int32

const secondsPerDay = 86400

// epoch is the Unix time of day 0.
var epoch = time.Date(1, 1, 1, 0, 0, 0, 0, time.UTC).Unix()/secondsPerDay - 1

// NewDate is the civil date y-m-d; days beyond the month roll over.
func NewDate(y int, m time.Month, d int) Date {
	return Date(time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Unix()/secondsPerDay - epoch)
}

// DateOf is the civil date that a clock in zone shows at the instant t.
func DateOf(t time.Time, zone *time.Location) Date {
	y, m, d := t.In(zone).Date()
	return NewDate(y, m, d)
}

func (d Date) utc() time.Time { return time.Unix((int64(d)+epoch)*secondsPerDay, 0).UTC() }

// Civil returns year, month and day.
func (d Date) Civil() (int, time.Month, int) { return d.utc().Date() }

// Weekday of the date.
func (d Date) Weekday() time.Weekday { return d.utc().Weekday() }

// IsZero reports "no date".
func (d Date) IsZero() bool { return d == 0 }

// AddDays moves by whole days.
func (d Date) AddDays(n int) Date { return d + Date(n) }

// AddMonths moves by whole months and clamps to the month's last day:
// 31 August less six months is 28 (or 29) February.
func (d Date) AddMonths(n int) Date {
	y, m, day := d.Civil()
	first := time.Date(y, m+time.Month(n), 1, 0, 0, 0, 0, time.UTC)
	last := first.AddDate(0, 1, -1).Day()
	return NewDate(first.Year(), first.Month(), min(day, last))
}

// AgeOn is the age in complete years on a day, by month and day.
func AgeOn(born, on Date) int {
	by, bm, bd := born.Civil()
	y, m, d := on.Civil()
	age := y - by
	if m < bm || m == bm && d < bd {
		age--
	}
	return age
}

// String is the date as 2006-01-02, or "" for no date.
func (d Date) String() string {
	if d.IsZero() {
		return ""
	}
	return d.utc().Format(time.DateOnly)
}

// Words is the date as an English reader writes it: 1 July 2027.
func (d Date) Words() string { return d.utc().Format("2 January 2006") }

// Short is the date with its weekday and no year: Fri 9 Apr.
func (d Date) Short() string { return d.utc().Format("Mon 2 Jan") }

// MarshalText writes 2006-01-02.
func (d Date) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads 2006-01-02; empty means no date.
func (d *Date) UnmarshalText(b []byte) error {
	if len(b) == 0 {
		*d = 0
		return nil
	}
	t, err := time.Parse(time.DateOnly, string(b))
	if err != nil {
		return fmt.Errorf("%q is not a date; write it as 2027-07-01", b)
	}
	if t.Year() < 1 {
		return fmt.Errorf("%q lies outside the years 1 to 9999", b)
	}
	*d = NewDate(t.Date())
	return nil
}

// typed lists the ways people write a date; day before month, as on the isles.
var typed = []string{
	"2006-01-02", "2 January 2006", "2 Jan 2006", "2/1/2006", "2.1.2006", "2-1-2006",
	"Mon 2 January 2006", "Mon 2 Jan 2006", "Monday 2 January 2006", "January 2, 2006", "2 January, 2006",
}

// ParseDate reads a date as people type it, day before month.
func ParseDate(s string) (Date, bool) {
	for _, layout := range typed {
		if t, err := time.Parse(layout, s); err == nil && t.Year() >= 1000 {
			return NewDate(t.Date()), true
		}
	}
	return 0, false
}

// MonthsBetween counts the complete months from one date to another, the
// month's end clamped: from 31 January to 28 February is one. It is negative
// when to lies before from.
func MonthsBetween(from, to Date) int {
	if to < from {
		return -MonthsBetween(to, from)
	}
	fy, fm, _ := from.Civil()
	y, m, _ := to.Civil()
	n := (y-fy)*12 + int(m-fm)
	if from.AddMonths(n) > to {
		n--
	}
	return n
}
