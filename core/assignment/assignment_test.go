package assignment

import (
	"encoding/csv"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"testing"
)

// costs of a file of check-values.md, section 3; X must not be.
func costs(t testing.TB, name string) (out [][]int64) {
	t.Helper()
	f, err := os.Open("../../../shared/check-fixtures/" + name)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	from := 0 // a heading and a first column name what stands there, where there are any
	if _, err := strconv.Atoi(rows[0][0]); err != nil {
		from = 1
	}
	for _, row := range rows[from:] {
		var line []int64
		for _, cell := range row[from:] {
			if cell == "X" {
				line = append(line, Never)
				continue
			}
			n, err := strconv.ParseInt(cell, 10, 64)
			if err != nil {
				t.Fatal(err)
			}
			line = append(line, n)
		}
		out = append(out, line)
	}
	return out
}

func all(n, v int) []int { return slices.Repeat([]int{v}, n) }

// Source: check-values.md, section 3 (scipy milp with HiGHS, networkx network simplex).
func TestOptimaFromOutside(t *testing.T) {
	thirty, twelve, twenty := costs(t, "assign_30x10_costs.csv"), costs(t, "assign_12x5_costs.csv"),
		costs(t, "assign_20x20_costs.csv")
	for _, c := range []struct {
		what string
		p    Problem
		want int64
	}{
		{"30 × 10, 8 to 10 each", Problem{Each: all(30, 3), Costs: thirty, Least: all(10, 8), Most: all(10, 10)}, 1974},
		{"30 × 10, up to 10 each", Problem{Each: all(30, 3), Costs: thirty, Most: all(10, 10)}, 1959},
		{"30 × 10, 9 each", Problem{Each: all(30, 3), Costs: thirty, Least: all(10, 9), Most: all(10, 9)}, 2042},
		{"30 × 10, no limit", Problem{Each: all(30, 3), Costs: thirty, Most: all(10, 30)}, 1869},
		{"12 × 5", Problem{Each: all(12, 2), Costs: twelve, Most: []int{3, 4, 5, 6, 6}}, 217},
		{"20 × 20, one to one", Problem{Each: all(20, 1), Costs: twenty, Most: all(20, 1)}, 1359},
	} {
		plan := Solve(&c.p, 0)
		holds(t, c.what, &c.p, plan)
		if plan.Cost != c.want || !plan.Proved() {
			t.Errorf("%s: %d, want %d", c.what, plan.Cost, c.want)
		}
	}
}

// holds checks a plan against its problem, from nothing but the plan.
func holds(t testing.TB, what string, p *Problem, plan *Plan) {
	t.Helper()
	short := map[int]bool{}
	for _, s := range plan.Short {
		short[s.Case] = true
	}
	for c, readers := range plan.Given {
		if len(readers) != p.Each[c] && !short[c] || len(slices.Compact(slices.Clone(readers))) != len(readers) {
			t.Fatalf("%s: case %d has %v", what, c, readers)
		}
		for _, r := range readers {
			if !p.Allowed(c, r) && !slices.Contains(p.held(c), r) {
				t.Fatalf("%s: %d must not read %d", what, r, c)
			}
		}
		if pair, field := p.keeps(c, readers); !short[c] && (p.Org != nil && pair[0] != None || p.Field != nil && field) {
			t.Fatalf("%s: case %d has %v: %v %v; %+v", what, c, readers, pair, field, p)
		}
	}
	for r, n := range plan.Loads(p.Readers()) {
		if n > p.Most[r] || n < p.least(r) && !slices.Contains(plan.Under, r) {
			t.Fatalf("%s: reader %d has %d", what, r, n)
		}
	}
}

// Source: check-values.md, section 3: 12 places are needed of three readers who have 9.
func TestTheSmallestReason(t *testing.T) {
	p := Problem{Each: all(9, 3), Costs: costs(t, "assign_infeasible_9x6.csv"), Most: []int{3, 3, 3, 7, 7, 7}}
	plan := Solve(&p, 0)
	placed := 0
	for _, readers := range plan.Given {
		placed += len(readers)
	}
	if placed != 24 || len(plan.Short) == 0 {
		t.Fatalf("%d are placed, %+v", placed, plan.Short)
	}
	s := plan.Short[0]
	if !slices.Equal(s.Cases, []int{0, 1, 2, 3}) || !slices.Equal(s.Readers, []int{0, 1, 2}) || s.Needed != 12 ||
		s.Places != 9 {
		t.Errorf("%+v", s)
	}
}

