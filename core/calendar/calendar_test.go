package calendar

import (
	"encoding/csv"
	"os"
	"testing"
	"time"
	_ "time/tzdata"
)

func date(t *testing.T, s string) Date {
	t.Helper()
	var d Date
	if err := d.UnmarshalText([]byte(s)); err != nil {
		t.Fatal(err)
	}
	return d
}

// Source: python zoneinfo on tzdata 2026f (../shared/check-values.md, section 6).
// fold0 is the offset before the change, fold1 the one after (PEP 495); the
// later of the two is ours.
func TestWallAgainstZoneinfo(t *testing.T) {
	f, err := os.Open("../../../shared/check-fixtures/local_deadlines.csv")
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	if len(rows) < 100 {
		t.Fatalf("only %d rows in the fixture", len(rows))
	}
	for _, r := range rows[1:] {
		zone, err := time.LoadLocation(r[0])
		if err != nil {
			t.Fatal(err)
		}
		var w Wall
		if err := w.UnmarshalText([]byte(r[1])); err != nil {
			t.Fatal(err)
		}
		fold0, _ := time.Parse(time.RFC3339, r[3])
		fold1, _ := time.Parse(time.RFC3339, r[4])
		want := fold0
		if fold1.After(want) {
			want = fold1
		}
		got, kind := w.In(zone)
		if !got.Equal(want) || string(kind) != r[2] {
			t.Errorf("%s %s: %s %s, want %s %s", r[0], r[1], got.UTC(), kind, want, r[2])
		}
	}
}

// Source: semantics.md, "Closing"; a round that closes at 16:00 takes
// 15:59:59.999 and not 16:00:00.000. 17:00 meaning 17:00:00: common practice, no source.
func TestWindowIsHalfOpen(t *testing.T) {
	dublin, _ := time.LoadLocation("Europe/Dublin")
	closes, _ := At(NewDate(2027, 4, 9), 16, 0).In(dublin)
	w := Window{closes.AddDate(0, 0, -30), closes}
	for _, c := range []struct {
		at   time.Time
		want Phase
	}{
		{w.Opens.Add(-time.Nanosecond), Before}, {w.Opens, Open},
		{closes.Add(-time.Millisecond), Open}, {closes.Add(-time.Nanosecond), Open},
		{closes, Closed}, {closes.Add(time.Second), Closed},
	} {
		if got := w.Phase(c.at); got != c.want {
			t.Errorf("%s: %s, want %s", c.at, got, c.want)
		}
	}
}

// Source: dateutil.relativedelta 2.8.2 (check-values.md, section 6).
func TestMonthsClamp(t *testing.T) {
	for _, c := range []struct {
		from   string
		months int
		want   string
	}{
		{"2026-08-31", -6, "2026-02-28"}, {"2026-08-30", -6, "2026-02-28"}, {"2026-12-31", -6, "2026-06-30"},
		{"2024-08-31", -6, "2024-02-29"}, {"2028-02-29", -6, "2027-08-29"}, {"2026-10-31", -6, "2026-04-30"},
		{"2028-02-29", -36, "2025-02-28"}, {"2026-01-31", 1, "2026-02-28"}, {"2026-01-31", 2, "2026-03-31"},
		{"2028-01-31", 1, "2028-02-29"},
	} {
		if got := date(t, c.from).AddMonths(c.months); got != date(t, c.want) {
			t.Errorf("%s %+d months = %s, want %s", c.from, c.months, got, c.want)
		}
	}
}

// Source: check-values.md, section 6 (1 March rule; from memory there).
func TestAge(t *testing.T) {
	for _, c := range []struct {
		born, on string
		want     int
	}{
		{"2008-02-29", "2026-02-28", 17}, {"2008-02-29", "2026-03-01", 18}, {"2008-02-29", "2028-02-28", 19},
		{"2008-02-29", "2028-02-29", 20}, {"2000-02-29", "2100-02-28", 99}, {"2001-09-01", "2026-08-31", 24},
		{"2001-09-01", "2026-09-01", 25},
	} {
		if got := AgeOn(date(t, c.born), date(t, c.on)); got != c.want {
			t.Errorf("born %s, on %s: %d, want %d", c.born, c.on, got, c.want)
		}
	}
}

// Source: rickar/cal v2.1.13 WorkdaysFrom, Irish calendar (check-values.md, section 6).
func TestWorkingDays(t *testing.T) {
	off := map[Date]bool{}
	for _, s := range []string{"2027-03-17", "2027-03-29", "2026-12-25", "2026-12-26", "2027-01-01", "2027-12-25",
		"2027-12-26"} {
		off[date(t, s)] = true
	}
	is := func(d Date) bool { return !IsWorkingDay(d, nil) || off[d] }
	for _, c := range []struct {
		from string
		n    int
		want string
	}{
		{"2027-03-22", 5, "2027-03-30"}, {"2027-03-24", 5, "2027-04-01"}, {"2027-03-25", 5, "2027-04-02"},
		{"2027-03-29", 5, "2027-04-05"}, {"2026-12-24", 5, "2027-01-04"}, {"2027-12-22", 5, "2027-12-29"},
		{"2027-03-27", -5, "2027-03-22"}, {"2027-03-22", -5, "2027-03-12"},
	} {
		if got := AddWorkingDays(date(t, c.from), c.n, is); got != date(t, c.want) {
			t.Errorf("%s %+d = %s, want %s", c.from, c.n, got, c.want)
		}
	}
}

func TestTypedDates(t *testing.T) {
	want := NewDate(2027, 7, 1)
	for _, s := range []string{"2027-07-01", "1 July 2027", "1 Jul 2027", "1/7/2027", "01.07.2027", "Thu 1 July 2027"} {
		if d, ok := ParseDate(s); !ok || d != want {
			t.Errorf("%q: %s %v", s, d, ok)
		}
	}
	for _, s := range []string{"", "31 June 2027", "tomorrow", "1/7/27", "2027-13-01"} {
		if d, ok := ParseDate(s); ok {
			t.Errorf("%q was read as %s", s, d)
		}
	}
}

func FuzzParseDate(f *testing.F) {
	f.Add("1 July 2027")
	f.Add("2027-02-30")
	f.Fuzz(func(t *testing.T, s string) {
		if d, ok := ParseDate(s); ok {
			if back, ok := ParseDate(d.String()); !ok || back != d {
				t.Errorf("%q: %s does not read back", s, d)
			}
		}
	})
}

// Source: dateutil.relativedelta (check-values.md, section 6): month ends clamp,
// so 2026-01-31 + 1 month is 02-28, and + 2 months 03-31.
func TestMonthsBetween(t *testing.T) {
	for _, c := range []struct {
		from, to string
		want     int
	}{
		{"2026-01-31", "2026-02-27", 0}, {"2026-01-31", "2026-02-28", 1}, {"2026-01-31", "2026-03-30", 1}, {"2026-01-31",
			"2026-03-31", 2},
		{"2028-01-31", "2028-02-28", 0}, {"2028-01-31", "2028-02-29", 1}, {"2026-08-31", "2026-02-28", -6}, {"2025-02-28",
			"2028-02-29", 36},
	} {
		var from, to Date
		if from.UnmarshalText([]byte(c.from)) != nil || to.UnmarshalText([]byte(c.to)) != nil {
			t.Fatal(c)
		}
		if got := MonthsBetween(from, to); got != c.want {
			t.Errorf("from %s to %s: %d months, want %d", c.from, c.to, got, c.want)
		}
	}
}
