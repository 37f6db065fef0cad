package placing_test

import (
	"fmt"
	"math/rand/v2"
	"os/exec"
	"slices"
	"strings"
	"testing"

	. "ulvant/core/placing"
)

// What a change costs is what trying every placing with the pair in it, or without,
// finds.
func TestWhatAChangeCosts(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 12))
	for n := range 600 {
		p := small(r)
		if n%2 == 0 {
			p.Groups, p.Fund = nil, 0
			for i := range p.People {
				p.People[i].Money = 0
			}
		}
		if len(p.Pairs) == 0 || p.Check() != nil {
			continue
		}
		from := Solve(p, Usual)
		losses := Losses(p, from, everyPair(p))
		for x := range p.Pairs {
			if p.Pairs[x].Held || p.Pairs[x].Barred {
				continue
			}
			for _, give := range []bool{true, false} {
				q := *p
				q.Pairs = slices.Clone(p.Pairs)
				q.Pairs[x].Held, q.Pairs[x].Barred = give, !give
				want, possible := best(&q)
				got, ok := Change(p, from, x, give)
				if ok != possible {
					t.Fatalf("%d: pair %d, %v: %v, trying all: %v\n%+v", n, x, give, ok, possible, p)
				}
				if !ok {
					continue
				}
				holds(t, &q, got)
				if got.Worth != want {
					t.Fatalf("%d: pair %d, %v: %d, trying all: %d\n%+v", n, x, give, got.Worth, want, p)
				}
				if give && (losses[x] < 0 || losses[x] > from.Worth-want) {
					t.Fatalf("%d: pair %d is said to cost %d at least, and costs %d", n, x, losses[x], from.Worth-want)
				}
			}
		}
	}
}

// What a place left empty costs is what trying every placing with one place less finds.
func TestWhatAnEmptyPlaceCosts(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 14))
	for n := range 400 {
		p := small(r)
		if n%2 == 0 {
			p.Groups, p.Fund = nil, 0
			for i := range p.People {
				p.People[i].Money = 0
			}
		}
		if p.Check() != nil {
			continue
		}
		from := Solve(p, Usual)
		for a := range p.Awards {
			less := p.Without(a)
			want, possible := best(less)
			got, ok := Emptied(p, from, a)
			if ok != possible || ok && got.Worth != want {
				t.Fatalf("%d: award %d: %v, trying all: %d %v\n%+v", n, a, got, want, possible, p)
			}
			if ok {
				holds(t, less, got)
			}
		}
	}
}

func everyPair(p *Problem) (out []int) {
	for x := range p.Pairs {
		out = append(out, x)
	}
	return out
}

func TestSums(t *testing.T) {
	p := &Problem{
		Awards: []Award{{Places: 2, Least: 500, Most: 900, Purse: 1500}, {Places: 1, Least: 400, Most: 400}},
		People: []Person{{}, {Money: 1000}, {}},
		Pairs: []Pair{{Person: 0, Award: 0, Worth: 10}, {Person: 1, Award: 0, Worth: 30}, {Person: 1, Award: 1, Worth: 5},
			{Person: 2, Award: 1, Worth: 9}},
	}
	for _, c := range []struct {
		says  string
		given []int
		fund  int64
		want  []int64
	}{
		{"the purse goes to whoever is worth more first", []int{0, 1}, 0, []int64{600, 900}},
		{"what a person may have is kept to", []int{1, 2}, 0, []int64{600, 400}},
		{"so is the fund", []int{0, 3}, 1000, []int64{600, 400}},
	} {
		t.Run(c.says, func(t *testing.T) {
			q := *p
			q.Fund = c.fund
			if got := Sums(&q, c.given); !slices.Equal(got, c.want) {
				t.Errorf("%v, not %v", got, c.want)
			}
		})
	}
}

