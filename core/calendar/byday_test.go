package calendar

import (
	"testing"
	"time"
)

func TestByDay(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ at, want string }{
		{"2027-06-01T07:59:59", "2027-06-01T08:00:00"},
		{"2027-06-01T08:00:00", "2027-06-01T08:00:00"},
		{"2027-06-01T19:59:59", "2027-06-01T19:59:59"},
		{"2027-06-01T20:00:00", "2027-06-02T08:00:00"},
		{"2027-06-01T00:00:00", "2027-06-01T08:00:00"},
		{"2027-03-27T23:10:00", "2027-03-28T08:00:00"}, // the clock goes forward that night
		{"2027-12-31T21:00:00", "2028-01-01T08:00:00"},
	} {
		at, err := time.ParseInLocation("2006-01-02T15:04:05", c.at, zone)
		if err != nil {
			t.Fatal(err)
		}
		if got := ByDay(at, zone).In(zone).Format("2006-01-02T15:04:05"); got != c.want {
			t.Errorf("%s: %s, want %s", c.at, got, c.want)
		}
	}
}
