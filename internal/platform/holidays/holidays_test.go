package holidays

import (
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
)

var week = []time.Weekday{time.Monday, time.Tuesday, time.Wednesday, time.Thursday, time.Friday}

// Source: check-values.md, section 6: holidays on weekdays of 2026 and 2027 by
// python holidays 0.10.1 and cal/v2 2.1.13, but for Saturdays and Sundays.
func TestHolidaysOfCountries(t *testing.T) {
	for _, c := range []struct{ country, year, days string }{
		{"GB", "2026", "01-01 04-03 04-06 05-04 05-25 08-31 12-25 12-28"},
		{"GB", "2027", "01-01 03-26 03-29 05-03 05-31 08-30 12-27 12-28"},
		{"IE", "2026", "01-01 02-02 03-17 04-06 05-04 06-01 08-03 10-26 12-25"},
		{"IE", "2027", "01-01 02-01 03-17 03-29 05-03 06-07 08-02 10-25"},
		{"US", "2026", "01-01 01-19 02-16 05-25 06-19 07-03 09-07 10-12 11-11 11-26 12-25"},
		{"US", "2027", "01-01 01-18 02-15 05-31 06-18 07-05 09-06 10-11 11-11 11-25 12-24 12-31"},
	} {
		off, err := Off(c.country, nil, week)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		first, _ := calendar.ParseDate(c.year + "-01-01")
		for d := first; ; d = d.AddDays(1) {
			if !strings.HasPrefix(d.String(), c.year) {
				break
			}
			if calendar.IsWorkingDay(d, nil) && off(d) {
				got = append(got, d.String()[5:])
			}
		}
		if s := strings.Join(got, " "); s != c.days {
			t.Errorf("%s %s: %s, want %s", c.country, c.year, s, c.days)
		}
	}
}

// Days of the office's own, and a promise over Christmas.
func TestOwnDays(t *testing.T) {
	own, err := ParseDays("12-24, 2026-12-29 12-31")
	if err != nil || len(own) != 3 {
		t.Fatal(own, err)
	}
	off, err := Off("IE", own, week)
	if err != nil {
		t.Fatal(err)
	}
	day := func(s string) calendar.Date { d, _ := calendar.ParseDate(s); return d }
	for _, c := range []struct {
		from string
		n    int
		want string
	}{
		// Wed 23 Dec 2026: 24 own, 25 holiday, 26 and 27 weekend, 28, 29 own, 30, 31 own, 1 Jan holiday
		{"2026-12-23", 1, "2026-12-28"}, {"2026-12-23", 2, "2026-12-30"}, {"2026-12-23", 3, "2027-01-04"}, {"2027-12-23", 1,
			"2027-12-27"}, {"2026-06-01", 1, "2026-06-02"},
	} {
		if got := calendar.AddWorkingDays(day(c.from), c.n, off); got.String() != c.want {
			t.Errorf("%d working days from %s: %s, want %s", c.n, c.from, got, c.want)
		}
	}
	for _, bad := range []string{"Christmas", "13-01", "2026-02-30"} {
		if _, err := ParseDays(bad); err == nil {
			t.Errorf("%s is taken", bad)
		}
	}
	if _, err := Off("XX", nil, week); err == nil || !strings.Contains(err.Error(), "known are AT") {
		t.Errorf("a country that is not known: %v", err)
	}
}

// A week that is not Monday to Friday (common practice, no source: Sunday to
// Thursday is worked in many places).
func TestTheWeekThatIsWorked(t *testing.T) {
	off, err := Off("", nil, []time.Weekday{time.Sunday, time.Monday, time.Tuesday, time.Wednesday, time.Thursday})
	if err != nil {
		t.Fatal(err)
	}
	thursday, _ := calendar.ParseDate("2026-12-03")
	if got := calendar.AddWorkingDays(thursday, 1, off); got.String() != "2026-12-06" {
		t.Errorf("the working day after Thursday is %s, want Sunday", got)
	}
	if got := calendar.WorkingDaysBetween(thursday, thursday.AddDays(7), off); got != 5 {
		t.Errorf("a week has %d working days", got)
	}
}
