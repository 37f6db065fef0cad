package assignment

import (
	"encoding/csv"
	"math/rand/v2"
	"os"
	"slices"
	"testing"
)

func check(t *testing.T, p Problem, given [][]int) (most int) {
	t.Helper()
	load := make([]int, p.Readers)
	for c, readers := range given {
		seen := map[int]bool{}
		for _, r := range readers {
			if seen[r] || p.Barred != nil && p.Barred(c, r) {
				t.Fatalf("case %d must not be read by %d", c, r)
			}
			seen[r] = true
			load[r]++
			most = max(most, load[r])
		}
	}
	return most
}

// Source: scipy milp on assign_30x10_costs.csv (X is barred) and
// assign_infeasible_9x6.csv (check-values.md, section 3): the first can be done
// with nobody above 9; in the second A1–A4 may use R1–R3 only.
func TestAgainstMilpFixtures(t *testing.T) {
	f, err := os.Open("../../../shared/check-fixtures/assign_30x10_costs.csv")
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	barred := 0
	p := Problem{Cases: 30, Readers: 10, Each: 3, Barred: func(c, r int) bool { return rows[c+1][r+1] == "X" }}
	for c := range 30 {
		for r := range 10 {
			if p.Barred(c, r) {
				barred++
			}
		}
	}
	if barred != 45 {
		t.Fatalf("%d barred pairs read, the fixture has 45", barred)
	}
	given, short := p.Solve()
	if most := check(t, p, given); len(short) > 0 || most != 9 {
		t.Errorf("short %v, greatest load %d, want 9", short, most)
	}
	q := Problem{Cases: 9, Readers: 3, Each: 3}
	if given, short := q.Solve(); len(short) > 0 || check(t, q, given) != 9 {
		t.Errorf("three readers for nine cases read all: %v %v", given, short)
	}
	r := Problem{Cases: 4, Readers: 2, Each: 3}
	if _, short := r.Solve(); len(short) != 4 {
		t.Errorf("two readers cannot be three: %v", short)
	}
}

// The greatest load is the mean rounded up whenever nobody is barred.
func TestEvenSpread(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	for range 200 {
		p := Problem{Cases: 1 + r.IntN(40), Readers: 2 + r.IntN(9)}
		p.Each = 1 + r.IntN(p.Readers)
		given, short := p.Solve()
		want := (p.Cases*p.Each + p.Readers - 1) / p.Readers
		if most := check(t, p, given); len(short) > 0 || most != want {
			t.Fatalf("%+v: greatest load %d, want %d, short %v", p, most, want, short)
		}
	}
}

// Readers mix: their marks can be put on one scale only when every two readers
// are linked through shared cases (check-values.md, section 2: a disconnected
// design must be refused or solved in parts).
func TestReadersMix(t *testing.T) {
	for _, p := range []Problem{{Cases: 15, Readers: 6, Each: 3}, {Cases: 12, Readers: 4, Each: 2},
		{Cases: 40, Readers: 12, Each: 3}} {
		given, _ := p.Solve()
		group := make([]int, p.Readers)
		for i := range group {
			group[i] = i
		}
		for _, readers := range given {
			for _, r := range readers[1:] {
				from, to := group[r], group[readers[0]]
				for i := range group {
					if group[i] == from {
						group[i] = to
					}
				}
			}
		}
		for _, g := range group {
			if g != group[0] {
				t.Errorf("%+v: readers fall into groups that share no case: %v", p, given)
				break
			}
		}
	}
}

// Small problems whose only answer is plain to see.
func TestPlainProblems(t *testing.T) {
	only := func(pairs ...[2]int) func(c, r int) bool { // who may, and nobody else
		return func(c, r int) bool { return !slices.Contains(pairs, [2]int{c, r}) }
	}
	for _, c := range []struct {
		name  string
		p     Problem
		want  [][]int
		short []Short
	}{
		{"nobody reads", Problem{Cases: 2, Each: 1}, [][]int{nil, nil}, []Short{{0, 0}, {1, 0}}},
		{"nothing to read", Problem{Readers: 3, Each: 2}, [][]int{}, nil},
		{"nobody is asked for", Problem{Cases: 1, Readers: 2}, [][]int{nil}, nil},
		{"one may read each", Problem{Cases: 3, Readers: 3, Each: 1, Barred: only([2]int{0, 1}, [2]int{1, 2}, [2]int{2, 0})},
			[][]int{{1}, {2}, {0}}, nil},
		// case 0 may go to both, case 1 to the first alone: the first case must move
		{"one must move", Problem{Cases: 2, Readers: 2, Each: 1, Barred: only([2]int{0, 0}, [2]int{0, 1}, [2]int{1, 0})},
			[][]int{{1}, {0}}, nil},
		{"a chain must move", Problem{Cases: 3, Readers: 3, Each: 1,
			Barred: only([2]int{0, 0}, [2]int{0, 1}, [2]int{1, 0}, [2]int{1, 2}, [2]int{2, 0})}, [][]int{{1}, {2}, {0}}, nil},
		{"one reader reads all that others may not", Problem{Cases: 3, Readers: 2, Each: 1,
			Barred: only([2]int{0, 0}, [2]int{1, 0}, [2]int{2, 0})}, [][]int{{0}, {0}, {0}}, nil},
		{"what is given stays", Problem{Cases: 2, Readers: 2, Each: 1, Kept: [][]int{{0}}}, [][]int{{0}, {1}}, nil},
		{"and is not moved to free somebody", Problem{Cases: 2, Readers: 2, Each: 1, Kept: [][]int{{0}},
			Barred: only([2]int{0, 1}, [2]int{1, 0})}, [][]int{{0}, {0}}, nil},
		{"even where they are more than asked for", Problem{Cases: 1, Readers: 3, Each: 1, Kept: [][]int{{0, 2}}},
			[][]int{{0, 2}}, nil},
		{"one short", Problem{Cases: 2, Readers: 2, Each: 2, Barred: only([2]int{0, 0}, [2]int{0, 1}, [2]int{1, 1})},
			[][]int{{0, 1}, {1}}, []Short{{1, 1}}},
		{"the one who has shared fewest comes", Problem{Cases: 3, Readers: 3, Each: 2, Kept: [][]int{{0, 1}, {0}, {}}},
			[][]int{{0, 1}, {0, 2}, {1, 2}}, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			given, short := c.p.Solve()
			if !slices.EqualFunc(given, c.want, slices.Equal[[]int]) || !slices.Equal(short, c.short) {
				t.Errorf("given %v short %v, want %v short %v", given, short, c.want, c.short)
			}
		})
	}
}
