package fallout_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"ulvant/core/fallout"
)

// shown is a row as it reads: a number, or -1 for one held back.
func shown(r fallout.Row) (out []int) {
	for _, c := range r.Cells {
		if c.Held {
			out = append(out, -1)
		} else {
			out = append(out, c.N)
		}
	}
	return out
}

func TestWhatIsShown(t *testing.T) {
	for _, c := range []struct {
		says   string
		groups []fallout.Group
		want   [][]int // the total first
	}{
		{"enough everywhere", []fallout.Group{{"a", []int{40, 30, 10}}, {"b", []int{50, 20, 0}}},
			[][]int{{90, 50, 10}, {40, 30, 10}, {50, 20, 0}}},
		// three of b went on: held, and a with it, or it could be subtracted
		{"few in one cell", []fallout.Group{{"a", []int{40, 30}}, {"b", []int{50, 3}}},
			[][]int{{90, 33}, {40, -1}, {50, -1}}},
		// b lost two: told as little as two who came through
		{"few fell out", []fallout.Group{{"a", []int{40, 30}}, {"b", []int{50, 48}}}, [][]int{{90, 78}, {40, -1}, {50, -1}}},
		// a group of three is held throughout, the smallest other with it
		{"a small group", []fallout.Group{{"a", []int{40, 30}}, {"b", []int{3, 0}}, {"c", []int{20, 10}}},
			[][]int{{63, 40}, {40, 30}, {-1, 0}, {-1, 10}}},
		{"nobody chose it", []fallout.Group{{"a", []int{40, 30}}, {"b", []int{0, 0}}}, [][]int{{40, 30}, {40, 30}}},
		{"all are few", []fallout.Group{{"a", []int{2, 1}}}, [][]int{{-1, -1}, {-1, -1}}},
	} {
		all, rows := fallout.Table(c.groups)
		got := [][]int{shown(all)}
		for _, r := range rows {
			got = append(got, shown(r))
		}
		if !slices.EqualFunc(got, c.want, slices.Equal[[]int]) {
			t.Errorf("%s: %v, want %v", c.says, got, c.want)
		}
	}
	if _, rows := fallout.Table(nil); rows != nil {
		t.Errorf("of nothing: %v", rows)
	}
}

// A loss that differs by more than chance is pointed out, at its step, and not one
// that could be chance.
func TestWhereOneGroupFallsOut(t *testing.T) {
	_, rows := fallout.Table([]fallout.Group{{"a", []int{200, 180, 60}}, {"b", []int{200, 60, 20}},
		{"c", []int{20, 14, 5}}})
	if !slices.Equal(rows[0].Apart, []int{1}) || !slices.Equal(rows[1].Apart, []int{1}) || rows[2].Apart != nil {
		t.Errorf("%v %v %v", rows[0].Apart, rows[1].Apart, rows[2].Apart)
	}
	if s := rows[0].Cells[2].Share; s.K != 60 || s.N != 200 || s.At != .3 {
		t.Errorf("%+v", s)
	}
}

// An attacker who knows the sums and that figures only fall tries every number for
// what is held back: none that tells of too few can be worked out.
func TestNothingIsGivenAwayBySubtraction(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 800 {
		steps, n := 2+r.IntN(2), 2+r.IntN(2)
		groups := make([]fallout.Group, n)
		for i := range groups {
			at := 1 + r.IntN(12)
			for range steps {
				groups[i].N = append(groups[i].N, at)
				at -= r.IntN(at + 1)
			}
		}
		all, rows := fallout.Table(groups)
		// by step: what each group may have had, every way that adds up
		ways := make([][][]int, steps)
		for s := range steps {
			ways[s] = fills(rows, all.Cells[s], s, 14)
		}
		possible := map[[2]int]map[int]bool{} // (step, group) → values; (−step−1, group) → losses
		note := func(k [2]int, v int) {
			if possible[k] == nil {
				possible[k] = map[int]bool{}
			}
			possible[k][v] = true
		}
		for s := range steps {
			for _, w := range ways[s] {
				if s > 0 && !slices.ContainsFunc(ways[s-1], func(b []int) bool { return falls(b, w) }) {
					continue
				}
				for i, v := range w {
					note([2]int{s, i}, v)
				}
			}
			if s == 0 {
				continue
			}
			for _, b := range ways[s-1] {
				for _, w := range ways[s] {
					if falls(b, w) {
						for i := range w {
							note([2]int{-s, i}, b[i]-w[i])
						}
					}
				}
			}
		}
		for i, g := range groups {
			for s, v := range g.N {
				if v > 0 && v < fallout.Least && len(possible[[2]int{s, i}]) < 2 {
					t.Fatalf("%v: %d at step %d of group %d is given away by %v %v", groups, v, s, i, shown(all), rows)
				}
				if s > 0 {
					if lost := g.N[s-1] - v; lost > 0 && lost < fallout.Least && len(possible[[2]int{-s, i}]) < 2 {
						t.Fatalf("%v: %d lost at step %d of group %d is given away", groups, lost, s, i)
					}
				}
			}
		}
	}
}

// fills are all columns that agree with what is shown at a step.
func fills(rows []fallout.Row, total fallout.Cell, s, most int) (out [][]int) {
	column := make([]int, len(rows))
	var try func(i, sum int)
	try = func(i, sum int) {
		if i == len(rows) {
			if total.Held || sum == total.N {
				out = append(out, slices.Clone(column))
			}
			return
		}
		if c := rows[i].Cells[s]; !c.Held {
			column[i] = c.N
			try(i+1, sum+c.N)
			return
		}
		for v := range most {
			column[i] = v
			try(i+1, sum+v)
		}
	}
	try(0, 0)
	return out
}

func falls(before, after []int) bool {
	for i := range after {
		if after[i] > before[i] {
			return false
		}
	}
	return true
}
