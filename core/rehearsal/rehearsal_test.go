package rehearsal_test

import (
	"context"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/pathtable"
	"ulvant/core/proof"
	"ulvant/core/rehearsal"
	"ulvant/core/request"
	"ulvant/demo"
)

func played(t *testing.T, which int) (*form.Form, *rehearsal.Play) {
	t.Helper()
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	list, err := demo.Designs(time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC), zone)
	if err != nil {
		t.Fatal(err)
	}
	f, err := form.Compile(list[which])
	if err != nil {
		t.Fatal(err)
	}
	tb := pathtable.Make(context.Background(), f, nil, rand.New(rand.NewPCG(1, 2)).IntN)
	var kinds []string
	var troupe []*proof.Applicant
	for _, c := range tb.Columns {
		kinds, troupe = append(kinds, c.Name), append(troupe, tb.Asker.Example(c.Splits))
	}
	return f, rehearsal.Make(f, rehearsal.Troupe(kinds, troupe))
}

// Every programme of the demo can be walked from its opening to the letters: in
// order, nothing taken after the closing, every one who sends gets one letter
// that says so and one that says how it ended, and queues are empty at the end.
func TestEveryProgrammeIsWalked(t *testing.T) {
	for which := range 4 {
		f, p := played(t, which)
		name := f.Design.Name
		if p.Sent < 2 || p.Lapsed < 1 || p.Opens.After(p.Ends) {
			t.Errorf("%s: %d sent, %d lapsed", name, p.Sent, p.Lapsed)
		}
		if !slices.IsSortedFunc(p.Events, func(a, b rehearsal.Event) int { return a.At.Compare(b.At) }) {
			t.Errorf("%s: not in order", name)
		}
		sends, received, ends := 0, 0, 0
		closes := f.Window().Closes
		for _, e := range p.Events {
			switch {
			case e.Says == "sends.":
				sends++
				if !e.At.Before(closes) {
					t.Errorf("%s: %s sends at %s, after the closing", name, e.Who, e.At)
				}
			case e.Part == rehearsal.Mail && strings.Contains(e.Says, "is in”"):
				received++
			case e.Part == rehearsal.Mail && e.At.After(f.At(form.AnswerOn)):
				ends++
				if hold := time.Duration(f.Design.HoldMinutes) * time.Minute; e.At.Before(f.At(form.AnswerOn).Add(hold)) {
					t.Errorf("%s: a letter goes out before its hold", name)
				}
			case strings.Contains(e.Says, "is settled by a person") &&
				!calendar.IsWorkingDay(calendar.DateOf(e.At, f.Zone), nil):
				t.Errorf("%s: the office works on %s", name, e.At.Weekday())
			}
		}
		if sends != p.Sent || received != p.Sent || ends != p.Sent {
			t.Errorf("%s: %d sent, %d told that it is in, %d told how it ended; want %d of each", name, sends, received, ends,
				p.Sent)
		}
		last := p.Days[len(p.Days)-1]
		if last.Office != 0 || last.ToMark != 0 || last.Writing != 0 {
			t.Errorf("%s: at the end wait %+v", name, last)
		}
		if n := p.Until(p.Opens.Add(-time.Hour)); len(n) != 0 {
			t.Errorf("%s: before it opens %v happened", name, n)
		}
		if n := p.Until(p.Ends); n[rehearsal.Mail] == 0 || n[rehearsal.Round] < 2 {
			t.Errorf("%s: at its end only %v happened", name, n)
		}
	}
}

// A silent referee is reminded on the sixth day, one who forgot to send after a
// day: the same times as the real office keeps.
func TestReminders(t *testing.T) {
	_, p := played(t, 0)
	asked, reminded := map[string]time.Time{}, 0
	for _, e := range p.Events {
		switch {
		case e.Says == "is asked by mail.":
			asked[e.Who] = e.At
		case strings.Contains(e.Says, "six days"):
			reminded++
			if got := e.At.Sub(asked[e.Who]); got != request.Silent {
				t.Errorf("%s is reminded after %s", e.Who, got)
			}
		}
	}
	if reminded == 0 {
		t.Error("nobody had to be reminded")
	}
}