// draws of the generator of check-values.md, sections 3 and 13.
type draws uint64

func (d *draws) next() uint64 {
	*d = *d*6364136223846793005 + 1442695040888963407
	return uint64(*d) >> 33
}

func drawn(cases, readers, each, least, most, orgs, fields int, seed uint64) *Problem {
	d := draws(seed)
	p := &Problem{Each: all(cases, each), Least: all(readers, least), Most: all(readers, most)}
	if orgs > 0 {
		for range readers {
			p.Org = append(p.Org, int(d.next())%orgs)
		}
	}
	if fields > 0 {
		for range readers {
			know := make([]bool, fields)
			know[int(d.next())%fields] = true
			p.Knows = append(p.Knows, know)
		}
		for range cases {
			p.Field = append(p.Field, int(d.next())%fields)
		}
	}
	for range cases {
		row := make([]int64, readers)
		for r := range row {
			row[r] = int64(d.next() % 1000)
			if d.next()%100 < 5 {
				row[r] = Never
			}
		}
		p.Costs = append(p.Costs, row)
	}
	return p
}

// Source: check-values.md, sections 3 and 13 (HiGHS). The first costs show that the
// generator is the same.
func TestLargeOptimaFromOutside(t *testing.T) {
	for _, c := range []struct {
		what  string
		p     *Problem
		first []int64
		want  int64
	}{
		{"500 × 80, 15 to 22", drawn(500, 80, 3, 15, 22, 0, 0, 50080), []int64{122, 901, 939, 718}, 38425},
		{"500 × 80, up to 19", drawn(500, 80, 3, 0, 19, 0, 0, 50080), []int64{122, 901, 939, 718}, 39166},
		{"40 × 14", drawn(40, 14, 3, 6, 10, 0, 0, 101), []int64{407, 551, 383, 657, 192}, 18225},
		{"40 × 14, organisations", drawn(40, 14, 3, 6, 10, 5, 0, 102), []int64{543, 326, 646, 92, 765}, 20839},
		{"2,000 × 300", drawn(2000, 300, 3, 15, 25, 0, 0, 105), []int64{977, 941, 723, 794, 841}, 40220},
	} {
		for r, want := range c.first {
			if got := c.p.Costs[0][r]; got != want && got != Never {
				t.Fatalf("%s: the first costs are %v", c.what, c.p.Costs[0][:5])
			}
		}
		plan := Solve(c.p, 0)
		holds(t, c.what, c.p, plan)
		if plan.Cost != c.want || !plan.Proved() {
			t.Errorf("%s: %d, want %d", c.what, plan.Cost, c.want)
		}
	}
}

var _ = rand.New

// Source: check-values.md, section 13 (HiGHS): both conditions, which cross; and a
// case whose field nobody knows who may read it.
func TestConditionsThatCross(t *testing.T) {
	for _, c := range []struct {
		what  string
		p     *Problem
		first []int64
		want  int64
	}{
		{"40 × 14", drawn(40, 14, 3, 6, 10, 5, 4, 101), []int64{775, 570, 797, 692, 936}, 25841},
		{"500 × 80", drawn(500, 80, 3, 15, 22, 20, 8, 104), []int64{535, 636, 7, 91, 880}, 82497},
	} {
		plan := Solve(c.p, 100)
		holds(t, c.what, c.p, plan)
		if plan.Cost != c.want || plan.Bound > c.want || 100*plan.Bound < 99*c.want {
			t.Errorf("%s: %d, bound %d, want %d", c.what, plan.Cost, plan.Bound, c.want)
		}
	}
	p := drawn(40, 14, 3, 6, 10, 0, 4, 103)
	plan := Solve(p, 0)
	if len(plan.Short) == 0 {
		t.Fatal("it can be done")
	}
	for _, s := range plan.Short {
		if s.Field != p.Field[s.Case] || s.Needed <= s.Places {
			t.Errorf("%+v", s)
		}
		for _, r := range s.Readers {
			if !p.Knows[r][s.Field] {
				t.Errorf("%d does not know field %d", r, s.Field)
			}
		}
	}
}

