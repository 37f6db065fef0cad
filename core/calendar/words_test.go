package calendar

import (
	"encoding/json"
	"testing"
	"time"
)

func TestWords(t *testing.T) {
	for _, c := range []struct{ in, words, short string }{
		{"2027-07-01", "1 July 2027", "Thu 1 Jul"},
		{"2028-02-29", "29 February 2028", "Tue 29 Feb"},
		{"1999-12-31", "31 December 1999", "Fri 31 Dec"},
	} {
		d := date(t, c.in)
		if d.Words() != c.words || d.Short() != c.short || d.String() != c.in {
			t.Errorf("%s: %q, %q", d, d.Words(), d.Short())
		}
		raw, err := json.Marshal(d)
		var back Date
		if err != nil || json.Unmarshal(raw, &back) != nil || back != d {
			t.Errorf("%s as JSON: %s %v", c.in, raw, err)
		}
		if typed, ok := ParseDate(d.Words()); !ok || typed != d {
			t.Errorf("%q typed back: %s %v", d.Words(), typed, ok)
		}
	}
	w := At(date(t, "2027-04-09"), 16, 5)
	if w.Words() != "9 April 2027, 16:05" || w.String() != "2027-04-09T16:05" || !(Wall{}).IsZero() || w.IsZero() {
		t.Errorf("%q, %q", w.Words(), w.String())
	}
	raw, err := json.Marshal(w)
	var back Wall
	if err != nil || json.Unmarshal(raw, &back) != nil || back != w {
		t.Errorf("as JSON: %s %v", raw, err)
	}
	for _, bad := range []string{`"2027-04-31T16:00"`, `"2027-04-09T25:00"`, `"9 April"`, `"2027-4-9T16:00"`} {
		if json.Unmarshal([]byte(bad), &back) == nil {
			t.Errorf("%s is read as %s", bad, back)
		}
	}
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	if at, _ := w.In(zone); WallOf(at, zone) != w || DateOf(at, zone) != w.Date {
		t.Errorf("there and back: %s", WallOf(at, zone))
	}
}

// Working days, with a holiday of the office's own (common practice, no source).
func TestWorkingDaysBetween(t *testing.T) {
	good := date(t, "2027-03-26") // Good Friday
	off := func(d Date) bool { return !IsWorkingDay(d, nil) || d == good }
	for _, c := range []struct {
		what, from, to string
		off            func(Date) bool
		want           int
	}{
		{"the same day", "2027-03-24", "2027-03-24", nil, 0},
		{"the next day", "2027-03-24", "2027-03-25", nil, 1},
		{"over a weekend", "2027-03-26", "2027-03-29", nil, 1},
		{"from a Saturday to a Sunday", "2027-03-27", "2027-03-28", nil, 0},
		{"two weeks", "2027-03-24", "2027-04-07", nil, 10},
		{"two weeks with a holiday in them", "2027-03-24", "2027-04-07", off, 9},
		{"backwards", "2027-04-07", "2027-03-24", nil, 0},
	} {
		from, to := date(t, c.from), date(t, c.to)
		if got := WorkingDaysBetween(from, to, c.off); got != c.want {
			t.Errorf("%s: %d, want %d", c.what, got, c.want)
		}
		if n := WorkingDaysBetween(from, to, c.off); n > 0 {
			if end := AddWorkingDays(from, n, c.off); end > to || WorkingDaysBetween(end, to, c.off) != 0 {
				t.Errorf("%s: %d days on it is %s", c.what, n, end)
			}
		}
	}
}
