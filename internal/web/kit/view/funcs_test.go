package view

import (
	"testing"
	"time"
)

func TestByMidnightIsTheDayBefore(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	for at, want := range map[time.Time]string{
		time.Date(2026, 12, 2, 0, 0, 0, 0, zone):      "the end of Tue 1 Dec 2026",
		time.Date(2027, 1, 1, 0, 0, 0, 0, zone):       "the end of Thu 31 Dec 2026",
		time.Date(2026, 12, 2, 0, 1, 0, 0, zone):      "Wed 2 Dec 2026, 00:01",
		time.Date(2026, 6, 30, 23, 0, 0, 0, time.UTC): "the end of Tue 30 Jun 2026", // an hour on, in summer
	} {
		if got := By(at, zone); got != want {
			t.Errorf("%s: %q, want %q", at, got, want)
		}
	}
}
