// Package interview lays out the times at which a panel can meet people, and gives
// each person one, so that nobody is met by a panel that must not see them and as
// few as can be at an hour when people sleep where they are.
//
// Giving times is the assignment problem (Kuhn, Naval Research Logistics Quarterly
// 2, 1955): one place for each person, solved by core/assignment.
package interview

import (
	"slices"
	"time"

	"ulvant/core/assignment"
	"ulvant/core/calendar"
	"ulvant/core/refusal"
)

// Hours of the day between which people can be asked to talk, on their own clocks:
// from Wakes to Sleeps.
const (
	Wakes  = 8
	Sleeps = 21
)

// Limits of a day of interviews.
const (
	LeastMinutes = 5
	MostMinutes  = 240
	MostSlots    = 100 // of one day of one panel
)

// Day is one panel's day: from and until are minutes from midnight on the funder's
// clock.
type Day struct {
	Date                 calendar.Date
	From, Until          int
	Minutes, Between     int // of one interview, and between two
	BreakFrom, BreakUpto int // nobody is met then; equal: there is no break
}

// Slots are the beginnings of a day's interviews. A time that the clocks of zone skip
// is left out; one that they show twice is the later.
func (d Day) Slots(zone *time.Location) (out []time.Time, err error) {
	switch {
	case d.Date.IsZero():
		return nil, refusal.In("date", "Give the day.")
	case d.Minutes < LeastMinutes || d.Minutes > MostMinutes:
		return nil, refusal.In("minutes", "An interview is 5 to 240 minutes long.")
	case d.Between < 0 || d.Between > MostMinutes:
		return nil, refusal.In("between", "Between two interviews are 0 to 240 minutes.")
	case d.From < 0 || d.Until > 24*60 || d.From+d.Minutes > d.Until:
		return nil, refusal.In("until", "The day ends after its first interview, and not after midnight.")
	case d.BreakUpto < d.BreakFrom:
		return nil, refusal.In("break", "The break ends after it begins.")
	}
	for at := d.From; at+d.Minutes <= d.Until; {
		if at < d.BreakUpto && at+d.Minutes > d.BreakFrom {
			at = d.BreakUpto
			continue
		}
		if t, kind := calendar.At(d.Date, at/60, at%60).In(zone); kind != calendar.Nonexistent {
			out = append(out, t)
		}
		at += d.Minutes + d.Between
	}
	if len(out) == 0 {
		return nil, refusal.In("break", "The break leaves no time for an interview.")
	}
	if len(out) > MostSlots {
		return nil, refusal.In("until", "A day holds at most 100 interviews of one panel.")
	}
	return out, nil
}

// Asleep reports that an interview touches hours at which nobody in zone can be
// asked to talk.
func Asleep(at time.Time, minutes int, zone *time.Location) bool {
	from := at.In(zone)
	to := from.Add(time.Duration(minutes) * time.Minute)
	last := to.Hour()*60 + to.Minute()
	return from.Hour() < Wakes || last > Sleeps*60 || to.Day() != from.Day()
}

// Slot is a free time of one panel.
type Slot struct {
	At      time.Time
	Minutes int
	Panel   int64
}

// Person is somebody to be met.
type Person struct {
	Zone *time.Location // where they are
	Not  []int64        // panels that must not see them
}

// What a time costs somebody: not to be met outweighs a thousand hours of night, an
// hour of night every order of times, and among times that suit alike the earlier is
// taken.
const (
	night = 1_000_000
	unmet = 1000 * night
)

// Give everybody a time, one at most to each: out[i] is the place of person i's slot,
// -1 where none is left that they can have. As many as can be are given one, as few
// as can be of them at night, and the earlier times are filled first.
func Give(people []Person, slots []Slot) []int {
	out := slices.Repeat([]int{-1}, len(people))
	if len(people) == 0 || len(slots) == 0 {
		return out
	}
	order := make([]int, len(slots)) // slots by time
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return slots[a].At.Compare(slots[b].At) })
	p := assignment.Problem{Each: slices.Repeat([]int{1}, len(people)), Costs: make([][]int64, len(people)),
		Most: append(slices.Repeat([]int{1}, len(slots)), len(people))} // the last is no time at all
	for i, who := range people {
		p.Costs[i] = make([]int64, len(slots)+1)
		p.Costs[i][len(slots)] = unmet
		for place, j := range order {
			switch s := slots[j]; {
			case slices.Contains(who.Not, s.Panel):
				p.Costs[i][j] = assignment.Never
			case Asleep(s.At, s.Minutes, who.Zone):
				p.Costs[i][j] = night + int64(place)
			default:
				p.Costs[i][j] = int64(place)
			}
		}
	}
	for i, given := range assignment.Solve(&p, 0).Given {
		if given[0] < len(slots) {
			out[i] = given[0]
		}
	}
	return out
}
