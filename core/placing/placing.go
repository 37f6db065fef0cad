// Package placing gives many awards to many people at once, so that what is given is
// worth as much as can be: a generalised assignment in which people, not things, have
// more than one place.
//
// Where a person is held to a number of awards alone, it is a minimum-cost flow and
// solved as one (successive shortest paths; Ahuja, Magnanti and Orlin, Network Flows,
// 1993, section 9.7). Caps on money, awards that exclude each other and a fund over all
// break that form. Then the places are priced (Lagrangian relaxation; Fisher,
// Management Science 27(1), 1981): with prices each person’s best set is found for
// itself and exactly, which also bounds what any placing can be worth, as closely as
// the decomposition of Dantzig and Wolfe (Operations Research 8(1), 1960). Pairs that
// cannot be in a better placing are settled by that bound, and the rest is branched on.
package placing

import (
	"fmt"
	"slices"

	"ulvant/core/refusal"
)

// Award is given at most Places times.
type Award struct {
	Places int
	// What one place gives, minor units. Least is below Most where the sum is a range:
	// people are chosen by the least, and what money is left is poured out afterwards.
	Least, Most int64
	Purse       int64 // all its places together; 0: whatever the places come to
}

// Person can be given awards.
type Person struct {
	Awards int   // at most; 0: any number
	Money  int64 // at most, minor units; 0: any sum
}

// Pair is a person who meets the criteria of an award.
type Pair struct {
	Person, Award int
	Worth         int64 // above 0; the sum over the pairs given is what is made the greatest
	Held          bool  // given by hand, whatever else is
	Barred        bool  // not given, whatever else is
}

// Group is awards of which one person is given at most Most.
type Group struct {
	Awards []int
	Most   int
}

// Problem is what is to be placed.
type Problem struct {
	Awards []Award
	People []Person
	Pairs  []Pair
	Groups []Group // at most 64
	Fund   int64   // all awards together, minor units; 0: what they come to
}

// Placing is who is given what.
type Placing struct {
	Given []int // places in Pairs, in their order
	Worth int64
	Bound int64 // no placing under the same rules is worth more
	// Prices of one place of each award, and last of a coin of the fund, in Parts.
	Prices []float64
}

// Parts of one Worth in which prices are reckoned.
const Parts = 1024

// Proved reports that no placing is worth more.
func (p *Placing) Proved() bool { return p.Bound <= p.Worth }

// Effort bounds the search: no clock, so that the same question has the same answer.
type Effort struct {
	Rounds int // of prices
	Looks  int // at the set of one person in branching, 0: none
	// Reached is told how far it is, of 100; nil for nobody. It may stop the search by
	// returning false; the best placing so far is given.
	Reached func(percent int) bool
}

// Usual is the effort of a placing that is waited for.
var Usual = Effort{Rounds: 600, Looks: 8_000_000}

// Check reports the first thing by which nothing can be placed: a held pair that is
// one too many for its award or its person.
func (p *Problem) Check() error {
	if len(p.Groups) > mostGroups {
		return refusal.Newf("awards can exclude each other in at most %d groups", mostGroups)
	}
	used, sums := make([]int, len(p.Awards)), make([]int64, len(p.People))
	held := make([][]int, len(p.People))
	var all int64
	for _, x := range p.Pairs {
		if !x.Held {
			continue
		}
		used[x.Award]++
		sums[x.Person] += p.Awards[x.Award].Least
		all += p.Awards[x.Award].Least
		held[x.Person] = append(held[x.Person], x.Award)
	}
	for a, n := range used {
		if n > p.places(a) {
			return &TooMany{Award: a, Person: -1, Held: n, Most: p.places(a)}
		}
	}
	for i, list := range held {
		who := p.People[i]
		if who.Awards > 0 && len(list) > who.Awards {
			return &TooMany{Award: -1, Person: i, Held: len(list), Most: who.Awards}
		}
		for _, g := range p.Groups {
			n := 0
			for _, a := range list {
				if slices.Contains(g.Awards, a) {
					n++
				}
			}
			if n > g.Most {
				return &TooMany{Award: -1, Person: i, Held: n, Most: g.Most}
			}
		}
		if who.Money > 0 && sums[i] > who.Money {
			return &TooMany{Award: -1, Person: i, Held: len(list), Sum: sums[i], Money: who.Money}
		}
	}
	if p.Fund > 0 && all > p.Fund {
		return &TooMany{Award: -1, Person: -1, Sum: all, Money: p.Fund}
	}
	return nil
}

// TooMany is held by hand: more than an award has places, than a person may have, or
// than there is money for.
type TooMany struct {
	Award, Person int // -1: not of one
	Held, Most    int
	Sum, Money    int64
}

func (t *TooMany) Error() string {
	return fmt.Sprintf("held by hand: award %d, person %d, %d of %d, %d of %d", t.Award, t.Person, t.Held, t.Most, t.Sum,
		t.Money)
}

// places of an award, as far as its purse reaches.
func (p *Problem) places(a int) int {
	x := p.Awards[a]
	if x.Purse > 0 && x.Least > 0 {
		return min(x.Places, int(x.Purse/x.Least))
	}
	return x.Places
}

// mostGroups is how many bits tell of which groups an award is.
const mostGroups = 64

// Solve finds a placing that is worth as much as can be, or says by its bound how much
// more one might be. The problem must pass Check.
func Solve(p *Problem, e Effort) *Placing {
	if p.flows() {
		return p.byFlow()
	}
	return p.byPrices(e, nil)
}

// flows reports that numbers alone hold people to what they may have.
func (p *Problem) flows() bool {
	if len(p.Groups) > 0 {
		return false
	}
	var all int64
	for a := range p.Awards {
		all += int64(p.places(a)) * p.Awards[a].Least
	}
	if p.Fund > 0 && all > p.Fund {
		return false
	}
	could := make([]int64, len(p.People))
	for _, x := range p.Pairs {
		if !x.Barred {
			could[x.Person] += p.Awards[x.Award].Least
		}
	}
	for i, who := range p.People {
		if who.Money > 0 && could[i] > who.Money {
			return false
		}
	}
	return true
}

// worth of some pairs.
func (p *Problem) worth(given []int) (sum int64) {
	for _, x := range given {
		sum += p.Pairs[x].Worth
	}
	return sum
}
