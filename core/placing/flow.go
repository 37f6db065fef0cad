package placing

import (
	"container/heap"
	"slices"
)

// network is the flow of a placing in which numbers alone hold people. Its nodes are
// the awards, then the people, then one that takes and gives what is not used.
type network struct {
	p        *Problem
	ofAward  [][]int32 // pairs
	ofPerson [][]int32
	given    []bool // pairs
	open     []int  // places of the awards that are let in and not used
	room     []int  // awards a person may still have
	load     []int  // and has

	dist []int64
	from []int32 // node before; -1: none
	by   []int32 // pair between them; -1: none
	in   []bool
	line []int32

	height []int64 // potentials; only while places are let in
	heap   nodes
	seen   []int32
}

// boundless is more awards than there are.
const boundless = 1 << 30

const unreached = int64(1) << 60

func (p *Problem) network() *network {
	n := len(p.Awards) + len(p.People) + 1
	w := &network{p: p, ofAward: make([][]int32, len(p.Awards)), ofPerson: make([][]int32, len(p.People)),
		given: make([]bool, len(p.Pairs)),
		open:  make([]int, len(p.Awards)), room: make([]int, len(p.People)), load: make([]int, len(p.People)),
		dist: make([]int64, n), from: make([]int32, n), by: make([]int32, n), in: make([]bool, n)}
	for i, who := range p.People {
		if w.room[i] = who.Awards; who.Awards == 0 {
			w.room[i] = boundless
		}
	}
	for x, pair := range p.Pairs {
		if pair.Barred {
			continue
		}
		w.ofAward[pair.Award] = append(w.ofAward[pair.Award], int32(x))
		w.ofPerson[pair.Person] = append(w.ofPerson[pair.Person], int32(x))
	}
	return w
}

// take gives a pair.
func (w *network) take(x int) {
	w.given[x] = true
	w.load[w.p.Pairs[x].Person]++
	w.room[w.p.Pairs[x].Person]--
}

// drop takes a pair back.
func (w *network) drop(x int) {
	w.given[x] = false
	w.load[w.p.Pairs[x].Person]--
	w.room[w.p.Pairs[x].Person]++
}

func (w *network) last() int { return len(w.dist) - 1 }

// search finds the cheapest way by which a unit goes from one node to another: at an
// award it is a place to be used, at a person one award too many. Costs are of worth.
func (w *network) search(start, end int) (int64, bool) {
	for v := range w.dist {
		w.dist[v], w.from[v], w.by[v] = unreached, -1, -1
	}
	w.dist[start], w.line = 0, append(w.line[:0], int32(start))
	awards, rest := len(w.p.Awards), w.last()
	reach := func(v int, d int64, from int, by int32) {
		if d >= w.dist[v] {
			return
		}
		w.dist[v], w.from[v], w.by[v] = d, int32(from), by
		if !w.in[v] && v != end {
			w.in[v] = true
			w.line = append(w.line, int32(v))
		}
	}
	for k := 0; k < len(w.line); k++ {
		v := int(w.line[k])
		w.in[v] = false
		d := w.dist[v]
		switch {
		case v == rest:
			for a, n := range w.open {
				if n > 0 {
					reach(a, d, v, -1)
				}
			}
			for i, n := range w.load {
				if n > 0 {
					reach(awards+i, d, v, -1)
				}
			}
		case v < awards:
			reach(rest, d, v, -1)
			for _, x := range w.ofAward[v] {
				if !w.given[x] {
					reach(awards+w.p.Pairs[x].Person, d-w.p.Pairs[x].Worth, v, x)
				}
			}
		default:
			if w.room[v-awards] > 0 {
				reach(rest, d, v, -1)
			}
			for _, x := range w.ofPerson[v-awards] {
				if w.given[x] && !w.p.Pairs[x].Held {
					reach(w.p.Pairs[x].Award, d+w.p.Pairs[x].Worth, v, x)
				}
			}
		}
	}
	return w.dist[end], w.dist[end] < unreached
}

// follow changes what is given along the way that was found.
func (w *network) follow(start, end int) {
	awards := len(w.p.Awards)
	for v := end; v != start; {
		u, x := int(w.from[v]), w.by[v]
		switch {
		case x < 0 && u < awards: // a place is not used
			w.open[u]++
		case x < 0 && v < awards: // one that was not is
			w.open[v]--
		case x >= 0 && u < awards:
			w.take(int(x))
		case x >= 0:
			w.drop(int(x))
		}
		v = u
	}
}

