package placing_test

import (
	"slices"
	"testing"

	. "ulvant/core/placing"
)

func TestWhy(t *testing.T) {
	p := &Problem{
		Awards: []Award{{Places: 1, Least: 400}, {Places: 1, Least: 300}, {Places: 1, Least: 200}, {Places: 0, Least: 100},
			{Places: 2, Least: 900}},
		People: []Person{{Awards: 2, Money: 700}, {}, {Money: 500}},
		Pairs: []Pair{
			{Person: 0, Award: 0, Worth: 9}, {Person: 0, Award: 1, Worth: 8}, {Person: 0, Award: 2, Worth: 7}, // 0 1 2
			{Person: 1, Award: 0, Worth: 5}, {Person: 1, Award: 2, Worth: 5}, {Person: 1, Award: 3, Worth: 5}, // 3 4 5
			{Person: 1, Award: 4, Worth: 5}, {Person: 2, Award: 4, Worth: 5}, {Person: 2, Award: 0, Worth: 5}, // 6 7 8
			{Person: 2, Award: 1, Worth: 5, Barred: true}, {Person: 2, Award: 2, Worth: 5}, // 9 10
		},
		Groups: []Group{{Awards: []int{2, 4}, Most: 1}},
		Fund:   2000,
	}
	for _, c := range []struct {
		says  string
		given []int
		pair  int
		why   Reason
		by    []int
	}{
		{"it is", []int{0}, 0, IsGiven, nil},
		{"somebody else has it", []int{0}, 3, OthersHave, []int{0}},
		{"as many as they may have", []int{0, 1}, 2, EnoughHas, []int{0, 1}},
		{"what they have comes too near to what they may have", []int{10, 7}, 8, TooCostly, nil},
		{"it comes to just what they may have: other awards are worth more", []int{1}, 0, OthersHave, nil},
		{"no place", nil, 5, NoPlace, nil},
		{"they have one that excludes it", []int{4}, 6, ApartFrom, []int{4}},
		{"by hand", nil, 9, IsBarred, nil},
		{"it alone is too much", nil, 7, TooCostly, nil},
		{"the fund", []int{6, 0, 1}, 10, OthersHave, nil},
	} {
		t.Run(c.says, func(t *testing.T) {
			q := *p
			if c.says == "the fund" {
				q.Fund, c.why = 1700, FundEnds
			}
			if c.pair == 8 {
				q.People = slices.Clone(p.People)
				q.People[2].Money, c.why, c.by = 1200, MoneyHas, []int{10, 7}
			}
			why, by := q.Why(c.given, c.pair)
			if why != c.why || !slices.Equal(by, c.by) {
				t.Errorf("%q %v, not %q %v", why, by, c.why, c.by)
			}
		})
	}
}
