package vote

import (
	"math/big"
	"slices"
)

// Utility is what a project gives to whoever approves of it.
type Utility string

// The utilities.
const (
	OneEach Utility = "one"  // every project alike
	ByCost  Utility = "cost" // what it costs
)

// Completion is what becomes of the money that equal shares leave.
type Completion string

// The completions.
const (
	KeepRest Completion = ""           // it is not given
	ByVotes  Completion = "most votes" // to what fits and has a vote, the most votes first, ties in the order of the ballot paper
)

// Bought is a project that is given money.
type Bought struct {
	Project int
	// Rate is what its payers pay for each unit of utility, minor units; nil where the
	// completion gives it.
	Rate   *big.Rat
	Most   *big.Rat // that one of them pays
	Payers int64
}

// Shared is what equal shares come to.
type Shared struct {
	Bought []Bought // in the order in which they are bought
	Spent  int64
}

// class is voters who have as much left as each other. They are told apart by what they
// still have alone, so there are far fewer classes than voters.
type class struct {
	left *big.Rat
	of   []int64 // how many of them approve of each project
	ids  []int32 // ballots
}

// Shares divides a budget by equal shares. Of projects at the same rate the one that
// stands first on the ballot paper is bought first.
func Shares(projects []Project, ballots []Approvals, budget int64, utility Utility, rest Completion) Shared {
	s := &sharing{projects: projects, ballots: ballots, utility: utility, done: make([]bool, len(projects)),
		rate: make([]*big.Rat, len(projects))}
	s.begin(budget)
	var out Shared
	for {
		b, ok := s.next()
		if !ok {
			break
		}
		s.pay(b)
		out.Bought = append(out.Bought, b)
		out.Spent += projects[b.Project].Cost
	}
	if rest == ByVotes {
		votes := Votes(len(projects), ballots)
		order, _ := InOrder(votes)
		for _, p := range order {
			has := votes[p] == 0 || slices.ContainsFunc(out.Bought, func(b Bought) bool { return b.Project == p })
			if !has && out.Spent+projects[p].Cost <= budget {
				out.Bought = append(out.Bought, Bought{Project: p})
				out.Spent += projects[p].Cost
			}
		}
	}
	return out
}

type sharing struct {
	projects []Project
	ballots  []Approvals
	utility  Utility
	done     []bool
	rate     []*big.Rat // when last looked at; it never falls, as nobody has more later
	classes  []*class   // those with least left first
}

func (s *sharing) begin(budget int64) {
	if len(s.ballots) == 0 {
		return
	}
	c := &class{left: big.NewRat(budget, int64(len(s.ballots))), of: make([]int64, len(s.projects))}
	for i, b := range s.ballots {
		c.ids = append(c.ids, int32(i))
		count(c.of, b, 1)
	}
	s.classes = []*class{c}
}

func count(of []int64, b Approvals, n int64) {
	for k, p := range b {
		if !slices.Contains(b[:k], p) {
			of[p] += n
		}
	}
}

// next is the project at the lowest rate. Rates that were higher than that when last
// looked at need not be looked at again.
func (s *sharing) next() (best Bought, ok bool) {
	order := make([]int, 0, len(s.projects))
	for p := range s.projects {
		if !s.done[p] {
			order = append(order, p)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int {
		switch {
		case s.rate[a] == nil || s.rate[b] == nil:
			return bit(s.rate[b] == nil) - bit(s.rate[a] == nil)
		}
		return s.rate[a].Cmp(s.rate[b])
	})
	for _, p := range order {
		if ok && s.rate[p] != nil && s.rate[p].Cmp(best.Rate) > 0 {
			break
		}
		b, can := s.look(p)
		if !can {
			s.done[p] = true // never again: nobody has more later
			continue
		}
		s.rate[p] = b.Rate
		if c := 0; !ok {
			best, ok = b, true
		} else if c = b.Rate.Cmp(best.Rate); c < 0 || c == 0 && p < best.Project {
			best = b
		}
	}
	return best, ok
}

func bit(b bool) int {
	if b {
		return 1
	}
	return 0
}

// look at what a project costs its payers: those with little give all they have, the
// others as much as each other.
func (s *sharing) look(p int) (b Bought, can bool) {
	missing := new(big.Rat).SetInt64(s.projects[p].Cost)
	var payers int64
	for _, c := range s.classes {
		if c.left.Sign() > 0 {
			payers += c.of[p]
		}
	}
	b = Bought{Project: p, Payers: payers}
	part, all := new(big.Rat), new(big.Rat)
	for _, c := range s.classes {
		n := c.of[p]
		if n == 0 || c.left.Sign() == 0 {
			continue
		}
		// what each who has as much as these, or more, would pay
		part.Quo(missing, new(big.Rat).SetInt64(payers))
		if part.Cmp(c.left) <= 0 {
			b.Most = new(big.Rat).Set(part)
			b.Rate = new(big.Rat).Set(part)
			if s.utility == ByCost {
				b.Rate.Quo(b.Rate, new(big.Rat).SetInt64(s.projects[p].Cost))
			}
			return b, true
		}
		missing.Sub(missing, all.Mul(c.left, new(big.Rat).SetInt64(n)))
		payers -= n
	}
	return b, false
}

// pay takes from each who approves of a project what they pay for it.
func (s *sharing) pay(b Bought) {
	s.done[b.Project] = true
	var after []*class
	for _, c := range s.classes {
		if c.of[b.Project] == 0 || c.left.Sign() == 0 {
			after = append(after, c)
			continue
		}
		pays := &class{left: new(big.Rat).Sub(c.left, b.Most), of: make([]int64, len(s.projects))}
		if pays.left.Sign() < 0 {
			pays.left.SetInt64(0)
		}
		others := &class{left: c.left, of: c.of}
		for _, id := range c.ids {
			if !slices.Contains(s.ballots[id], b.Project) {
				others.ids = append(others.ids, id)
				continue
			}
			pays.ids = append(pays.ids, id)
			count(pays.of, s.ballots[id], 1)
		}
		for p, n := range pays.of {
			others.of[p] -= n
		}
		if after = append(after, pays); len(others.ids) > 0 {
			after = append(after, others)
		}
	}
	byLeft := map[string]*class{}
	for _, c := range after {
		key := c.left.RatString()
		if have := byLeft[key]; have != nil {
			have.ids = append(have.ids, c.ids...)
			for p, n := range c.of {
				have.of[p] += n
			}
		} else {
			byLeft[key] = c
		}
	}
	s.classes = s.classes[:0]
	for _, c := range byLeft {
		s.classes = append(s.classes, c)
	}
	slices.SortFunc(s.classes, func(a, b *class) int { return a.left.Cmp(b.left) })
}
