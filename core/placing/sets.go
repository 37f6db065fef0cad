package placing

import (
	"math/bits"
	"slices"
)

// sets finds the best set of awards for one person at a time: exactly, by trying those
// of most value first and going back where what is left cannot make it up.
type sets struct {
	p       *Problem
	of      [][]int32 // pairs of each person
	groups  []uint64  // of each award, by bits
	pick    []choice
	chosen  []int32
	best    []int32
	value   int64
	counts  [mostGroups]int
	number  int     // awards a person may still have
	money   int64   // and money; boundless where there is no cap
	prefix  []int64 // sums of the values, the greatest first
	density []float64
}

// choice is a pair with its value at the prices that hold.
type choice struct {
	pair  int32
	value int64
	cost  int64
	group uint64
}

const boundlessMoney = int64(1) << 61

func (p *Problem) sets() *sets {
	s := &sets{p: p, of: make([][]int32, len(p.People)), groups: make([]uint64, len(p.Awards))}
	for x, pair := range p.Pairs {
		s.of[pair.Person] = append(s.of[pair.Person], int32(x))
	}
	for g, group := range p.Groups {
		for _, a := range group.Awards {
			s.groups[a] |= 1 << g
		}
	}
	return s
}

// bestSet of a person, by the value of each pair: those that are held, and those of
// value that may be. It is valid until the next call.
func (s *sets) bestSet(person int, value func(x int32) (v int64, may bool)) (set []int32, sum int64) {
	who := s.p.People[person]
	s.pick, s.chosen, s.best = s.pick[:0], s.chosen[:0], s.best[:0]
	s.number, s.money = boundless, boundlessMoney
	if who.Awards > 0 {
		s.number = who.Awards
	}
	if who.Money > 0 {
		s.money = who.Money
	}
	for g := range s.p.Groups {
		s.counts[g] = s.p.Groups[g].Most
	}
	var held int64
	for _, x := range s.of[person] {
		pair := &s.p.Pairs[x]
		if pair.Barred {
			continue
		}
		v, may := value(x)
		cost, group := s.p.Awards[pair.Award].Least, s.groups[pair.Award]
		if pair.Held {
			held += v
			s.chosen = append(s.chosen, x)
			s.number--
			s.money -= cost
			s.enter(group, -1)
		} else if may && v > 0 {
			s.pick = append(s.pick, choice{x, v, cost, group})
		}
	}
	s.value = held
	s.best = append(s.best, s.chosen...)
	if len(s.pick) == 0 || s.number <= 0 {
		return s.best, s.value
	}
	slices.SortFunc(s.pick, func(a, b choice) int {
		switch {
		case a.value > b.value:
			return -1
		case a.value < b.value:
			return 1
		}
		return int(a.pair - b.pair)
	})
	s.prefix = append(s.prefix[:0], 0)
	for _, c := range s.pick {
		s.prefix = append(s.prefix, s.prefix[len(s.prefix)-1]+c.value)
	}
	s.density = append(s.density[:0], make([]float64, len(s.pick)+1)...)
	for i := len(s.pick) - 1; i >= 0; i-- { // the most that a coin brings among those left
		s.density[i] = max(s.density[i+1], float64(s.pick[i].value)/float64(max(1, s.pick[i].cost)))
	}
	s.try(0, held)
	return s.best, s.value
}

// enter counts an award in, or with 1 out of, its groups.
func (s *sets) enter(group uint64, by int) {
	for g := group; g != 0; g &= g - 1 {
		s.counts[bits.TrailingZeros64(g)] += by
	}
}

func (s *sets) fits(c choice) bool {
	if c.cost > s.money {
		return false
	}
	for g := c.group; g != 0; g &= g - 1 {
		if s.counts[bits.TrailingZeros64(g)] <= 0 {
			return false
		}
	}
	return true
}

func (s *sets) try(at int, value int64) {
	if value > s.value {
		s.value, s.best = value, append(s.best[:0], s.chosen...)
	}
	if s.number <= 0 {
		return
	}
	for i := at; i < len(s.pick); i++ {
		most := s.prefix[min(len(s.pick), i+s.number)] - s.prefix[i]
		if value+most <= s.value {
			return
		}
		if s.money < boundlessMoney && float64(s.value-value) >= s.density[i]*float64(s.money)+1 {
			return
		}
		c := s.pick[i]
		if !s.fits(c) {
			continue
		}
		s.number--
		s.money -= c.cost
		s.enter(c.group, -1)
		s.chosen = append(s.chosen, c.pair)
		s.try(i+1, value+c.value)
		s.chosen = s.chosen[:len(s.chosen)-1]
		s.number++
		s.money += c.cost
		s.enter(c.group, 1)
	}
}
