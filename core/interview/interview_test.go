package interview

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"
	_ "time/tzdata"

	"ulvant/core/calendar"
	"ulvant/core/refusal"
)

func zone(t testing.TB, name string) *time.Location {
	t.Helper()
	z, err := time.LoadLocation(name)
	if err != nil {
		t.Fatal(err)
	}
	return z
}

func shown(list []time.Time, z *time.Location) (out []string) {
	for _, at := range list {
		out = append(out, at.In(z).Format("15:04"))
	}
	return out
}

// Days as an officer lays them out; the times are counted by hand.
func TestSlots(t *testing.T) {
	lisbon := zone(t, "Europe/Lisbon")
	day := calendar.NewDate(2027, 3, 16)
	for _, c := range []struct {
		name  string
		day   Day
		want  []string
		field string
	}{
		{"a morning", Day{day, 9 * 60, 11 * 60, 30, 10, 0, 0}, []string{"09:00", "09:40", "10:20"}, ""},
		{"ends to the minute", Day{day, 9 * 60, 10 * 60, 30, 0, 0, 0}, []string{"09:00", "09:30"}, ""},
		{"a break", Day{day, 11 * 60, 15 * 60, 45, 15, 12*60 + 30, 13*60 + 30}, []string{"11:00", "13:30"}, ""},
		{"a break that ends as one begins", Day{day, 12 * 60, 14 * 60, 60, 0, 13 * 60, 13 * 60}, []string{"12:00", "13:00"},
			""},
		{"no day", Day{0, 9 * 60, 11 * 60, 30, 0, 0, 0}, nil, "date"},
		{"too short", Day{day, 9 * 60, 11 * 60, 4, 0, 0, 0}, nil, "minutes"},
		{"too long", Day{day, 0, 1440, 241, 0, 0, 0}, nil, "minutes"},
		{"no room", Day{day, 9 * 60, 9*60 + 29, 30, 0, 0, 0}, nil, "until"},
		{"past midnight", Day{day, 23 * 60, 24*60 + 1, 30, 0, 0, 0}, nil, "until"},
		{"a break that ends before it begins", Day{day, 9 * 60, 17 * 60, 30, 0, 800, 700}, nil, "break"},
		{"a break all day", Day{day, 9 * 60, 17 * 60, 30, 0, 9 * 60, 17 * 60}, nil, "break"},
		{"101 of them", Day{day, 0, 505, 5, 0, 0, 0}, nil, "until"},
		{"backwards", Day{day, 9 * 60, 17 * 60, 30, -1, 0, 0}, nil, "between"},
	} {
		got, err := c.day.Slots(lisbon)
		if no, _ := refusal.Of(err); no.Field != c.field || !slices.Equal(shown(got, lisbon), c.want) {
			t.Errorf("%s: %v %v, want %v and a fault in %q", c.name, shown(got, lisbon), err, c.want, c.field)
		}
	}
	// A day on which the clocks go forward: 28 March 2027, 01:00 to 02:00 in Lisbon
	// (EU directive 2000/84/EC, articles 1 to 3): nobody is met at one.
	got, _ := Day{calendar.NewDate(2027, 3, 28), 0, 180, 60, 0, 0, 0}.Slots(lisbon)
	if !slices.Equal(shown(got, lisbon), []string{"00:00", "02:00"}) || got[1].Sub(got[0]) != time.Hour {
		t.Errorf("on the short night: %v", got)
	}
	if got, _ = (Day{calendar.NewDate(2027, 10, 31), 0, 180, 60, 0, 0,
		0}).Slots(lisbon); got[1].Sub(got[0]) != 2*time.Hour {
		t.Errorf("on the long night: %v", got)
	}
}

// Half past nine in Lisbon is half past six in the evening in Tokyo in March, and
// half past one at night in Los Angeles, where the clocks have gone forward already
// (common practice, no source).
func TestAsleep(t *testing.T) {
	at := time.Date(2027, 3, 16, 9, 30, 0, 0, time.UTC)
	for _, c := range []struct {
		zone    string
		at      time.Time
		minutes int
		want    bool
	}{
		{"Europe/Lisbon", at, 30, false}, {"Asia/Tokyo", at, 30, false}, {"America/Los_Angeles", at, 30, true},
		{"Asia/Tokyo", at.Add(2 * time.Hour), 30, false}, // until nine
		{"Asia/Tokyo", at.Add(2 * time.Hour), 31, true},
		{"Europe/Lisbon", at.Add(-90 * time.Minute), 30, false}, // from eight
		{"Europe/Lisbon", at.Add(-91 * time.Minute), 30, true},
		{"Pacific/Auckland", at.Add(90 * time.Minute), 60, true}, // over midnight
	} {
		if got := Asleep(c.at, c.minutes, zone(t, c.zone)); got != c.want {
			t.Errorf("%s at %s for %d min: %v", c.zone, c.at.In(zone(t, c.zone)).Format("15:04"), c.minutes, got)
		}
	}
}

