package assignment

import (
	"math"
	"slices"
)

// Where a case must have somebody who knows its field and at most one reader of an
// organisation, the two cross and no flow has both. Prices of the readers' places
// give a bound that no plan
// beats (Lagrange; Geoffrion, Math. Program. Study 2, 1974), and the first plan: each
// case takes what it likes best at these prices, and places are handed on from
// readers who have too many, and exchanged while that makes it better. Where the two
// do not meet, it is tried again from prices near these.

func (p *Problem) branch(root relaxation, f *flow, tries int) *Plan {
	byField := relaxation{byField: slices.Repeat([]bool{true}, len(p.Each)), barred: root.barred}
	both := root
	both.both = true
	h := p.solve(byField)
	if len(h.short) > 0 {
		return p.lacking(both)
	}
	total := p.total(h.plan().Given)
	low, price := p.priced(total+total/8, h, 400)
	bound := max(p.total(f.plan().Given), total, low)
	var best *Plan
	try := func(g *flow) {
		g.improve()
		if plan := g.plan(); len(g.short) == 0 && len(plan.Under) == 0 && (best == nil || plan.Total < best.Total) {
			best = plan
		}
	}
	try(p.settle(both, price))
	if best == nil {
		try(p.solve(both))
	}
	for t := range tries {
		if best != nil && best.Total <= bound {
			break
		}
		near := slices.Clone(price)
		for i := range near {
			// prices nearby, spread evenly and the same every time (Kronecker's sequence)
			_, part := math.Modf(float64((t+1)*(i+1)) * math.Phi)
			near[i] += (part - 0.5) * float64(low) / float64(units(p.Each)) / 2
		}
		try(p.settle(both, near))
	}
	if best == nil {
		return p.lacking(both)
	}
	best.Bound = min(bound, best.Total)
	return best
}

// lacking is a plan for as many as were found readers who keep both conditions.
func (p *Problem) lacking(both relaxation) *Plan {
	f := p.solve(both)
	out := f.plan()
	out.Short = p.explain(f)
	return out
}

// units is how many places are needed in all.
func units(each []int) (n int) {
	for _, k := range each {
		n += k
	}
	return n
}

// improve a plan while exchanges make it better: cases handed on in a ring, or from a
// reader to another with room, which is a ring through the sink.
func (f *flow) improve() {
	for f.ring() {
	}
}

// ring finds one exchange that costs less than nothing (Bellman & Ford) and carries
// it out; false when there is none.
func (f *flow) ring() bool {
	dist, from := make([]int64, f.n+1), make([]int, f.n+1)
	for v := range from {
		from[v] = None
	}
	at := None
	for range f.n + 1 {
		at = None
		for a := 0; a <= f.n; a++ {
			for b := 0; b <= f.n; b++ {
				if a == b {
					continue
				}
				if w := f.between(a, b); w < far && dist[a]+w < dist[b] {
					dist[b], from[b], at = dist[a]+w, a, b
				}
			}
		}
		if at == None {
			return false
		}
	}
	for range f.n + 1 { // back until within the ring
		at = from[at]
	}
	var moved []move
	given := map[int]bool{}
	for v := at; ; {
		a := from[v]
		switch {
		case v == f.n:
			f.load[a]++
		case a == f.n:
			f.load[v]--
		default:
			c := int(f.via[a*f.n+v])
			if c < 0 || given[c] { // the same case twice: its conditions could break
				return false
			}
			given[c] = true
			moved = append(moved, move{c, a, v})
		}
		if v = a; v == at {
			break
		}
	}
	for _, m := range moved {
		f.pass(m.c, m.from, m.to)
	}
	return true
}

// settle begins with the readers that every case likes best at these prices, and
// hands places on from readers who have too many, by the cheapest way each.
func (p *Problem) settle(x relaxation, price []float64) *flow {
	f := p.empty(x)
	for c := range p.Each {
		_, set := p.cheapest(c, price)
		for _, r := range set {
			if slices.Contains(f.at[c], r) { // held
				continue
			}
			f.at[c] = append(f.at[c], r)
			f.of[r] = append(f.of[r], c)
			f.load[r]++
		}
		if len(set) < p.Each[c] {
			f.short = append(f.short, c)
		}
	}
	for r := range price {
		f.p[r] = -int64(math.Round(price[r]))
	}
	for r := range p.Readers() {
		for f.load[r] > p.most(r) {
			f.begin()
			f.dist[r] = 0
			f.p[f.n] = far
			for v := range f.n {
				f.p[f.n] = min(f.p[f.n], f.margin(v)+f.p[v])
			}
			end, d := f.search(func(v int) (int64, bool) { return 0, v == f.n }, false)
			if end < 0 {
				f.short = append(f.short, f.of[r][0])
				break
			}
			for v := range f.p {
				f.p[v] += min(f.dist[v], d)
			}
			to := int(f.from[f.n])
			f.load[to]++
			f.load[r]--
			f.follow(to)
		}
	}
	return f
}