func TestTooMuchIsHeld(t *testing.T) {
	two := []Pair{{Person: 0, Award: 0, Worth: 1, Held: true}, {Person: 0, Award: 1, Worth: 1, Held: true}}
	awards := []Award{{Places: 1, Least: 3, Most: 3}, {Places: 1, Least: 3, Most: 3}}
	for _, c := range []struct {
		says string
		p    Problem
		ok   bool
	}{
		{"both can be", Problem{Awards: awards, People: []Person{{}}, Pairs: two}, true},
		{"just as many", Problem{Awards: awards, People: []Person{{Awards: 2, Money: 6}}, Pairs: two, Fund: 6}, true},
		{"one each", Problem{Awards: awards, People: []Person{{Awards: 1}}, Pairs: two}, false},
		{"no more than 5", Problem{Awards: awards, People: []Person{{Money: 5}}, Pairs: two}, false},
		{"a fund of 5", Problem{Awards: awards, People: []Person{{}}, Pairs: two, Fund: 5}, false},
		{"they exclude each other", Problem{Awards: awards, People: []Person{{}}, Pairs: two,
			Groups: []Group{{Awards: []int{0, 1}, Most: 1}}}, false},
		{"no place", Problem{Awards: []Award{{Places: 1, Least: 3, Purse: 2}, awards[1]}, People: []Person{{}}, Pairs: two},
			false},
	} {
		t.Run(c.says, func(t *testing.T) {
			if err := c.p.Check(); (err == nil) != c.ok {
				t.Error(err)
			}
		})
	}
}

// Debian’s glpk-utils find the same, where they are installed.
func TestAgainstGlpk(t *testing.T) {
	bin, err := exec.LookPath("glpsol")
	if err != nil {
		t.Skip("glpk-utils is not installed")
	}
	r := rand.New(rand.NewPCG(20, 13))
	for n := range 200 {
		p := large(8+r.IntN(20), 4+r.IntN(8), uint64(n+1), 3000, Person{Awards: r.IntN(4), Money: int64(r.IntN(2) * 3000)})
		for x := range p.Pairs {
			p.Pairs[x].Worth++
		}
		if r.IntN(2) == 0 {
			p.Fund = int64(5000 + r.IntN(15000))
		}
		if r.IntN(2) == 0 {
			p.Groups = []Group{{Awards: r.Perm(len(p.Awards))[:3], Most: 1}}
		}
		cmd := exec.Command(bin, "--lp", "/dev/stdin", "-w", "/dev/stdout", "--mipgap", "0")
		cmd.Stdin = strings.NewReader(inLP(p))
		out, err := cmd.Output()
		if err != nil {
			t.Fatal(err)
		}
		var want int64 = -1
		for line := range strings.Lines(string(out)) {
			if strings.HasPrefix(line, "c Objective:") {
				fmt.Sscanf(line, "c Objective: obj = %d", &want)
			}
		}
		got := Solve(p, Usual)
		holds(t, p, got)
		if got.Worth != want || !got.Proved() {
			t.Fatalf("%d: %d, at most %d; glpsol: %d", n, got.Worth, got.Bound, want)
		}
	}
}

// inLP writes a placing as CPLEX LP, which glpsol reads.
func inLP(p *Problem) string {
	var s strings.Builder
	sum := func(factor func(x Pair) int64, of func(x Pair) bool) bool {
		any := false
		for k, x := range p.Pairs {
			if of(x) {
				fmt.Fprintf(&s, " + %d x%d", factor(x), k)
				any = true
			}
		}
		return any
	}
	one := func(Pair) int64 { return 1 }
	costs := func(x Pair) int64 { return p.Awards[x.Award].Least }
	s.WriteString("Maximize\n obj:")
	sum(func(x Pair) int64 { return x.Worth }, func(Pair) bool { return true })
	s.WriteString("\nSubject To\n")
	for a, award := range p.Awards {
		if sum(one, func(x Pair) bool { return x.Award == a }) {
			fmt.Fprintf(&s, " <= %d\n", award.Places)
		}
	}
	for i, who := range p.People {
		of := func(x Pair) bool { return x.Person == i }
		if who.Awards > 0 && sum(one, of) {
			fmt.Fprintf(&s, " <= %d\n", who.Awards)
		}
		if who.Money > 0 && sum(costs, of) {
			fmt.Fprintf(&s, " <= %d\n", who.Money)
		}
		for _, g := range p.Groups {
			if sum(one, func(x Pair) bool { return x.Person == i && slices.Contains(g.Awards, x.Award) }) {
				fmt.Fprintf(&s, " <= %d\n", g.Most)
			}
		}
	}
	if p.Fund > 0 && sum(costs, func(Pair) bool { return true }) {
		fmt.Fprintf(&s, " <= %d\n", p.Fund)
	}
	s.WriteString("Binary\n")
	for k := range p.Pairs {
		fmt.Fprintf(&s, " x%d\n", k)
	}
	s.WriteString("End\n")
	return s.String()
}
