package assignment

import "slices"

// Move is a case that goes from one reader to another.
type Move struct{ Case, From, To int }

// Changed is a plan after a change by hand, made as good as can be around it.
type Changed struct {
	Given [][]int
	Costs int64  // more than before; less than nothing where the plan was not the best
	Moves []Move // the change itself first
}

// Change gives case c to reader in, and finds what it costs: which of its readers
// goes for them, and what else moves so that loads and conditions hold. It is the
// cheapest ring through that pair (Ahuja, Magnanti & Orlin, section 9.11); false
// when there is none.
func Change(p *Problem, given [][]int, c, in int) (out Changed, ok bool) {
	f := p.resume(given)
	if slices.Contains(f.at[c], in) || !p.Allowed(c, in) {
		return out, false
	}
	var goes []int // readers of c who may go for them
	for _, r := range f.at[c] {
		if !f.stays(c, r) && f.may(c, in, r) {
			goes = append(goes, r)
		}
	}
	f.frozen = c
	dist, from := f.from0(in)
	best := None
	cost := int64(far)
	for _, r := range goes {
		if dist[r] < far && dist[r]-p.Costs[c][r] < cost {
			best, cost = r, dist[r]-p.Costs[c][r]
		}
	}
	if best == None || cost >= f.big/2 { // or somebody would have fewer than their least
		return out, false
	}
	out.Costs = cost + p.Costs[c][in]
	out.Moves = []Move{{c, best, in}}
	copy(f.from, from)
	for _, m := range f.follow(best) {
		out.Moves = append(out.Moves, Move{m.c, m.from, m.to})
	}
	f.pass(c, best, in)
	out.Given = f.plan().Given
	return out, true
}

// resume is a flow as a plan has it; the conditions that cross are both kept.
func (p *Problem) resume(given [][]int) *flow {
	x := p.relaxed()
	x.both = p.Org != nil && p.Field != nil
	f := p.empty(x)
	for c, readers := range given {
		for _, r := range readers {
			if !slices.Contains(f.at[c], r) { // those held are there
				f.at[c] = append(f.at[c], r)
				f.of[r] = append(f.of[r], c)
				f.load[r]++
			}
		}
	}
	return f
}

// from0 finds the cheapest ways from a reader to all, rings through the sink among
// them (Bellman & Ford).
func (f *flow) from0(start int) (dist []int64, from []int32) {
	dist, from = make([]int64, f.n+1), make([]int32, f.n+1)
	for v := range dist {
		dist[v], from[v] = far, -1
	}
	dist[start] = 0
	for range f.n + 1 {
		some := false
		for a := 0; a <= f.n; a++ {
			if dist[a] >= far {
				continue
			}
			for b := 0; b <= f.n; b++ {
				if b == a || b == start {
					continue
				}
				if w := f.between(a, b); w < far && dist[a]+w < dist[b] && !f.passes(from, a, b) {
					dist[b], from[b], some = dist[a]+w, int32(a), true
				}
			}
		}
		if !some {
			break
		}
	}
	return dist, from
}

// passes reports that the way to a leads through b: a ring that costs less than
// nothing, which a plan that is not the best has, is left to whoever improves it.
func (f *flow) passes(from []int32, a, b int) bool {
	for v := int32(a); v >= 0; v = from[v] {
		if int(v) == b {
			return true
		}
	}
	return false
}

// between is the weight of the arc between two nodes, the sink among them.
func (f *flow) between(a, b int) int64 {
	switch {
	case b == f.n:
		return f.margin(a)
	case a == f.n && f.moves(b):
		return f.back(b)
	case a == f.n:
		return far
	}
	return f.weight(a, b)
}

// Improve makes a plan as good as rings of exchanges can, those held aside. Where
// conditions do not cross that is the best there is.
func Improve(p *Problem, given [][]int) *Plan {
	f := p.resume(given)
	f.improve()
	return f.plan()
}
