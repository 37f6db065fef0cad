package placing

import "slices"

// Reason is why a pair is not given in a placing.
type Reason string

// The reasons, in the order in which they are looked for.
const (
	IsGiven    Reason = ""
	IsBarred   Reason = "barred"     // by hand
	NoPlace    Reason = "no place"   // the award has none, or its purse pays none
	ApartFrom  Reason = "apart"      // the person has one that excludes it
	TooCostly  Reason = "too costly" // it alone is more than the person may have
	EnoughHas  Reason = "enough"     // the person has as many as they may
	MoneyHas   Reason = "money"      // with what they have it would be more than they may have
	OthersHave Reason = "others"     // its places are given to others
	FundEnds   Reason = "fund"       // the fund does not reach for it
)

// Why says why a pair is not given, with the pairs that stand in its way: what the
// person has where that keeps them from it, else who has the award.
func (p *Problem) Why(given []int, x int) (Reason, []int) {
	pair := p.Pairs[x]
	var has, holders []int
	sum, all := int64(0), int64(0)
	for _, y := range given {
		least := p.Awards[p.Pairs[y].Award].Least
		all += least
		if y == x {
			return IsGiven, nil
		}
		if p.Pairs[y].Person == pair.Person {
			has = append(has, y)
			sum += least
		}
		if p.Pairs[y].Award == pair.Award {
			holders = append(holders, y)
		}
	}
	who, award := p.People[pair.Person], p.Awards[pair.Award]
	switch {
	case pair.Barred:
		return IsBarred, nil
	case p.places(pair.Award) == 0:
		return NoPlace, nil
	}
	for _, g := range p.Groups {
		if !slices.Contains(g.Awards, pair.Award) {
			continue
		}
		var in []int
		for _, y := range has {
			if slices.Contains(g.Awards, p.Pairs[y].Award) {
				in = append(in, y)
			}
		}
		if len(in) >= g.Most {
			return ApartFrom, in
		}
	}
	switch {
	case who.Money > 0 && award.Least > who.Money:
		return TooCostly, nil
	case who.Awards > 0 && len(has) >= who.Awards:
		return EnoughHas, has
	case who.Money > 0 && sum+award.Least > who.Money:
		return MoneyHas, has
	case len(holders) >= p.places(pair.Award):
		return OthersHave, holders
	case p.Fund > 0 && all+award.Least > p.Fund:
		return FundEnds, nil
	}
	return OthersHave, holders
}

// Without is the problem with one place of an award less.
func (p *Problem) Without(award int) *Problem {
	own := *p
	own.Awards = slices.Clone(p.Awards)
	own.Awards[award].Places = p.places(award) - 1
	return &own
}
