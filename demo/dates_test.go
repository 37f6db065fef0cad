package demo

import (
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
)

// Whatever day the demo is started on, for two years and around every clock
// change, its rounds lie as they should: on working days, in order, one decided,
// one before the panel, one open for another week or so; and their designs compile.
func TestDatesForEveryStart(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	start := time.Date(2026, 11, 1, 0, 30, 0, 0, time.UTC)
	for i := range 731 {
		now := start.AddDate(0, 0, i).Add(time.Duration(i%24) * time.Hour)
		c := Dates(now, zone)
		for what, d := range map[string]RoundDates{"decided": c.Decided, "panel": c.Panel, "open": c.Open} {
			for _, at := range []time.Time{d.Opens, d.Closes, d.ChecksBy, d.ReadingEnds, d.AnswerOn} {
				if !calendar.IsWorkingDay(calendar.DateOf(at, zone), nil) {
					t.Fatalf("started %s: the %s round has a date on %s", now, what, at.In(zone).Format("Mon 2 Jan 2006"))
				}
			}
			if h := d.Closes.In(zone).Hour(); h != 16 {
				t.Fatalf("started %s: the %s round closes at %d:00", now, what, h)
			}
			if _, err := form.Compile(d.Design()); err != nil {
				t.Fatalf("started %s: the %s round does not compile: %v", now, what, err)
			}
		}
		if !c.Decided.AnswerOn.Before(now) || !c.Panel.Closes.Before(now) || !c.Panel.AnswerOn.After(now) ||
			!c.Open.Opens.Before(now) || !c.Open.Closes.After(now.AddDate(0, 0, 7)) {
			t.Fatalf("started %s: the rounds do not lie around now: %+v", now, c)
		}
		names := map[string]bool{c.Decided.Name(): true, c.Panel.Name(): true, c.Open.Name(): true}
		if len(names) != 3 {
			t.Fatalf("started %s: two rounds have one name: %v", now, names)
		}
	}
}