// brute is the least total there is, over all plans; -1 when there is none.
func brute(p *Problem) int64 {
	best := int64(-1)
	given := make([][]int, len(p.Each))
	var at func(c int)
	at = func(c int) {
		if c == len(p.Each) {
			plan := Plan{Given: given}
			for r, n := range plan.Loads(p.Readers()) {
				if n > p.Most[r] || n < p.least(r) {
					return
				}
			}
			if t := p.total(given); best < 0 || t < best {
				best = t
			}
			return
		}
		for set := range 1 << p.Readers() {
			given[c] = nil
			for r := range p.Readers() {
				if set>>r&1 == 1 {
					given[c] = append(given[c], r)
				}
			}
			pair, field := p.keeps(c, given[c])
			ok := len(given[c]) == p.Each[c] && pair[0] == None && !field
			for _, r := range given[c] {
				ok = ok && (p.Allowed(c, r) || slices.Contains(p.held(c), r))
			}
			for _, r := range p.held(c) {
				ok = ok && slices.Contains(given[c], r)
			}
			if ok {
				at(c + 1)
			}
		}
	}
	at(0)
	return best
}

func small(r *rand.Rand) *Problem {
	cases, readers := 2+r.IntN(3), 3+r.IntN(2)
	p := &Problem{Uneven: int64(r.IntN(3))}
	for range cases {
		p.Each = append(p.Each, 1+r.IntN(2))
		row := make([]int64, readers)
		for i := range row {
			row[i] = int64(r.IntN(20))
			if r.IntN(5) == 0 {
				row[i] = Never
			}
		}
		p.Costs = append(p.Costs, row)
	}
	for range readers {
		p.Most = append(p.Most, 1+r.IntN(3))
		p.Least = append(p.Least, r.IntN(2))
	}
	if r.IntN(2) == 0 {
		for range readers {
			p.Org = append(p.Org, r.IntN(3)-1)
		}
	}
	if r.IntN(2) == 0 {
		for range cases {
			p.Field = append(p.Field, r.IntN(3)-1)
		}
		for range readers {
			p.Knows = append(p.Knows, []bool{r.IntN(2) == 0, r.IntN(2) == 0})
		}
	}
	if r.IntN(3) == 0 {
		p.Held = make([][]int, cases)
		p.Held[0] = []int{r.IntN(readers)}
	}
	return p
}

// Small rounds of every kind against all plans there are.
func TestAgainstAllPlans(t *testing.T) {
	r := rand.New(rand.NewPCG(18, 1))
	solved, not := 0, 0
	for i := range 4000 {
		p := small(r)
		want := brute(p)
		plan := Solve(p, 50)
		if p.Org == nil || p.Field == nil || len(plan.Short) == 0 { // those held may break their limits
			over := false
			for rd, n := range plan.Loads(p.Readers()) {
				over = over || n > p.Most[rd]
			}
			if !over {
				holds(t, strconv.Itoa(i), p, plan)
			}
		}
		done := len(plan.Short) == 0 && len(plan.Under) == 0
		switch crosses := p.Org != nil && p.Field != nil; {
		case want < 0 && done && p.Held == nil:
			t.Fatalf("%d: there is no plan, and %v is one: %+v", i, plan.Given, p)
		case want < 0:
			not++
		case !done && crosses: // a first plan was not found
			t.Logf("%d: not found", i)
		case !done:
			t.Fatalf("%d: %d is the least, and none was found: %+v", i, want, plan)
		case plan.Total < want || plan.Bound > want || !crosses && plan.Total != want:
			t.Fatalf("%d: %d with bound %d, want %d: %+v, %v", i, plan.Total, plan.Bound, want, p, plan.Given)
		default:
			solved++
		}
	}
	if solved < 1000 || not < 300 {
		t.Errorf("%d were solved, %d cannot be", solved, not)
	}
}

