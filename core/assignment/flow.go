package assignment

import (
	"math"
	"slices"
)

// relaxation is which conditions of each case the flow keeps: those that it cannot
// keep at the same time are branched on.
type relaxation struct {
	byField []bool          // of a case that has both: its field is kept, its organisations are not
	both    bool            // both are kept, and what comes of it need not be the best
	barred  map[[2]int]bool // case and reader, besides those that must not be
}

// relaxed is the first relaxation: organisations where there are any.
func (p *Problem) relaxed() relaxation {
	x := relaxation{byField: make([]bool, len(p.Each)), barred: map[[2]int]bool{}}
	for c := range x.byField {
		x.byField[c] = p.Org == nil
	}
	return x
}

const far = math.MaxInt64 / 4

// flow is a solution under way: a minimum-cost flow for the units placed so far.
type flow struct {
	*Problem
	relaxation
	n      int     // readers
	at     [][]int // of each case, in no order; those held first
	load   []int
	p      []int64 // potentials of the readers, and of the sink at n
	big    int64   // more than any sum of costs
	arc    []int64 // cheapest weight from reader to reader, n × n
	via    []int32 // the case that goes over; -1: none can; -2: to be found anew
	of     [][]int // cases of each reader
	short  []int   // cases that a unit of could not be placed
	frozen int     // a case of which nothing moves; None: none

	// of one search
	dist []int64
	from []int32
	done []bool
}

// empty is a flow of nothing.
func (p *Problem) empty(x relaxation) *flow {
	n := p.Readers()
	f := &flow{Problem: p, relaxation: x, n: n, at: make([][]int, len(p.Each)), load: make([]int, n), p: make([]int64,
		n+1),
		arc: make([]int64, n*n), via: make([]int32, n*n), of: make([][]int, n), dist: make([]int64, n+1),
		from: make([]int32, n+1), done: make([]bool, n+1), frozen: None}
	f.big = p.Uneven*int64(len(p.Each)) + 1
	for _, row := range p.Costs {
		for _, v := range row {
			if v != Never {
				f.big = max(f.big, v+1)
			}
		}
	}
	units := 0
	for _, k := range p.Each {
		units += k
	}
	f.big *= int64(2*units + 2)
	for i := range f.via {
		f.via[i] = -2
	}
	return f
}

// solve finds a minimum-cost flow from nothing.
func (p *Problem) solve(x relaxation) *flow {
	f := p.empty(x)
	n := f.n
	for c := range p.Each {
		for _, r := range p.held(c) {
			f.at[c] = append(f.at[c], r)
			f.of[r] = append(f.of[r], c)
			f.load[r]++
		}
	}
	for r := range n {
		f.p[n] = min(f.p[n], f.margin(r))
	}
	for c, k := range p.Each {
		for len(f.at[c]) < k {
			if !f.place(c) {
				f.short = append(f.short, c)
				break
			}
		}
	}
	return f
}

// margin is what one case more for a reader costs besides its pair; far: no place.
func (f *flow) margin(r int) int64 {
	switch n := f.load[r]; {
	case n >= f.most(r):
		return far
	case n < f.least(r):
		return f.Uneven*int64(n) - f.big
	default:
		return f.Uneven * int64(n)
	}
}

// back is what one case fewer for a reader saves, as a weight; far: they have none
// that could go.
func (f *flow) back(r int) int64 {
	n := f.load[r] - 1
	switch {
	case n < 0:
		return far
	case n < f.least(r):
		return f.big - f.Uneven*int64(n)
	default:
		return -f.Uneven * int64(n)
	}
}

// may reports that case c may take reader to, when it gives up reader gone (None:
// when it takes one more).
func (f *flow) may(c, to, gone int) bool {
	if f.Costs[c][to] == Never || len(f.barred) > 0 && f.barred[[2]int{c, to}] {
		return false
	}
	known := f.knows(c, to)
	for _, r := range f.at[c] {
		switch {
		case r == to:
			return false
		case r == gone:
			continue
		case (!f.byField[c] || f.both) && f.org(to) != None && f.org(r) == f.org(to):
			return false
		}
		known = known || f.knows(c, r)
	}
	// at least one knows the field: at most all but one do not
	return known || !f.byField[c] && !f.both || f.strangers(c, gone)+1 < f.Each[c]
}

// strangers counts the readers of c who do not know its field, without one.
func (f *flow) strangers(c, without int) (n int) {
	for _, r := range f.at[c] {
		if r != without && !f.knows(c, r) {
			n++
		}
	}
	return n
}

// weight of the cheapest case that can go from reader a to reader b; far: none.
func (f *flow) weight(a, b int) int64 {
	i := a*f.n + b
	if f.via[i] != -2 {
		return f.arc[i]
	}
	best, via := int64(far), int32(-1)
	for _, c := range f.of[a] {
		if w := f.Costs[c][b]; w != Never && w-f.Costs[c][a] < best && !f.stays(c, a) &&
			(c != f.frozen || f.within(c, a, b)) && f.may(c, b, a) {
			best, via = w-f.Costs[c][a], int32(c)
		}
	}
	f.arc[i], f.via[i] = best, via
	return best
}

// within reports that a case can go from a to b without its other readers being
// concerned: both are of one organisation, or both know its field, or neither does.
func (f *flow) within(c, a, b int) bool {
	switch {
	case f.both:
		return false
	case f.byField[c]:
		return f.Field != nil && f.Field[c] != None && f.knows(c, a) == f.knows(c, b)
	}
	return f.org(a) != None && f.org(a) == f.org(b)
}

