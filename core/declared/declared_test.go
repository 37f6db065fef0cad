package declared

import (
	"reflect"
	"testing"
)

// What was declared elsewhere, beside what is said here. Invented figures.
func TestWhatWasDeclaredElsewhere(t *testing.T) {
	years := []string{"2024", "2025"}
	for _, c := range []struct {
		name      string
		here      map[string]int64
		there     Elsewhere
		tolerance int64
		state     State
		each      []State
	}{
		{"the same", map[string]int64{"2024": 100, "2025": 200}, Elsewhere{Sums: map[string]int64{"2024": 100, "2025": 200}},
			0,
			Agrees, []State{Agrees, Agrees}},
		{"one differs by one", map[string]int64{"2024": 100, "2025": 201},
			Elsewhere{Sums: map[string]int64{"2024": 100, "2025": 200}}, 0, Differs, []State{Agrees, Differs}},
		{"within a hundredth", map[string]int64{"2024": 101, "2025": 198},
			Elsewhere{Sums: map[string]int64{"2024": 100, "2025": 200}}, 1, Agrees, []State{Agrees, Agrees}},
		{"and beyond it", map[string]int64{"2024": 102, "2025": 200},
			Elsewhere{Sums: map[string]int64{"2024": 100, "2025": 200}}, 1, Differs, []State{Differs, Agrees}},
		{"a year is not there", map[string]int64{"2024": 102, "2025": 200}, Elsewhere{Sums: map[string]int64{"2024": 100}}, 0,
			Missing, []State{Differs, Missing}},
		{"nothing under the reference", nil, Elsewhere{State: Missing}, 0, Missing, nil},
		{"not settled yet", nil, Elsewhere{State: Pending}, 0, Pending, nil},
		{"no answer", nil, Elsewhere{State: Silent}, 0, Silent, nil},
	} {
		r := Compare(years, c.here, c.there, c.tolerance)
		var each []State
		for _, y := range r.Years {
			each = append(each, y.State)
		}
		if r.State != c.state || !reflect.DeepEqual(each, c.each) || r.Settled() != (c.state == Agrees) {
			t.Errorf("%s: %+v", c.name, r)
		}
	}
}
