package placing

import "slices"

// Change gives a pair, or takes it away, and places the rest anew around it. What it
// costs is the difference of the worths. ok is false where it cannot be: too much is
// held by hand. The pair itself is held or barred only for this.
func Change(p *Problem, from *Placing, pair int, give bool) (out *Placing, ok bool) {
	own := *p
	own.Pairs = slices.Clone(p.Pairs)
	own.Pairs[pair].Held, own.Pairs[pair].Barred = give, !give
	if own.Check() != nil {
		return nil, false
	}
	if own.flows() {
		if slices.Contains(from.Given, pair) == give {
			return from, true
		}
		return own.flowChange(from.Given, pair, give)
	}
	out = own.byPrices(own.waited(), &Placing{Prices: from.Prices})
	// of two that are worth the same, the one in which fewer have something else
	if near := own.nearby(from, int32(pair), give); near != nil && near.Worth >= out.Worth {
		near.Bound, near.Prices = max(near.Worth, out.Bound), out.Prices
		out = near
	}
	return out, true
}

// Emptied leaves one place of an award empty and places the rest anew around it; ok is
// false where all its places are held by hand.
func Emptied(p *Problem, from *Placing, award int) (out *Placing, ok bool) {
	less := p.Without(award)
	less.Pairs = slices.Clone(p.Pairs)
	if less.Check() != nil {
		return nil, false
	}
	if less.flows() {
		out = less.byFlow()
	} else {
		out = less.byPrices(less.waited(), &Placing{Prices: from.Prices})
	}
	if near := less.mended(less.drafted(from)); near != nil && near.Worth >= out.Worth {
		near.Bound, near.Prices = max(near.Worth, out.Bound), out.Prices
		out = near
	}
	return out, true
}

// nearby changes one pair of a placing and mends only what that breaks; nil where that
// does not lead to a placing.
func (p *Problem) nearby(from *Placing, pair int32, give bool) *Placing {
	d := p.drafted(from)
	i := p.Pairs[pair].Person
	if !give {
		set, _ := d.without(i, pair, -1)
		d.change(i, slices.Clone(set))
		return p.mended(d)
	}
	set, _, ok := d.with(i, pair)
	if !ok {
		return nil
	}
	d.change(i, slices.Clone(set))
	return p.mended(d)
}

// drafted is a placing laid out for mending.
func (p *Problem) drafted(from *Placing) *draft {
	sets := make([][]int32, len(p.People))
	for _, x := range from.Given {
		sets[p.Pairs[x].Person] = append(sets[p.Pairs[x].Person], int32(x))
	}
	return p.pricing().draft(sets)
}

// waited is the effort of a change that somebody waits for.
func (p *Problem) waited() Effort {
	if len(p.Pairs) > swapped {
		return Effort{Rounds: 30, Looks: 60_000}
	}
	return Effort{Rounds: 80, Looks: 120_000}
}

// swapped is how many pairs there may be for swaps to be looked for while somebody
// waits.
const swapped = 10_000

// mended takes away what is too much, and gives what that leaves open; nil where
// something is still too much.
func (p *Problem) mended(d *draft) *Placing {
	for a := range d.free {
		d.relieve(a)
	}
	d.afford()
	d.fill()
	for range 10 {
		if len(p.Pairs) > swapped || !d.swap() {
			break
		}
		d.fill()
	}
	if d.left < 0 || !d.within() {
		return nil
	}
	d.w.keep(d.list())
	slices.Sort(d.w.best.Given)
	return d.w.best
}

// Losses say of each pair what giving it would cost at the least, in Worth, by the
// prices of a placing: 0 for those that are given, and for those that no price speaks
// against. A pair that cannot be given at all is -1.
func Losses(p *Problem, from *Placing, pairs []int) []int64 {
	own := *p
	own.Pairs = slices.Clone(p.Pairs)
	w := own.pricing()
	copy(w.price, from.Prices)
	above := w.look() - Parts*from.Worth // by which the prices bound more than there is
	value := func(x int32) (int64, bool) {
		pair := &own.Pairs[x]
		return Parts*pair.Worth - w.whole[pair.Award], true
	}
	given := make([]bool, len(p.Pairs))
	for _, x := range from.Given {
		given[x] = true
	}
	out := make([]int64, len(pairs))
	for k, x := range pairs {
		pair := &own.Pairs[x]
		if given[x] {
			continue
		}
		if out[k] = -1; pair.Barred {
			continue
		}
		_, full := w.s.bestSet(pair.Person, value)
		pair.Held = true
		if own.person(pair.Person, w.s.of[pair.Person]) {
			_, with := w.s.bestSet(pair.Person, value)
			out[k] = max(0, (full-with-above+Parts-1)/Parts)
		}
		pair.Held = false
	}
	return out
}

// Sums are what each of the given pairs gets, minor units: its award’s least, and of
// what purses, people and the fund leave, up to its most, whoever is worth most first.
func Sums(p *Problem, given []int) []int64 {
	out := make([]int64, len(given))
	purse, money := make([]int64, len(p.Awards)), make([]int64, len(p.People))
	fund := p.Fund
	if fund == 0 {
		fund = boundlessMoney
	}
	for a, x := range p.Awards {
		if purse[a] = x.Purse; x.Purse == 0 {
			purse[a] = boundlessMoney
		}
	}
	for i, who := range p.People {
		if money[i] = who.Money; who.Money == 0 {
			money[i] = boundlessMoney
		}
	}
	give := func(k int, sum int64) {
		pair := p.Pairs[given[k]]
		out[k] += sum
		purse[pair.Award] -= sum
		money[pair.Person] -= sum
		fund -= sum
	}
	order := make([]int, len(given))
	for k, x := range given {
		order[k] = k
		give(k, p.Awards[p.Pairs[x].Award].Least)
	}
	slices.SortStableFunc(order, func(a, b int) int { return int(p.Pairs[given[b]].Worth - p.Pairs[given[a]].Worth) })
	for _, k := range order {
		pair := p.Pairs[given[k]]
		more := p.Awards[pair.Award].Most - out[k]
		give(k, max(0, min(more, purse[pair.Award], money[pair.Person], fund)))
	}
	return out
}
