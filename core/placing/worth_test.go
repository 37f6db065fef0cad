package placing_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	. "ulvant/core/placing"
)

func TestWorth(t *testing.T) {
	for _, c := range []struct {
		says           string
		s              Standing
		byNeed, wishes int
		want           int64
	}{
		{"by need alone", Standing{Need: 800, Merit: 100}, 100, 0, 80_001},
		{"by merit alone", Standing{Need: 800, Merit: 100}, 0, 0, 10_001},
		{"need 60, merit 40", Standing{Need: 800, Merit: 500}, 60, 0, 68_001},
		{"nothing at all is still worth a place", Standing{}, 50, 10, 1},
		{"a first wish", Standing{Need: 500, Merit: 500, Wish: 1}, 50, 6, 56_001},
		{"a third wish", Standing{Need: 500, Merit: 500, Wish: 3}, 50, 6, 52_001},
		{"who held it before all others", Standing{First: true}, 50, 6, 1_000_001},
	} {
		t.Run(c.says, func(t *testing.T) {
			if got := c.s.Worth(c.byNeed, c.wishes); got != c.want {
				t.Errorf("%d, not %d", got, c.want)
			}
		})
	}
}

func TestOfGreatest(t *testing.T) {
	for _, c := range []struct {
		value, greatest int64
		want            int
	}{{5, 10, 500}, {10, 10, 1000}, {12, 10, 1000}, {0, 10, 0}, {-3, 10, 0}, {1, 3, 333}, {2, 3, 667}, {5, 0, 0},
		{426_000, 852_000, 500}} {
		if got := OfGreatest(c.value, c.greatest); got != c.want {
			t.Errorf("%d of %d: %d, not %d", c.value, c.greatest, got, c.want)
		}
	}
}

// Prizes in order: however many are given and whatever the marks, the order of the
// prizes is that of the marks.
func TestPrizesGoInOrder(t *testing.T) {
	r := rand.New(rand.NewPCG(19, 1))
	for range 300 {
		p := &Problem{}
		prizes := 2 + r.IntN(4)
		for range prizes {
			p.Awards = append(p.Awards, Award{Places: 1})
		}
		marks := r.Perm(1000)[:2+r.IntN(6)]
		for i, m := range marks {
			p.People = append(p.People, Person{Awards: 1})
			for a := range prizes {
				p.Pairs = append(p.Pairs, Pair{Person: i, Award: a, Worth: InOrder(Standing{Merit: m}.Worth(0, 0), a, prizes)})
			}
		}
		got := Solve(p, Usual)
		winners := make([]int, prizes)
		for a := range winners {
			winners[a] = -1
		}
		for _, x := range got.Given {
			winners[p.Pairs[x].Award] = marks[p.Pairs[x].Person]
		}
		slices.SortFunc(marks, func(a, b int) int { return b - a })
		for a, m := range winners {
			if a < len(marks) && m != marks[a] || a >= len(marks) && m != -1 {
				t.Fatalf("%v among %v", winners, marks)
			}
		}
	}
}
