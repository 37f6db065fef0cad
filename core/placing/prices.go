package placing

import (
	"math"
	"slices"
)

// pricing looks for the prices of the places at which the sets that people would take
// are worth the least: no placing is worth more than that.
type pricing struct {
	p      *Problem
	s      *sets
	places []int
	cost   []int64 // of one place: its least sum

	price []float64 // of each award, then of a coin of the fund
	dear  []float64 // at which nobody takes any
	whole []int64   // the same, as whole parts, with what the fund's price makes of an award
	used  []int
	spent int64
	taken [][]int32 // the set of each person at the last prices

	bound   int64 // the least so far, in parts
	still   bool  // the price of the fund is not moved
	at      []float64
	best    *Placing
	byAward [][]int32
}

func (p *Problem) pricing() *pricing {
	w := &pricing{p: p, s: p.sets(), price: make([]float64, len(p.Awards)+1), whole: make([]int64, len(p.Awards)),
		used:  make([]int, len(p.Awards)),
		taken: make([][]int32, len(p.People)), bound: math.MaxInt64}
	for a := range p.Awards {
		w.places = append(w.places, p.places(a))
		w.cost = append(w.cost, p.Awards[a].Least)
	}
	w.dear = make([]float64, len(w.price))
	for _, x := range p.Pairs {
		worth := float64(Parts * x.Worth)
		w.dear[x.Award] = max(w.dear[x.Award], worth)
		w.dear[len(w.dear)-1] = max(w.dear[len(w.dear)-1], worth/float64(max(1, w.cost[x.Award])))
	}
	return w
}

// look has everybody take their best set at the prices, and bounds what any placing is
// worth, in parts.
func (w *pricing) look() int64 {
	fund := w.price[len(w.price)-1]
	bound := int64(math.Ceil(fund * float64(w.p.Fund)))
	for a := range w.whole {
		own := int64(math.Round(w.price[a]))
		bound += own * int64(w.places[a])
		w.whole[a] = own + int64(math.Floor(fund*float64(w.cost[a])))
		w.used[a] = 0
	}
	w.spent = 0
	for i := range w.p.People {
		set, value := w.s.bestSet(i, func(x int32) (int64, bool) {
			pair := &w.p.Pairs[x]
			return Parts*pair.Worth - w.whole[pair.Award], true
		})
		bound += value
		w.taken[i] = append(w.taken[i][:0], set...)
		for _, x := range set {
			a := w.p.Pairs[x].Award
			w.used[a]++
			w.spent += w.cost[a]
		}
	}
	return bound
}

// descend lowers the bound by so many rounds: prices rise where more is taken than
// there is, and fall where less is (Held, Wolfe and Crowder, Mathematical Programming
// 6(1), 1974, with the step of Polyak). It reports false when it was stopped.
func (w *pricing) descend(rounds int, reached func(done, rounds int) bool) bool {
	theta, since := 1.6, 0
	way := make([]float64, len(w.price))
	for k := range rounds {
		if reached != nil && !reached(k, rounds) {
			return false
		}
		bound := w.look()
		if bound < w.bound {
			if w.bound-bound > (w.bound/10000)/10 {
				since = 0
			}
			w.bound, w.at = bound, append(w.at[:0], w.price...)
		} else if since++; since >= 15 {
			theta, since = theta*0.6, 0
			copy(w.price, w.at)
			clear(way)
		}
		if w.best == nil || k%25 == 24 || k == rounds-1 {
			w.keep(w.round())
		}
		gap := float64(w.bound - Parts*w.best.Worth)
		if gap < Parts || theta < 1e-4 {
			break
		}
		norm := 0.0
		for a := range w.whole {
			g := float64(w.used[a] - w.places[a])
			if g < 0 && w.price[a] == 0 {
				g = 0
			}
			way[a] = g + 0.6*way[a]
			norm += g * g
		}
		last := len(w.price) - 1
		scale := 0.0
		if w.p.Fund > 0 && !w.still { // in places of the mean cost, so that it weighs like an award
			scale = w.meanCost()
			g := float64(w.spent-w.p.Fund) / scale
			if g < 0 && w.price[last] == 0 {
				g = 0
			}
			way[last] = g + 0.6*way[last]
			norm += g * g
		}
		if norm == 0 {
			break
		}
		step := theta * max(gap, Parts) / norm
		for a := range w.whole {
			w.price[a] = min(max(0, w.price[a]+step*way[a]), w.dear[a])
		}
		if scale > 0 {
			w.price[last] = min(max(0, w.price[last]+step*way[last]/scale), w.dear[last])
		}
	}
	return true
}

// search for the prices with rounds to spend: first without a fund, as if there were
// money for all; where that is not so, the price of its money is found between two, one
// at which too much is spent and one at which too little.
func (w *pricing) search(rounds int, reached func(done, rounds int) bool) bool {
	last := len(w.price) - 1
	if w.p.Fund == 0 || w.price[last] > 0 { // none, or a price to begin with
		return w.descend(rounds, reached)
	}
	w.still = true
	defer func() { w.still = false }()
	if !w.descend(rounds, reached) {
		return false
	}
	low, high := 0.0, w.dear[last]
	for range halvings {
		copy(w.price, w.at)
		if w.look(); w.spent <= w.p.Fund && w.price[last] == 0 {
			return true
		}
		bound, at := w.bound, slices.Clone(w.at)
		w.price[last] = (low + high) / 2
		w.bound = math.MaxInt64
		if !w.descend(rounds/8, nil) {
			return false
		}
		copy(w.price, w.at)
		if w.look(); w.spent > w.p.Fund {
			low = w.price[last]
		} else {
			high = w.price[last]
		}
		if w.bound >= bound {
			w.bound, w.at = bound, at
		}
		if w.bound-Parts*w.best.Worth < Parts {
			return true
		}
	}
	w.still = false
	copy(w.price, w.at)
	return w.descend(rounds/4, nil)
}

// halvings of the span in which the price of the fund’s money is looked for.
const halvings = 14

func (w *pricing) meanCost() float64 {
	sum := int64(0)
	for _, c := range w.cost {
		sum += c
	}
	return max(1, float64(sum)/float64(max(1, len(w.cost))))
}

// keep a placing that is worth more than the best so far.
func (w *pricing) keep(given []int32) {
	sum := int64(0)
	for _, x := range given {
		sum += w.p.Pairs[x].Worth
	}
	if w.best == nil || sum > w.best.Worth {
		out := &Placing{Worth: sum}
		for _, x := range given {
			out.Given = append(out.Given, int(x))
		}
		w.best = out
	}
}