// priced is a bound on the total: with a price on each reader's places, every case
// takes the readers it likes best under its own conditions, and what the places
// bring is given back. Prices are raised where too many come, for some rounds.
func (p *Problem) priced(target int64, f *flow, rounds int) (bound int64, prices []float64) {
	n := p.Readers()
	price := make([]float64, n)
	for r := range price { // those of the flow are near
		price[r] = float64(max(0, f.p[n]-f.p[r]))
	}
	best, scale := math.Inf(-1), 1.0
	since := 0
	for range rounds {
		value, load := 0.0, make([]float64, n)
		for c := range p.Each {
			cost, set := p.cheapest(c, price)
			if set == nil { // it can have nobody
				continue
			}
			value += cost
			for _, r := range set {
				load[r]++
			}
		}
		norm := 0.0
		for r := range n {
			places, brings := p.offered(r, price[r])
			value += brings
			load[r] -= places
			norm += load[r] * load[r]
		}
		if value > best+1e-6 {
			best, since = value, 0
			prices = slices.Clone(price)
		} else if since++; since >= 12 {
			scale, since = scale/2, 0
		}
		if norm == 0 {
			break
		}
		step := scale * max(float64(target)-value, 1) / norm
		for r := range n {
			price[r] += step * load[r]
		}
	}
	return int64(math.Ceil(best - 1e-4)), prices
}

// offered is how many places a reader gives at a price, and what that costs: least
// of unevenness less the price, over what their loads may be.
func (p *Problem) offered(r int, price float64) (places, cost float64) {
	cost = math.Inf(1)
	for n := p.least(r); n <= p.most(r); n++ {
		v := float64(p.Uneven)*float64(n)*float64(n-1)/2 - price*float64(n)
		if v < cost {
			places, cost = float64(n), v
		}
	}
	return places, cost
}

// cheapest set of readers for a case at these prices, under its own conditions,
// exactly: the best of each organisation, and if nobody of them knows the field,
// the best with one who does; nil when nobody may read it so.
func (p *Problem) cheapest(c int, price []float64) (cost float64, set []int) {
	type offer struct {
		r int
		v float64
	}
	var list []offer
	held := p.held(c)
	for r, v := range p.Costs[c] {
		if v != Never && !slices.Contains(held, r) {
			list = append(list, offer{r, float64(v) + price[r]})
		}
	}
	slices.SortFunc(list, func(a, b offer) int {
		switch {
		case a.v < b.v:
			return -1
		case a.v > b.v:
			return 1
		}
		return a.r - b.r
	})
	fill := func(with int) (cost float64, set []int) {
		take := func(o offer) {
			cost, set = cost+o.v, append(set, o.r)
		}
		for _, r := range held {
			v := price[r]
			if p.Allowed(c, r) {
				v += float64(p.Costs[c][r])
			}
			take(offer{r, v})
		}
		if with != None {
			take(list[with])
		}
		for i, o := range list {
			if len(set) >= p.Each[c] {
				break
			}
			if i != with && !slices.ContainsFunc(set, func(r int) bool {
				return r == o.r || p.org(r) != None &&
					p.org(r) == p.org(o.r)
			}) {
				take(o)
			}
		}
		return cost, set
	}
	cost, set = fill(None)
	if len(set) == len(held) || slices.ContainsFunc(set, func(r int) bool { return p.knows(c, r) }) {
		return cost, set
	}
	cost, set = math.Inf(1), nil
	for i, o := range list {
		with := func(r int) bool { return p.org(r) != None && p.org(r) == p.org(o.r) }
		if p.knows(c, o.r) && len(held) < p.Each[c] && !slices.ContainsFunc(held, with) {
			if v, s := fill(i); v < cost {
				cost, set = v, s
			}
		}
	}
	return cost, set
}
