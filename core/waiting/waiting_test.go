package waiting_test

import (
	"slices"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/pattern"
	"ulvant/core/waiting"
)

func day(m time.Month, d, h int) calendar.Wall {
	return calendar.At(calendar.NewDate(2027, m, d), h, 0)
}

// shore closes on 9 April at 16:00 and is read, by two each, until 7 May at 17:00.
func shore(t *testing.T, change func(*form.Design)) *form.Form {
	t.Helper()
	d := pattern.Grants(pattern.Settings{Key: "shore-2027", Name: "Shore repair", Programme: "Shore repair",
		Prefix: "SPR", Contact: "a@b.example", Zone: "Europe/Dublin", Currency: "EUR",
		Fund: 20_000_000, Least: 200_000, Most: 8_000_000, MatchPercent: 15, ReadersEach: 2, HoldMinutes: 30,
		Opens: day(3, 1, 9), Closes: day(4, 9, 16), ChecksBy: day(4, 20, 17), ReadingEnds: day(5, 7, 17), AnswerOn: day(5,
			21, 12), WorkFrom: calendar.NewDate(2027, 7, 1)})
	if change != nil {
		change(d)
	}
	f, _ := form.Draft(d)
	return f
}

// What waits for the office, case by case, as the year goes on.
func TestOf(t *testing.T) {
	read := shore(t, nil)
	unread := shore(t, func(d *form.Design) {
		d.Stages = slices.DeleteFunc(d.Stages, func(s form.Stage) bool { return s.Does == form.Read })
	})
	closes := read.Window().Closes
	ends := read.At(form.ReadingEnd)
	stage := read.FirstStage()
	p := func(s lifecycle.State, given, n int, since time.Time) waiting.Pending {
		return waiting.Pending{Stage: stage, State: s, Given: given, N: n, Since: since}
	}
	early, late := closes.Add(-time.Hour), closes
	for _, c := range []struct {
		name string
		f    *form.Form
		list []waiting.Pending
		now  time.Time
		want []waiting.Task
	}{
		{"nothing", read, nil, ends, nil},
		{"eligible while more can come in", read, []waiting.Pending{p(lifecycle.Eligible, 0, 3, early)},
			closes.Add(-time.Second), nil},
		{"eligible at the closing", read, []waiting.Pending{p(lifecycle.Eligible, 0, 3, early)}, closes,
			[]waiting.Task{{waiting.HandOut, 3, early}}},
		{"eligible where nobody reads", unread, []waiting.Pending{p(lifecycle.Eligible, 0, 3, early)}, early,
			[]waiting.Task{{waiting.DecideAsIs, 3, early}}},
		{"one reader short", read, []waiting.Pending{p(lifecycle.Reading, 1, 2, late)}, closes,
			[]waiting.Task{{waiting.Reader, 2, late}}},
		{"with all its readers", read, []waiting.Pending{p(lifecycle.Reading, 2, 2, late)}, ends, nil},
		{"and not marked when the time is over", read, []waiting.Pending{p(lifecycle.Reading, 2, 2, late)},
			ends.Add(time.Second), []waiting.Task{{waiting.Marks, 2, late}}},
		{"read", read, []waiting.Pending{p(lifecycle.Read, 0, 5, late)}, closes, []waiting.Task{{waiting.Decide, 5, late}}},
		{"to be met", read, []waiting.Pending{p(lifecycle.Interview, 0, 4, late), p(lifecycle.Read, 0, 1, late)}, closes,
			[]waiting.Task{{waiting.Meet, 4, late}, {waiting.Decide, 1, late}}},
		{"decided", read, []waiting.Pending{p(lifecycle.Awarded, 0, 5, late)}, ends, nil},
		{"the oldest of several counts, in the order of a case's way", read,
			[]waiting.Pending{p(lifecycle.Read, 0, 1, late), p(lifecycle.Reading, 0, 2, late),
				p(lifecycle.Reading, 1, 3, early), p(lifecycle.Eligible, 0, 1, late), p(lifecycle.Read, 0, 0, early)}, ends,
			[]waiting.Task{{waiting.HandOut, 1, late}, {waiting.Reader, 5, early}, {waiting.Decide, 1, late}}},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := waiting.Of(c.f, c.list, c.now); !slices.Equal(got, c.want) {
				t.Errorf("%+v, want %+v", got, c.want)
			}
		})
	}
	ready, short := waiting.Readable(read, []waiting.Pending{p(lifecycle.Eligible, 0, 3, early),
		p(lifecycle.Reading, 1, 2, late), p(lifecycle.Reading, 2, 4, late), p(lifecycle.Read, 0, 9, late)})
	if ready != 3 || short != 2 {
		t.Errorf("%d ready, %d short", ready, short)
	}
	if ready, _ := waiting.Readable(unread, []waiting.Pending{p(lifecycle.Eligible, 0, 3, early)}); ready != 0 {
		t.Errorf("%d ready where nobody reads", ready)
	}
}
