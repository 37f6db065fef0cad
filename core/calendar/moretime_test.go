package calendar

import (
	"testing"
	"time"
)

func TestMoreTime(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	at := func(s string) time.Time {
		x, err := time.ParseInLocation("2006-01-02 15:04", s, zone)
		if err != nil {
			t.Fatal(err)
		}
		return x
	}
	for _, c := range []struct{ what, closes, now, want string }{
		{"before it closes, midweek", "2027-04-06 16:00", "2027-04-05 10:00", "2027-04-08T16:00"}, // Tuesday to Thursday
		{"it closes on a Friday", "2027-04-09 16:00", "2027-04-09 15:50", "2027-04-13T16:00"},
		{"it closed a week ago", "2027-04-09 17:00", "2027-04-16 10:00", "2027-04-20T17:00"},
		{"over the change of the clocks", "2027-03-26 12:00", "2027-03-26 09:00", "2027-03-30T12:00"},
	} {
		if got := MoreTime(at(c.closes), at(c.now), zone, nil).String(); got != c.want {
			t.Errorf("%s: %s, want %s", c.what, got, c.want)
		}
	}
}