// Three people and three times; whoever is abroad gets the one at which they are up.
func TestGive(t *testing.T) {
	lisbon, tokyo := zone(t, "Europe/Lisbon"), zone(t, "Asia/Tokyo")
	day := time.Date(2027, 3, 16, 0, 0, 0, 0, time.UTC)
	slots := []Slot{{day.Add(15 * time.Hour), 30, 1}, {day.Add(9 * time.Hour), 30, 1}, {day.Add(14 * time.Hour), 30, 2}}
	here, abroad := Person{Zone: lisbon}, Person{Zone: tokyo}
	for _, c := range []struct {
		name   string
		people []Person
		want   []int
	}{
		{"the earliest", []Person{here}, []int{1}},
		{"abroad first", []Person{here, abroad}, []int{2, 1}},
		{"not by that panel", []Person{{Zone: lisbon, Not: []int64{1}}}, []int{2}},
		{"by no panel", []Person{{Zone: lisbon, Not: []int64{1, 2}}, here}, []int{-1, 1}},
		{"too many", []Person{here, here, here, here}, nil},
		{"nobody", nil, []int{}},
	} {
		got := Give(c.people, slots)
		if c.want != nil && !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
	}
	if got := Give([]Person{here, here, here, here}, slots); slices.Index(got, -1) < 0 || len(got) != 4 {
		t.Errorf("four people at three times: %v", got)
	}
	if got := Give([]Person{here}, nil); !slices.Equal(got, []int{-1}) {
		t.Errorf("no times: %v", got)
	}
}

// Small days by trying every way: as many as can be are met, and of those as few as
// can be at night.
func TestGiveIsBest(t *testing.T) {
	draw := rand.New(rand.NewPCG(18, 1))
	zones := []*time.Location{zone(t, "Europe/Lisbon"), zone(t, "Asia/Tokyo"), zone(t, "America/Los_Angeles")}
	for range 300 {
		var people []Person
		for range 1 + draw.IntN(5) {
			p := Person{Zone: zones[draw.IntN(3)]}
			if draw.IntN(3) == 0 {
				p.Not = []int64{int64(draw.IntN(2))}
			}
			people = append(people, p)
		}
		var slots []Slot
		for range 1 + draw.IntN(5) {
			slots = append(slots, Slot{time.Date(2027, 3, 16, draw.IntN(24), 0, 0, 0, time.UTC), 30, int64(draw.IntN(2))})
		}
		met, nights := worth(people, slots, Give(people, slots))
		best, fewest := 0, 0
		each(len(people), len(slots), func(way []int) {
			if m, n := worth(people, slots, way); m > best || m == best && n < fewest {
				best, fewest = m, n
			}
		})
		if met != best || nights != fewest {
			t.Fatalf("%v at %v: %d met, %d at night; %d and %d can be", people, slots, met, nights, best, fewest)
		}
	}
}

// worth counts who is met, and who at night; -1 for a way that must not be.
func worth(people []Person, slots []Slot, way []int) (met, nights int) {
	taken := map[int]bool{}
	for i, j := range way {
		if j < 0 {
			continue
		}
		if taken[j] || slices.Contains(people[i].Not, slots[j].Panel) {
			return -1, 0
		}
		taken[j] = true
		met++
		if Asleep(slots[j].At, slots[j].Minutes, people[i].Zone) {
			nights++
		}
	}
	return met, nights
}

func each(people, slots int, do func([]int)) {
	way := make([]int, people)
	var at func(i int)
	at = func(i int) {
		if i == people {
			do(way)
			return
		}
		for j := -1; j < slots; j++ {
			way[i] = j
			at(i + 1)
		}
	}
	at(0)
}

// Every zone that is offered is in the time zone database, once.
func TestZones(t *testing.T) {
	seen := map[string]bool{}
	for _, name := range Zones {
		zone(t, name)
		if seen[name] {
			t.Errorf("%s stands twice", name)
		}
		seen[name] = true
	}
}
