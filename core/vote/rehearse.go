package vote

import (
	"fmt"
	"math/big"
	"slices"

	"ulvant/core/money"
	"ulvant/core/phrase"
)

// Fault is what keeps a vote on these projects from being a fair one. Stops: it cannot be
// opened so.
type Fault struct {
	Says  string
	Stops bool
}

// Faults of an election before it opens; titles are the projects’ in their order.
func (e *Election) Faults(titles []string, currency string) (out []Fault) {
	n := len(e.Projects)
	stop := func(format string, args ...any) { out = append(out, Fault{fmt.Sprintf(format, args...), true}) }
	warn := func(format string, args ...any) { out = append(out, Fault{fmt.Sprintf(format, args...), false}) }
	if n < 2 {
		stop("A vote needs two projects at least; %s on the ballot paper.", phrase.Count(int64(n), "stands", "stand"))
	}
	if e.By == EqualShares {
		var over []string
		sum := int64(0)
		for i, p := range e.Projects {
			switch {
			case p.Cost <= 0:
				stop("What “%s” costs is not known, and equal shares go by it.", titles[i])
			case p.Cost > e.Budget:
				over = append(over, "“"+titles[i]+"”")
			}
			sum += p.Cost
		}
		switch {
		case n > 0 && len(over) == n:
			stop("No project fits the budget of %s.", money.Format(e.Budget, currency))
		case len(over) > 0:
			warn("%s more than the whole budget and can never be paid for.", phrase.List(over)+map[bool]string{true: " costs",
				false: " cost"}[len(over) == 1])
		case sum <= e.Budget && n > 0:
			warn("All projects together cost %s: the budget pays for every one, so there is nothing to choose.",
				money.Format(sum, currency))
		}
		return out
	}
	if e.Named == 0 {
		stop("Say how many the vote names.")
	}
	if e.Named >= n && n > 1 {
		warn("The vote names %d and only %d stand on the ballot paper: nobody loses.", e.Named, n)
	}
	if e.By != GivenPoints && e.Most >= n && n > 1 {
		warn("A ballot may name %d, and that is all of them.", e.Most)
	}
	return out
}

// Electorate is made-up voters, to see what the rules make of them.
type Electorate struct {
	Says    string
	Ballots []Choice
}

// Rehearsed is how many made-up voters each electorate has.
const Rehearsed = 300

// Electorates makes three up, the same for the same seed: voters who like a few here and
// there; two camps, three fifths and two fifths; and many who all like the same one and
// little else.
func (e *Election) Electorates(seed []byte) []Electorate {
	n := len(e.Projects)
	if n == 0 {
		return nil
	}
	s := &stream{seed: seed}
	most := e.Most
	if most == 0 || e.By == GivenPoints {
		most = n
	}
	of := func(likes func(voter int) []int) (out []Choice) {
		for v := range Rehearsed {
			out = append(out, e.say(likes(v), most))
		}
		return out
	}
	some := func(from []int, least, up int) []int {
		order := slices.Clone(from)
		for i := len(order) - 1; i > 0; i-- {
			j := s.below(i + 1)
			order[i], order[j] = order[j], order[i]
		}
		return order[:min(len(order), least+s.below(up-least+1))]
	}
	all := Drawn(n, append(slices.Clone(seed), 'c'))
	larger, smaller := all[:(n+1)/2], all[(n+1)/2:]
	return []Electorate{
		{"voters who each like a few, here and there", of(func(int) []int { return some(all, 1, max(1, min(4, n))) })},
		{"two camps: three fifths like one half of the projects, two fifths the other", of(func(v int) []int {
			if v%5 < 3 || len(smaller) == 0 {
				return slices.Clone(larger)
			}
			return slices.Clone(smaller)
		})},
		{"one project that nearly everybody likes, and little else", of(func(v int) []int {
			if v%10 < 9 {
				return append([]int{all[0]}, some(all[1:], 0, min(1, n-1))...)
			}
			return some(all, 1, max(1, min(3, n)))
		})},
	}
}

// say is the ballot of somebody who likes these, the first most.
func (e *Election) say(likes []int, most int) Choice {
	likes = likes[:min(len(likes), most)]
	if e.By != GivenPoints {
		return likes
	}
	out := make(Choice, len(e.Projects))
	for k, left := 0, e.Points(); left > 0 && len(likes) > 0; left-- {
		out[likes[k%len(likes)]]++
		k++
	}
	return out
}

// Rehearsal is what the rules make of one electorate, and whether what was promised of
// them held.
type Rehearsal struct {
	Electorate
	Result Result
	Broken string // what did not hold; "" where all did
}

// Rehearse counts every made-up electorate, and holds the counts to what voters are
// promised: nothing beyond the budget, no project off the paper, nobody pays more than
// their share, and the same result in whatever order the ballots lie.
func (e *Election) Rehearse(seed []byte) (out []Rehearsal) {
	for _, x := range e.Electorates(seed) {
		r := Rehearsal{Electorate: x, Result: e.Count(x.Ballots, nil)}
		r.Broken = e.broken(x.Ballots, r.Result)
		out = append(out, r)
	}
	return out
}

func (e *Election) broken(ballots []Choice, r Result) string {
	spent := int64(0)
	for _, b := range r.Shared.Bought {
		spent += e.Projects[b.Project].Cost
		if b.Most != nil && b.Most.Cmp(big.NewRat(e.Budget, int64(len(ballots)))) > 0 {
			return "somebody pays more than their share"
		}
	}
	back := slices.Clone(ballots)
	slices.Reverse(back)
	again := e.Count(back, nil)
	switch {
	case e.By == EqualShares && (spent > e.Budget || spent != r.Shared.Spent):
		return "more is spent than there is"
	case !slices.Equal(again.Won, r.Won) || !slices.Equal(again.Came, r.Came):
		return "the order of the ballots changes the result"
	}
	for k, p := range r.Won {
		if p < 0 || p >= len(e.Projects) || slices.Contains(r.Won[:k], p) {
			return "a project is named that does not stand there, or twice"
		}
	}
	return ""
}
