// Package assignment hands cases out to readers as well as can be. Every case gets
// as many readers as it needs, no reader fewer than their least or more than their
// most, nobody a case they must not read, and the sum of costs (how badly a reader
// suits a case) is as small as it can be.
//
// Without conditions that cross, it is a minimum-cost flow, found by successive
// shortest paths with potentials (Edmonds & Karp, J. ACM 19, 1972; Ahuja, Magnanti
// & Orlin, Network Flows, 1993, section 9.7) on a graph drawn together: its nodes
// are the readers and the sink, and an arc from one reader to another is the
// cheapest case that can go over. At most one reader from an organisation on a
// case, or at least one who knows its field, is still a flow, each by itself; where
// a case needs both, what the flow breaks is branched on (branch.go), and the bound
// says how far from the best the plan can be.
package assignment

import (
	"math"
	"slices"
)

// Never is the cost of a pair that must not be.
const Never = math.MaxInt64

// None is an organisation or a field that there is none of.
const None = -1

// Problem of handing out. Cases and readers are numbered from 0.
type Problem struct {
	Each  []int     // readers each case needs
	Costs [][]int64 // case × reader, up to 10⁹; Never: must not read it
	Least []int     // cases each reader has at least; nil: none
	Most  []int     // cases each reader has at most
	// Uneven is what a reader's n-th case costs besides, n − 1 times: loads are as
	// even as it is great. 0 when only the sum of costs counts.
	Uneven int64

	Org   []int    // organisation of each reader, None for none; nil: not looked at. A case has at most one reader of each
	Field []int    // of each case, None for none; nil: not looked at. A case has at least one reader who knows it
	Knows [][]bool // reader × field

	Held [][]int // readers of each case who stay, whatever it costs; nil: none
}

// Readers is how many there are.
func (p *Problem) Readers() int { return len(p.Most) }

// Evenly is a problem in which everybody suits every case alike, and loads are to be
// even.
func Evenly(cases, readers, each int) *Problem {
	p := &Problem{Each: slices.Repeat([]int{each}, cases), Costs: make([][]int64, cases),
		Most: slices.Repeat([]int{cases}, readers), Uneven: 1}
	for c := range p.Costs {
		p.Costs[c] = make([]int64, readers)
	}
	return p
}

// Plan is who reads what.
type Plan struct {
	Given [][]int // readers of each case, ascending; those held included
	Cost  int64   // of the pairs, without what unevenness costs
	// Total is what was made as small as can be: Cost with unevenness. Bound is no
	// greater than the least Total there is; equal to it, the plan is the best.
	Total, Bound int64
	Short        []Short // cases that lack readers, with why; nil: nobody does
	Under        []int   // readers with fewer cases than their least
}

// Proved reports that no plan is better.
func (p *Plan) Proved() bool { return p.Bound >= p.Total }

// Loads counts the cases of each of n readers.
func (p *Plan) Loads(n int) []int {
	out := make([]int, n)
	for _, readers := range p.Given {
		for _, r := range readers {
			out[r]++
		}
	}
	return out
}

// Short is a case that could not get all its readers, with the smallest reason that
// was found: Cases may be read by Readers alone, besides those they have, and these
// have fewer places than are needed.
type Short struct {
	Case, Got      int
	Cases, Readers []int
	Needed, Places int
	Field          int  // the field that too few readers know; None when it is not that
	AnotherOrg     bool // enough may read it, but too many are of one organisation
}

// Solve finds the best plan, or the best for as many as can be served. tries bounds
// how often the flow is solved anew where conditions cross; 200 is plenty.
func Solve(p *Problem, tries int) *Plan {
	root := p.relaxed()
	f := p.solve(root)
	if p.Org == nil || p.Field == nil || len(f.short) > 0 {
		plan := f.plan()
		if len(f.short) > 0 {
			plan.Short = p.explain(f)
		}
		return plan
	}
	return p.branch(root, f, tries)
}

// places a reader has, at most.
func (p *Problem) most(r int) int { return min(p.Most[r], len(p.Each)) }

func (p *Problem) least(r int) int {
	if p.Least == nil {
		return 0
	}
	return p.Least[r]
}

func (p *Problem) org(r int) int {
	if p.Org == nil {
		return None
	}
	return p.Org[r]
}

// knows reports that r knows the field of c; everybody does where it has none.
func (p *Problem) knows(c, r int) bool {
	return p.Field == nil || p.Field[c] == None || p.Knows[r][p.Field[c]]
}

func (p *Problem) held(c int) []int {
	if p.Held == nil {
		return nil
	}
	return p.Held[c]
}

// Allowed reports that r may read c.
func (p *Problem) Allowed(c, r int) bool { return p.Costs[c][r] != Never }

// cost of the pairs of a plan.
func (p *Problem) cost(given [][]int) (n int64) {
	for c, readers := range given {
		for _, r := range readers {
			if p.Allowed(c, r) { // one that is held may be one that must not be
				n += p.Costs[c][r]
			}
		}
	}
	return n
}

// total is the cost with what unevenness costs.
func (p *Problem) total(given [][]int) int64 {
	plan := Plan{Given: given}
	n := p.cost(given)
	for _, load := range plan.Loads(p.Readers()) {
		n += p.Uneven * int64(load) * int64(load-1) / 2
	}
	return n
}

// keeps reports what a case's readers break: two of one organisation (the pair), or
// nobody who knows its field. Of those held nothing is asked.
func (p *Problem) keeps(c int, readers []int) (pair [2]int, field bool) {
	pair = [2]int{None, None}
	held := p.held(c)
	for i, a := range readers {
		for _, b := range readers[:i] {
			if p.org(a) != None && p.org(a) == p.org(b) && !(slices.Contains(held, a) && slices.Contains(held, b)) {
				pair = [2]int{b, a}
			}
		}
	}
	if len(readers) > len(held) && !slices.ContainsFunc(readers, func(r int) bool { return p.knows(c, r) }) {
		field = true
	}
	return pair, field
}