// What a change by hand costs is what the best plan with that pair costs more.
func TestChangeByHand(t *testing.T) {
	r := rand.New(rand.NewPCG(18, 2))
	tried := 0
	for i := range 3000 {
		p := small(r)
		p.Held = nil
		if p.Org != nil {
			p.Field, p.Knows = nil, nil
		}
		plan := Solve(p, 0)
		if len(plan.Short)+len(plan.Under) > 0 {
			continue
		}
		c, in := r.IntN(len(p.Each)), r.IntN(p.Readers())
		got, ok := Change(p, plan.Given, c, in)
		with := *p
		with.Held = make([][]int, len(p.Each))
		with.Held[c] = []int{in}
		want := brute(&with)
		if slices.Contains(plan.Given[c], in) || !p.Allowed(c, in) {
			if ok {
				t.Fatalf("%d: nothing is to be changed", i)
			}
			continue
		}
		if p.Each[c] == 1 && !p.knows(c, in) { // of those held nothing is asked; of a change it is
			if ok {
				t.Fatalf("%d: nobody knows the field of %d any more", i, c)
			}
			continue
		}
		if ok != (want >= 0) {
			t.Fatalf("%d: found %v, and the least is %d: %+v from %v, %d to %d", i, ok, want, p, plan.Given, c, in)
		}
		if !ok {
			continue
		}
		tried++
		after := &Plan{Given: got.Given}
		holds(t, strconv.Itoa(i), p, after)
		if p.total(got.Given) != want || got.Costs != want-plan.Total || !slices.Contains(got.Given[c], in) {
			t.Fatalf("%d: %+v %v give %d to %d: %d, said to cost %d, want %d after %d; %+v", i, p, plan.Given, c, in,
				p.total(got.Given), got.Costs, want, plan.Total, got.Moves)
		}
	}
	if tried < 500 {
		t.Errorf("%d were tried", tried)
	}
}

func TestJuriesAndBridges(t *testing.T) {
	given := [][]int{{0, 1}, {1, 2}, {3, 4}, {4, 3}}
	if got := Juries(given, 6); len(got) != 2 || !slices.Equal(got[0], []int{0, 1, 2}) || !slices.Equal(got[1], []int{3,
		4}) {
		t.Fatalf("%v", got)
	}
	p := &Problem{Each: all(4, 2), Most: []int{9, 9, 2, 2, 9, 9}, Costs: [][]int64{
		{0, 0, 0, 7, 5, 1}, {0, 0, 0, 1, 8, 1}, {6, Never, 1, 0, 0, 1}, {9, 9, 9, 0, 0, 1}}}
	got := Bridges(p, given, 2)
	// 3 has no room (2 of 2), 2 has one place, for 1; then 4 reads the first case for 5
	if len(got) != 2 || got[0] != (Bridge{2, 2, 1}) || got[1] != (Bridge{0, 4, 5}) {
		t.Errorf("%v", got)
	}
	for _, b := range got {
		given[b.Case] = append(given[b.Case], b.Reader)
	}
	if n := len(Juries(given, 6)); n != 1 {
		t.Errorf("%d juries are left", n)
	}
}

// 2,000 cases by 300 readers, three each, beside reading every cost once; a change
// by hand beside it.
func BenchmarkHandOut2000By300(b *testing.B) {
	p := drawn(2000, 300, 3, 15, 25, 0, 0, 105)
	var plan *Plan
	b.Run("solve", func(b *testing.B) {
		for b.Loop() {
			plan = Solve(p, 0)
		}
	})
	b.Run("change by hand", func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			c, in := i%2000, 0
			for slices.Contains(plan.Given[c], in) || !p.Allowed(c, in) {
				in++
			}
			if _, ok := Change(p, plan.Given, c, in); !ok {
				b.Fatal("it cannot be changed")
			}
		}
	})
	b.Run("read every cost once", func(b *testing.B) {
		for b.Loop() {
			sum := int64(0)
			for _, row := range p.Costs {
				for _, v := range row {
					sum += v
				}
			}
			if sum == 0 {
				b.Fatal(sum)
			}
		}
	})
}
