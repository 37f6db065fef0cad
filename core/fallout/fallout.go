// Package fallout shows where whom a round loses: from begun to funded, by what
// people answered to one coded question. Each share has its interval, so that few
// are not taken for a pattern, and what would tell of fewer than five people is
// held back, with what would give it away by subtraction (five: common practice,
// no source; secondary suppression as in L. Willenborg and T. de Waal, Elements of
// Statistical Disclosure Control, 2001, ch. 4, done greedily).
package fallout

import (
	"slices"

	"ulvant/core/interval"
)

// Least is how many people a figure must tell of.
const Least = 5

// Group is how many with one answer came as far as each step; they only grow
// fewer.
type Group struct {
	Label string
	N     []int // by step
}

// Cell is one figure, or that there is one and it is held back.
type Cell struct {
	N     int
	Held  bool
	Share interval.Share // of those at the first step; only where neither is held
}

// Row is a group as it is shown.
type Row struct {
	Label string
	Cells []Cell
	Apart []int // at the step to these, its loss differs from all others’ by more than chance
}

// Table of groups over the same steps, with all of them together in front. Groups
// of nobody are left out.
func Table(groups []Group) (all Row, rows []Row) {
	groups = slices.DeleteFunc(slices.Clone(groups), func(g Group) bool { return len(g.N) == 0 || g.N[0] == 0 })
	if len(groups) == 0 {
		return all, nil
	}
	steps := len(groups[0].N)
	total := make([]int, steps)
	for _, g := range groups {
		for s, n := range g.N {
			total[s] += n
		}
	}
	held := hold(groups, total)
	all = row(Group{"", total}, func(s int) bool { return held[s][len(groups)] })
	for i, g := range groups {
		rows = append(rows, row(g, func(s int) bool { return held[s][i] }))
	}
	for i, g := range groups {
		for s := 1; s < steps; s++ {
			if held[s][i] || held[s-1][i] || held[s][len(groups)] || held[s-1][len(groups)] {
				continue
			}
			mine := interval.Wilson(g.N[s], g.N[s-1], interval.Z95)
			others := interval.Wilson(total[s]-g.N[s], total[s-1]-g.N[s-1], interval.Z95)
			if interval.Apart(mine, others) {
				rows[i].Apart = append(rows[i].Apart, s)
			}
		}
	}
	return all, rows
}

func row(g Group, held func(s int) bool) Row {
	r := Row{Label: g.Label}
	for s, n := range g.N {
		c := Cell{N: n, Held: held(s)}
		if c.Held {
			c.N = 0
		} else if !held(0) {
			c.Share = interval.Wilson(n, g.N[0], interval.Z95)
		}
		r.Cells = append(r.Cells, c)
	}
	return r
}

// few reports a number that tells of too few people.
func few(n int) bool { return n > 0 && n < Least }

// hold says what is held back, by step and group; the last of each is the total.
func hold(groups []Group, total []int) [][]bool {
	rows := append(slices.Clone(groups), Group{N: total})
	last := len(rows) - 1
	held := make([][]bool, len(total))
	for s := range held {
		held[s] = make([]bool, len(rows))
	}
	// A figure, and what fell out since the last one shown, tell of nobody or of enough.
	alone := func(i int) {
		shown := -1
		for s := range total {
			if held[s][i] {
				continue
			}
			if few(rows[i].N[s]) || shown >= 0 && few(rows[i].N[shown]-rows[i].N[s]) {
				held[s][i] = true
				continue
			}
			shown = s
		}
	}
	for i := range rows {
		alone(i)
	}
	for again := true; again; {
		again = false
		for s := range total {
			if held[s][last] { // the sum is not told: nothing to subtract from
				continue
			}
			for {
				n, sum := 0, 0
				for i := range groups {
					if held[s][i] && open(groups[i], held, i, s) {
						n, sum = n+1, sum+rows[i].N[s]
					}
				}
				if n == 0 || n > 1 && !few(sum) && !steps(groups, held, s) {
					break
				}
				i := smallest(groups, held, s)
				if i < 0 { // all are held: so is the sum, where it could tell of few
					if few(sum) || n == 1 {
						held[s][last] = true
					}
					break
				}
				held[s][i], again = true, true
				alone(i)
			}
		}
	}
	return held
}

// steps reports that those held at a step lost few since the step before, where the
// same are held, so that it could be subtracted.
func steps(groups []Group, held [][]bool, s int) bool {
	for before := s - 1; before >= 0; before-- {
		lost, same := 0, true
		for i, g := range groups {
			if held[s][i] != held[before][i] {
				same = false
			}
			if held[s][i] {
				lost += g.N[before] - g.N[s]
			}
		}
		if same && !held[before][len(groups)] {
			return few(lost)
		}
	}
	return false
}

// open reports that a figure held back could be another: it lies between those
// shown before and after it.
func open(g Group, held [][]bool, i, s int) bool {
	from, to := 0, -1
	for after := s + 1; after < len(g.N); after++ {
		if !held[after][i] {
			from = g.N[after]
			break
		}
	}
	for before := s - 1; before >= 0; before-- {
		if !held[before][i] {
			to = g.N[before]
			break
		}
	}
	return to < 0 || from < to
}

// smallest of those shown at a step that would be open if they were held; -1 for
// none.
func smallest(groups []Group, held [][]bool, s int) int {
	best := -1
	for i, g := range groups {
		if !held[s][i] && open(g, held, i, s) && (best < 0 || g.N[s] < groups[best].N[s]) {
			best = i
		}
	}
	return best
}