// byFlow lets the places in one after another, each by the cheapest way. Potentials are
// the prices of places and what people have from their last one, so that no way costs
// less than nothing and a search ends where it is settled (Edmonds and Karp, Journal of
// the ACM 19(2), 1972).
func (p *Problem) byFlow() *Placing {
	w := p.network()
	w.height = make([]int64, len(w.dist))
	for _, x := range p.Pairs { // nobody wants one yet
		if !x.Barred {
			w.height[x.Award] = max(w.height[x.Award], x.Worth)
		}
	}
	for v := range w.dist {
		w.dist[v], w.from[v], w.by[v] = unreached, -1, -1
	}
	left := make([]int, len(p.Awards))
	for a := range left {
		left[a] = p.places(a)
	}
	for x, pair := range p.Pairs {
		if pair.Held {
			w.take(x)
			left[pair.Award]--
		}
	}
	for a := range left {
		for ; left[a] > 0; left[a]-- {
			w.cheapest(a)
			w.follow(a, w.last())
			w.forget()
			if w.open[a] > 0 { // nobody is better off by it: nor by another
				w.open[a] += left[a] - 1
				break
			}
		}
	}
	out := w.placing()
	out.Bound = out.Worth
	for a := range p.Awards {
		out.Prices = append(out.Prices, float64(w.height[a]*Parts))
	}
	out.Prices = append(out.Prices, 0)
	return out
}

// node is one to be looked at, with its distance in reduced costs.
type node struct {
	at   int64
	node int32
}

// cheapest finds the cheapest way of a place of an award, and lowers the potentials of
// what it passed.
func (w *network) cheapest(start int) {
	awards, end := len(w.p.Awards), w.last()
	w.heap = append(w.heap[:0], node{0, int32(start)})
	w.dist[start], w.seen = 0, append(w.seen[:0], int32(start))
	reach := func(v int, d int64, from int, by int32) {
		if d >= w.dist[v] {
			return
		}
		if w.dist[v] == unreached {
			w.seen = append(w.seen, int32(v))
		}
		w.dist[v], w.from[v], w.by[v] = d, int32(from), by
		heap.Push(&w.heap, node{d, int32(v)})
	}
	for len(w.heap) > 0 {
		next := heap.Pop(&w.heap).(node)
		v, d := int(next.node), next.at
		if d > w.dist[v] {
			continue
		}
		if v == end {
			break
		}
		d += w.height[v]
		if v < awards {
			reach(end, d, v, -1)
			for _, x := range w.ofAward[v] {
				if i := awards + w.p.Pairs[x].Person; !w.given[x] {
					reach(i, d-w.p.Pairs[x].Worth-w.height[i], v, x)
				}
			}
			continue
		}
		if w.room[v-awards] > 0 {
			reach(end, d, v, -1)
		}
		for _, x := range w.ofPerson[v-awards] {
			if a := w.p.Pairs[x].Award; w.given[x] && !w.p.Pairs[x].Held {
				reach(a, d+w.p.Pairs[x].Worth-w.height[a], v, x)
			}
		}
	}
	for _, v := range w.seen {
		if far := w.dist[end] - w.dist[v]; far > 0 {
			w.height[v] -= far
		}
	}
}

// forget what a search reached.
func (w *network) forget() {
	for _, v := range w.seen {
		w.dist[v], w.from[v], w.by[v] = unreached, -1, -1
	}
}

// nodes are a heap, the nearest first.
type nodes []node

func (h nodes) Len() int           { return len(h) }
func (h nodes) Less(i, j int) bool { return h[i].at < h[j].at }
func (h nodes) Swap(i, j int)      { h[i], h[j] = h[j], h[i] }
func (h *nodes) Push(x any)        { *h = append(*h, x.(node)) }
func (h *nodes) Pop() any {
	old := *h
	x := old[len(old)-1]
	*h = old[:len(old)-1]
	return x
}

func (w *network) placing() *Placing {
	out := &Placing{}
	for x, is := range w.given {
		if is {
			out.Given = append(out.Given, x)
			out.Worth += w.p.Pairs[x].Worth
		}
	}
	return out
}

// resume is the network of a placing.
func (p *Problem) resume(given []int) *network {
	w := p.network()
	for a := range w.open {
		w.open[a] = p.places(a)
	}
	for _, x := range given {
		w.take(x)
		w.open[p.Pairs[x].Award]--
	}
	return w
}

// flowChange gives a pair in the cheapest way, or takes it away.
func (p *Problem) flowChange(given []int, x int, give bool) (*Placing, bool) {
	w := p.resume(given)
	award, person := p.Pairs[x].Award, len(p.Awards)+p.Pairs[x].Person
	var ok bool
	if give { // the person has one too many, the award one place too few
		held := p.Pairs[x].Held
		w.given[x], p.Pairs[x].Held = true, true // it does not go back by the same way
		if _, ok = w.search(person, award); ok {
			w.follow(person, award)
		}
		p.Pairs[x].Held = held
	} else {
		w.given[x] = false
		w.ofAward[award] = slices.DeleteFunc(slices.Clone(w.ofAward[award]), func(y int32) bool { return int(y) == x })
		if _, ok = w.search(award, person); ok {
			w.follow(award, person)
		}
	}
	if !ok {
		return nil, false
	}
	out := w.placing()
	out.Bound = out.Worth
	return out, true
}
