package placing

import (
	"math"
	"slices"
)

// nodeRounds of prices are looked for at each node of the branching.
const nodeRounds = 60

// byPrices places by pricing, then branches on what that leaves open. start is one
// whose prices are begun with; nil for none.
func (p *Problem) byPrices(e Effort, start *Placing) *Placing {
	own := *p
	own.Pairs = slices.Clone(p.Pairs) // branching holds and bars
	w := own.pricing()
	if start != nil {
		copy(w.price, start.Prices)
	}
	going := w.search(e.Rounds, func(done, rounds int) bool {
		return e.Reached == nil || e.Reached(90*done/max(1, rounds))
	})
	w.polish(w.best.pairs())
	bound, prices := w.bound/Parts, slices.Clone(w.at)
	if nodes := e.Looks / (nodeRounds * max(1, len(p.People))); going && bound > w.best.Worth && nodes > 0 {
		b := &branching{pricing: w, left: nodes, reached: e.Reached, nodes: nodes}
		b.node(w.bound)
		bound = min(bound, max(w.best.Worth, b.open/Parts))
	}
	out := w.best
	slices.Sort(out.Given)
	out.Bound = bound
	out.Prices = prices
	return out
}

// pairs of a placing.
func (p *Placing) pairs() (out []int32) {
	for _, x := range p.Given {
		out = append(out, int32(x))
	}
	return out
}

// branching settles what prices leave open: each pair in turn held or barred.
type branching struct {
	*pricing
	left, nodes int
	open        int64 // the greatest bound of a node that was not looked at, in parts
	reached     func(percent int) bool
}

// beats reports that something below a bound could be worth more than the best.
func (b *branching) beats(bound int64) bool { return bound/Parts > b.best.Worth }

// node looks at what is left under the pairs that are held and barred now, at the
// prices w.at, with its bound.
func (b *branching) node(bound int64) {
	if !b.beats(bound) {
		return
	}
	if b.left--; b.left < 0 {
		b.open = max(b.open, bound)
		return
	}
	if b.reached != nil && !b.reached(90+10*(b.nodes-b.left)/max(1, b.nodes)) {
		b.left = 0
	}
	at := slices.Clone(b.at)
	fixed, on, possible := b.settle(bound)
	defer func() { b.free(fixed) }()
	if !possible {
		return
	}
	if on < 0 { // all is settled
		var given []int32
		for x := range b.p.Pairs {
			if b.p.Pairs[x].Held {
				given = append(given, int32(x))
			}
		}
		b.keep(given)
		return
	}
	b.pricing.bound = math.MaxInt64
	copy(b.price, at)
	b.descend(nodeRounds, nil)
	b.polish(b.round())
	here := min(bound, b.pricing.bound)
	if !b.beats(here) {
		return
	}
	pair, mine := &b.p.Pairs[on], slices.Clone(b.at)
	for _, held := range []bool{true, false} {
		if pair.Held || pair.Barred {
			continue
		}
		pair.Held, pair.Barred = held, !held
		copy(b.at, mine)
		if b.p.Check() == nil {
			b.node(here)
		}
		pair.Held, pair.Barred = false, false
	}
}

// settle bars pairs that cannot be in a placing worth more than the best, and holds
// those that must be. on is the pair to branch on next, the one that least tells;
// -1 when none is open. possible is false when nothing better is left.
func (b *branching) settle(bound int64) (fixed []int32, on int32, possible bool) {
	copy(b.price, b.at)
	b.look()
	short := bound - Parts*(b.best.Worth+1) // what a better placing may lose at most
	on, least := int32(-1), int64(math.MaxInt64)
	in := make([]bool, len(b.p.Pairs))
	for _, set := range b.taken {
		for _, x := range set {
			in[x] = true
		}
	}
	type verdict struct {
		x    int32
		held bool
	}
	var verdicts []verdict
	for i := range b.p.People {
		value := func(x int32) (int64, bool) {
			pair := &b.p.Pairs[x]
			return Parts*pair.Worth - b.whole[pair.Award], true
		}
		_, full := b.s.bestSet(i, value)
		for _, x := range b.s.of[i] {
			pair := &b.p.Pairs[x]
			if pair.Held || pair.Barred {
				continue
			}
			var sum int64
			if in[x] { // what leaving it out loses
				pair.Barred = true
				_, sum = b.s.bestSet(i, value)
				pair.Barred = false
			} else { // what having it loses
				pair.Held = true
				if b.p.person(i, b.s.of[i]) {
					_, sum = b.s.bestSet(i, value)
				} else {
					sum = full - short - 1
				}
				pair.Held = false
			}
			loss := full - sum
			if loss > short {
				verdicts = append(verdicts, verdict{x, in[x]})
				continue
			}
			if over := b.used[pair.Award] != b.places[pair.Award]; over && loss < least || on < 0 {
				on = x
				if over {
					least = loss
				}
			}
		}
	}
	for _, v := range verdicts {
		pair := &b.p.Pairs[v.x]
		pair.Held, pair.Barred = v.held, !v.held
		fixed = append(fixed, v.x)
	}
	return fixed, on, b.p.Check() == nil
}

func (b *branching) free(fixed []int32) {
	for _, x := range fixed {
		b.p.Pairs[x].Held, b.p.Pairs[x].Barred = false, false
	}
}

// person reports that what a person holds by hand is within what they may have.
func (p *Problem) person(i int, of []int32) bool {
	who := p.People[i]
	number, sum := 0, int64(0)
	var groups [mostGroups]int
	for _, x := range of {
		if pair := p.Pairs[x]; pair.Held {
			number++
			sum += p.Awards[pair.Award].Least
			for g, group := range p.Groups {
				if slices.Contains(group.Awards, pair.Award) {
					groups[g]++
				}
			}
		}
	}
	for g, group := range p.Groups {
		if groups[g] > group.Most {
			return false
		}
	}
	return (who.Awards == 0 || number <= who.Awards) && (who.Money == 0 || sum <= who.Money)
}
