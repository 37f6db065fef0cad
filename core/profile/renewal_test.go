package profile

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

// When an organisation is to be renewed.
func TestRenewal(t *testing.T) {
	now := time.Date(2027, 3, 2, 12, 0, 0, 0, time.UTC)
	ago := func(d time.Duration) *time.Time { at := now.Add(-d); return &at }
	for _, c := range []struct {
		what  string
		s     State
		a     Agreed
		terms int
		says  string
	}{
		{"just agreed", Known, Agreed{2, ago(0)}, 2, ""},
		{"a year ago to the hour", Known, Agreed{2, ago(RenewEvery)}, 2, ""},
		{"longer than a year ago", Known, Agreed{2, ago(RenewEvery + 1)}, 2, "more than a year ago"},
		{"the terms have changed", Known, Agreed{1, ago(time.Hour)}, 2, "have changed"},
		{"known before there were terms", Known, Agreed{}, 1, "have changed"},
		{"there are no terms", Known, Agreed{}, 0, ""},
		{"it is being filled in", Making, Agreed{1, ago(2 * RenewEvery)}, 2, ""},
	} {
		if got := Renewal(c.s, c.a, Terms{Version: c.terms}, now); (got == "") != (c.says == "") ||
			!strings.Contains(got, c.says) {
			t.Errorf("%s: %q, want %q", c.what, got, c.says)
		}
	}
}

// What changed reads as the terms do, with what went before what came in its place.
func TestChanges(t *testing.T) {
	for _, c := range []struct{ before, now, want string }{
		{"One.\nTwo.\nThree.", "One.\nTwo.\nThree.", "=One. =Two. =Three."},
		{"One.\nTwo.\nThree.", "One.\r\n2.\r\n\r\nThree.", "=One. -Two. +2. =Three."},
		{"One.", "One.\nFour.", "=One. +Four."},
		{"One.\nTwo.", "Two.", "-One. =Two."},
		{"", "One.", "+One."}, {"One.", "", "-One."}, {"", "", ""},
	} {
		var got []string
		for _, x := range Changes(c.before, c.now) {
			mark := "="
			if x.Gone {
				mark = "-"
			} else if x.Come {
				mark = "+"
			}
			got = append(got, fmt.Sprint(mark, x.Text))
		}
		if s := strings.Join(got, " "); s != c.want {
			t.Errorf("%q to %q: %s, want %s", c.before, c.now, s, c.want)
		}
	}
}
