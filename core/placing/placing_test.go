package placing_test

import (
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"os"
	"strconv"
	"testing"

	. "ulvant/core/placing"
)

// draws of the generator of check-values.md, sections 3 and 13.
type draws uint64

func (d *draws) next() uint64 {
	*d = *d*6364136223846793005 + 1442695040888963407
	return uint64(*d) >> 33
}

// large is a placing of section 13.
func large(people, awards int, seed, p uint64, who Person) *Problem {
	d := draws(seed)
	need, merit := make([]int64, people), make([]int64, people)
	for i := range people {
		need[i], merit[i] = int64(d.next()%100), int64(d.next()%100)
	}
	out := &Problem{People: make([]Person, people)}
	for i := range out.People {
		out.People[i] = who
	}
	weight := make([]int64, awards)
	for a := range awards {
		places := 1 + int(d.next()%5)
		amount := int64(300 + 100*(d.next()%30))
		weight[a] = int64(d.next() % 101)
		out.Awards = append(out.Awards, Award{Places: places, Least: amount, Most: amount})
	}
	for i := range people {
		for a := range awards {
			if d.next()%10000 < p {
				out.Pairs = append(out.Pairs, Pair{Person: i, Award: a, Worth: weight[a]*need[i] + (100-weight[a])*merit[i]})
			}
		}
	}
	return out
}

// The large placings of section 13, by HiGHS; the first pairs and the sums show that
// they are drawn alike.
func TestLargePlacings(t *testing.T) {
	for _, c := range []struct {
		people, awards          int
		seed, p                 uint64
		pairs, places           int
		sum                     int64
		first                   Pair
		one, two, threeThousand int64
	}{
		{60, 20, 7, 2500, 282, 60, 1363073, Pair{Person: 0, Award: 1, Worth: 7283}, 335267, 427006, 363024},
		{600, 80, 11, 600, 2881, 268, 14157212, Pair{Person: 0, Award: 6, Worth: 6045}, 2034302, 2175660, 1925931},
		{10000, 400, 13, 100, 39921, 1234, 197213625, Pair{Person: 0, Award: 89, Worth: 7420}, 10903164, 11155874, 10397205},
	} {
		t.Run(fmt.Sprintf("%d people, %d awards", c.people, c.awards), func(t *testing.T) {
			p := large(c.people, c.awards, c.seed, c.p, Person{})
			places, sum := 0, int64(0)
			for _, a := range p.Awards {
				places += a.Places
			}
			for _, x := range p.Pairs {
				sum += x.Worth
			}
			if len(p.Pairs) != c.pairs || places != c.places || sum != c.sum || p.Pairs[0] != c.first {
				t.Fatalf("%d pairs, %d places, %d, %v", len(p.Pairs), places, sum, p.Pairs[0])
			}
			for _, x := range []struct {
				says string
				who  Person
				want int64
			}{{"one each", Person{Awards: 1}, c.one}, {"two each", Person{Awards: 2}, c.two},
				{"at most 3,000", Person{Money: 3000}, c.threeThousand}} {
				p := large(c.people, c.awards, c.seed, c.p, x.who)
				got := Solve(p, Usual)
				holds(t, p, got)
				if got.Worth != x.want || !got.Proved() {
					t.Errorf("%s: %d, at most %d; HiGHS: %d", x.says, got.Worth, got.Bound, x.want)
				}
			}
		})
	}
}