// stays reports a pair that is held.
func (f *flow) stays(c, r int) bool { return slices.Contains(f.held(c), r) }

// moves reports a reader of whom a case could go.
func (f *flow) moves(r int) bool {
	return slices.ContainsFunc(f.of[r], func(c int) bool { return !slices.Contains(f.held(c), r) })
}

// changed marks what must be found anew once the readers of c have changed: gone
// is one it had, None for none.
func (f *flow) changed(c, gone int) {
	if gone != None {
		for b := range f.n {
			if i := gone*f.n + b; f.via[i] == int32(c) {
				f.via[i] = -2
			}
		}
	}
	for _, a := range f.at[c] {
		if f.stays(c, a) || c == f.frozen {
			continue
		}
		row := f.Costs[c]
		for b := range f.n {
			i := a*f.n + b
			if f.via[i] == -2 || b == a {
				continue
			}
			if f.via[i] == int32(c) {
				f.via[i] = -2
			} else if row[b] != Never && row[b]-row[a] < f.arc[i] && f.may(c, b, a) {
				f.arc[i], f.via[i] = row[b]-row[a], int32(c)
			}
		}
	}
}

// search finds shortest distances from where start puts them, in reduced costs, and
// ends at the first of the goals: the sink, or where goal says at what cost. It
// returns the node at which it ended; -1 when none can be reached. sink reports
// that paths may lead through the sink.
func (f *flow) search(goal func(node int) (extra int64, is bool), sink bool) (end int, cost int64) {
	end, cost = -1, far
	for {
		u, least := -1, int64(far)
		for v := 0; v <= f.n; v++ {
			if !f.done[v] && f.dist[v] < least {
				u, least = v, f.dist[v]
			}
		}
		if u < 0 || least >= cost {
			return end, cost
		}
		f.done[u] = true
		if extra, is := goal(u); is && least+extra < cost {
			end, cost = u, least+extra
		}
		if u == f.n {
			if sink {
				for v := range f.n {
					if w := f.back(v); w < far && !f.done[v] && f.moves(v) {
						f.reach(v, least+w+f.p[u]-f.p[v], u)
					}
				}
			}
			continue
		}
		if m := f.margin(u); m < far {
			f.reach(f.n, least+m+f.p[u]-f.p[f.n], u)
		}
		if len(f.of[u]) == 0 {
			continue
		}
		for v := range f.n {
			if f.done[v] {
				continue
			}
			if w := f.weight(u, v); w < far {
				f.reach(v, least+w+f.p[u]-f.p[v], u)
			}
		}
	}
}

func (f *flow) reach(v int, d int64, from int) {
	if d < f.dist[v] {
		f.dist[v], f.from[v] = d, int32(from)
	}
}

// begin a search in which nothing is reached yet.
func (f *flow) begin() {
	for v := range f.dist {
		f.dist[v], f.from[v], f.done[v] = far, -1, false
	}
}

// place gives case c one more reader, moving others where that is best; false when
// there is nobody.
func (f *flow) place(c int) bool {
	f.begin()
	shift := int64(far)
	for r := range f.n {
		if f.may(c, r, None) {
			f.dist[r] = f.Costs[c][r] - f.p[r]
			shift = min(shift, f.dist[r])
		}
	}
	for r := range f.n { // so that none is less than nothing
		if f.dist[r] < far {
			f.dist[r] -= shift
		}
	}
	end, d := f.search(func(v int) (int64, bool) { return 0, v == f.n }, false)
	if end < 0 {
		return false
	}
	for v := range f.p {
		f.p[v] += min(f.dist[v], d)
	}
	// back along the path: the last reader has one more, each before hands one on
	to := int(f.from[f.n])
	f.load[to]++
	f.follow(to)
	first := f.first(to)
	f.at[c] = append(f.at[c], first)
	f.of[first] = append(f.of[first], c)
	f.changed(c, None)
	return true
}

// first is where the path to a reader began.
func (f *flow) first(r int) int {
	for f.from[r] >= 0 {
		r = int(f.from[r])
	}
	return r
}

// move is a case that goes from one reader to another.
type move struct{ c, from, to int }

// follow carries out the path that ends at a reader: each on it hands its case on.
func (f *flow) follow(to int) (moved []move) {
	for f.from[to] >= 0 {
		a := int(f.from[to])
		if a == f.n {
			f.load[to]-- // through the sink: one has one fewer
			to = int(f.from[f.n])
			f.load[to]++
			continue
		}
		moved = append(moved, move{int(f.via[a*f.n+to]), a, to})
		to = a
	}
	for _, m := range moved {
		f.pass(m.c, m.from, m.to)
	}
	return moved
}

// pass a case on from one reader to another.
func (f *flow) pass(c, a, b int) {
	f.at[c][slices.Index(f.at[c], a)] = b
	f.of[a] = slices.Delete(f.of[a], slices.Index(f.of[a], c), slices.Index(f.of[a], c)+1)
	f.of[b] = append(f.of[b], c)
	f.changed(c, a)
}

// plan of the units placed.
func (f *flow) plan() *Plan {
	out := &Plan{Given: make([][]int, len(f.at))}
	for c := range f.at {
		out.Given[c] = slices.Sorted(slices.Values(f.at[c]))
	}
	out.Cost, out.Total = f.cost(out.Given), f.total(out.Given)
	out.Bound = out.Total
	for r, n := range f.load {
		if n < f.least(r) {
			out.Under = append(out.Under, r)
		}
	}
	return out
}