// The awards of section 4, by HiGHS.
func TestSixtyPeopleTwentyAwards(t *testing.T) {
	read := func(name string) [][]string {
		f, err := os.Open("../../../shared/check-fixtures/awards_60x20_" + name + ".csv")
		if err != nil {
			t.Fatal(err)
		}
		defer f.Close()
		rows, err := csv.NewReader(f).ReadAll()
		if err != nil {
			t.Fatal(err)
		}
		return rows[1:]
	}
	number := func(s string) int {
		n, err := strconv.Atoi(s)
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	var p Problem
	at := map[string]int{}
	for i, r := range read("awards") {
		at[r[0]] = i
		p.Awards = append(p.Awards, Award{Places: number(r[1]), Least: int64(number(r[2])), Most: int64(number(r[2]))})
	}
	var caps []int64
	for i, r := range read("applicants") {
		at[r[0]] = i
		caps = append(caps, int64(number(r[2])))
	}
	for _, r := range read("eligible") {
		p.Pairs = append(p.Pairs, Pair{Person: at[r[0]], Award: at[r[1]], Worth: int64(number(r[2]))})
	}
	value := func(x Pair) int64 { return x.Worth }
	for _, c := range []struct {
		says   string
		capped bool
		most   int
		fund   int64
		worth  func(Pair) int64
		want   int64
	}{
		{"a the most value, money of each capped", true, 0, 0, value, 3360},
		{"b one award each", true, 1, 0, value, 3246},
		{"c two each at most", true, 2, 0, value, 3360},
		{"d the most money", true, 0, 0, func(x Pair) int64 { return p.Awards[x.Award].Least }, 52000},
		{"e the most people with one", true, 1, 0, func(Pair) int64 { return 1 }, 37},
		{"f as a, 30,000 in all", true, 0, 30000, value, 2546},
	} {
		t.Run(c.says, func(t *testing.T) {
			q := Problem{Awards: p.Awards, Fund: c.fund, People: make([]Person, len(caps))}
			for i := range q.People {
				q.People[i].Awards = c.most
				if c.capped {
					q.People[i].Money = caps[i]
				}
			}
			for _, x := range p.Pairs {
				x.Worth = c.worth(x)
				q.Pairs = append(q.Pairs, x)
			}
			got := Solve(&q, Usual)
			holds(t, &q, got)
			if got.Worth != c.want || !got.Proved() {
				t.Errorf("%d, at most %d; HiGHS: %d", got.Worth, got.Bound, c.want)
			}
		})
	}
}

// holds reports what a placing breaks.
func holds(t *testing.T, p *Problem, got *Placing) {
	t.Helper()
	if says := breaks(p, got.Given); says != "" {
		t.Error(says)
	}
	sum := int64(0)
	for _, x := range got.Given {
		sum += p.Pairs[x].Worth
	}
	if sum != got.Worth || got.Bound < got.Worth {
		t.Errorf("worth %d, said to be %d, at most %d", sum, got.Worth, got.Bound)
	}
}

// breaks says which condition pairs break; "" for none.
func breaks(p *Problem, given []int) string {
	used, number, money := make([]int, len(p.Awards)), make([]int, len(p.People)), make([]int64, len(p.People))
	spent, all := make([]int64, len(p.Awards)), int64(0)
	in := make([]bool, len(p.Pairs))
	for _, x := range given {
		pair := p.Pairs[x]
		if in[x] {
			return "a pair twice"
		}
		in[x] = true
		least := p.Awards[pair.Award].Least
		used[pair.Award]++
		number[pair.Person]++
		money[pair.Person] += least
		spent[pair.Award] += least
		all += least
	}
	for x, pair := range p.Pairs {
		if pair.Held && !in[x] || pair.Barred && in[x] {
			return "what was settled by hand"
		}
	}
	for a, x := range p.Awards {
		if used[a] > x.Places || x.Purse > 0 && spent[a] > x.Purse {
			return "places or purse of an award"
		}
	}
	for i, who := range p.People {
		if who.Awards > 0 && number[i] > who.Awards || who.Money > 0 && money[i] > who.Money {
			return "what a person may have"
		}
		for _, g := range p.Groups {
			n := 0
			for _, a := range g.Awards {
				for x, pair := range p.Pairs {
					if in[x] && pair.Person == i && pair.Award == a {
						n++
					}
				}
			}
			if n > g.Most {
				return "awards that exclude each other"
			}
		}
	}
	if p.Fund > 0 && all > p.Fund {
		return "the fund"
	}
	return ""
}

// small draws a placing that can be tried out whole, with every kind of condition.
func small(r *rand.Rand) *Problem {
	p := &Problem{}
	for range 2 + r.IntN(4) {
		least := int64(1 + r.IntN(5))
		a := Award{Places: 1 + r.IntN(3), Least: least, Most: least + int64(r.IntN(3))}
		if r.IntN(3) == 0 {
			a.Purse = least * int64(1+r.IntN(3))
		}
		p.Awards = append(p.Awards, a)
	}
	for range 2 + r.IntN(4) {
		p.People = append(p.People, Person{Awards: r.IntN(3), Money: int64(r.IntN(2) * (3 + r.IntN(6)))})
	}
	for i := range p.People {
		for a := range p.Awards {
			if len(p.Pairs) < 13 && r.IntN(2) == 0 {
				p.Pairs = append(p.Pairs, Pair{Person: i, Award: a, Worth: int64(1 + r.IntN(20)), Barred: r.IntN(12) == 0})
			}
		}
	}
	if r.IntN(2) == 0 {
		p.Groups = append(p.Groups, Group{Awards: r.Perm(len(p.Awards))[:2], Most: 1})
	}
	if r.IntN(2) == 0 {
		p.Fund = int64(4 + r.IntN(12))
	}
	for x := range p.Pairs {
		if !p.Pairs[x].Barred && r.IntN(10) == 0 {
			if p.Pairs[x].Held = true; p.Check() != nil {
				p.Pairs[x].Held = false
			}
		}
	}
	return p
}

// best tries every set of pairs.
func best(p *Problem) (worth int64, possible bool) {
	worth = -1
	for bits := range 1 << len(p.Pairs) {
		var given []int
		sum := int64(0)
		for x := range p.Pairs {
			if bits>>x&1 == 1 {
				given = append(given, x)
				sum += p.Pairs[x].Worth
			}
		}
		if sum > worth && breaks(p, given) == "" {
			worth = sum
		}
	}
	return worth, worth >= 0
}

func TestNoPlacingIsWorthMore(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 11))
	flows := 0
	for n := range 1500 {
		p := small(r)
		if n%2 == 0 { // numbers alone: a flow
			p.Groups, p.Fund = nil, 0
			for i := range p.People {
				p.People[i].Money = 0
			}
			flows++
		}
		if p.Check() != nil {
			continue
		}
		want, possible := best(p)
		if !possible {
			t.Fatalf("nothing is possible: %+v", p)
		}
		got := Solve(p, Usual)
		holds(t, p, got)
		if got.Worth != want || !got.Proved() {
			t.Fatalf("%d: %d, at most %d; trying all: %d\n%+v", n, got.Worth, got.Bound, want, p)
		}
	}
}
