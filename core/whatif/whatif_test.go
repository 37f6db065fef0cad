package whatif

import (
	"math/rand/v2"
	"slices"
	"testing"
)

// Rounds of a handful of cases, as an officer would work them out by hand. Worths fall
// from 9; the fund holds 100.
func TestWork(t *testing.T) {
	n, s := Case{Groups: []int{0}}, Case{Groups: []int{1}} // north, south
	of := func(base Case, worth, asked, useful int64) Case {
		base.Known, base.Worth, base.Asked, base.Useful = true, worth, asked, useful
		return base
	}
	five := []Case{of(n, 9, 40, 30), of(n, 8, 40, 30), of(n, 7, 30, 15), of(s, 6, 20, 20), of(s, 5, 10, 10)}
	for _, c := range []struct {
		name    string
		cases   []Case
		rules   Rules
		gives   []int64
		reserve []int
		why     []Reason
		short   []int
	}{
		{"stops at the first that does not fit", five, Rules{Funds: []int64{100}, Reserves: 2}, []int64{40, 40, 0, 0, 0},
			[]int{0, 0, 1, 2, 0},
			[]Reason{InOrder, InOrder, Line, Line, Line}, nil},
		{"goes past it", five, Rules{Funds: []int64{100}, Past: true}, []int64{40, 40, 0, 20, 0}, nil,
			[]Reason{InOrder, InOrder, TooMuch, InOrder, TooMuch}, nil},
		{"gives a part", five, Rules{Funds: []int64{100}, Part: true}, []int64{40, 40, 20, 0, 0}, nil,
			[]Reason{InOrder, InOrder, InPart, Line, Line}, nil},
		{"no part that is of no use", five, Rules{Funds: []int64{94}, Part: true}, []int64{40, 40, 0, 0, 0}, nil,
			[]Reason{InOrder, InOrder, Line, Line, Line}, nil},
		{"cuts a quarter, and nobody below what is of use", five, Rules{Funds: []int64{100}, Cut: 250},
			[]int64{30, 30, 23, 0, 0}, nil,
			[]Reason{InOrder, InOrder, InOrder, Line, Line}, nil},
		{"least for the south", five, Rules{Funds: []int64{100}, Quotas: []Quota{{Field: 0, Value: 1, Least: 2, Most: -1}}},
			[]int64{40, 0, 0, 20, 10}, nil,
			[]Reason{InOrder, Line, Line, Least, Least}, nil},
		{"in money", five, Rules{Funds: []int64{100}, Quotas: []Quota{{Field: 0, Value: 1, Money: true, Least: 15,
			Most: -1}}}, []int64{40, 40, 0, 20, 0}, nil,
			[]Reason{InOrder, InOrder, Line, Least, Line}, nil},
		{"a least that cannot be reached", five, Rules{Funds: []int64{100}, Quotas: []Quota{{Field: 0, Value: 1, Least: 3,
			Most: -1}}}, []int64{40, 0, 0, 20, 10}, nil,
			[]Reason{InOrder, Line, Line, Least, Least}, []int{0}},
		{"at most one of the north", five, Rules{Funds: []int64{100}, Quotas: []Quota{{Field: 0, Value: 0, Most: 1}},
			Reserves: 1}, []int64{40, 0, 0, 20, 10},
			[]int{0, 1, 0, 0, 0}, []Reason{InOrder, Most, Most, InOrder, InOrder}, nil},
		{"held by hand", five, Rules{Funds: []int64{100}, Held: map[int]Held{0: {}, 4: {Give: true, Sum: 7},
			3: {Reserve: true}}, Reserves: 2},
			[]int64{0, 40, 30, 0, 7}, []int{0, 0, 0, 1, 0}, []Reason{ByHand, InOrder, InOrder, ByHand, ByHand}, nil},
		{"nobody marked it", []Case{of(n, 9, 40, 40), {Asked: 10, Useful: 10}}, Rules{Funds: []int64{100}, Reserves: 3},
			[]int64{40, 0}, []int{0, 0},
			[]Reason{InOrder, Unmarked}, nil},
		{"to the last cent", []Case{of(n, 9, 60, 60), of(n, 8, 40, 40)}, Rules{Funds: []int64{100}}, []int64{60, 40}, nil,
			[]Reason{InOrder, InOrder}, nil},
		{"nothing asked", []Case{of(n, 9, 0, 0), of(n, 8, 40, 40)}, Rules{Funds: []int64{100}}, []int64{0, 40}, nil,
			[]Reason{Line, InOrder}, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := Work(c.cases, c.rules)
			if !slices.Equal(r.Gives, c.gives) || c.reserve != nil && !slices.Equal(r.Reserve, c.reserve) ||
				!slices.Equal(r.Why, c.why) ||
				!slices.Equal(r.Short, c.short) {
				t.Errorf("%v %v %v %v, want %v %v %v %v", r.Gives, r.Reserve, r.Why, r.Short, c.gives, c.reserve, c.why, c.short)
			}
		})
	}
	streams := []Case{of(n, 9, 60, 60), of(n, 8, 50, 50), of(s, 7, 60, 60), of(s, 6, 30, 30)}
	streams[2].Fund, streams[3].Fund = 1, 1
	if r := Work(streams, Rules{Funds: []int64{100, 90}}); !slices.Equal(r.Gives, []int64{60, 0, 60, 30}) ||
		!slices.Equal(r.Placed, []int64{60, 90}) {
		t.Errorf("two streams, each with its own line: %v, %v placed", r.Gives, r.Placed)
	}
}

// Two what-ifs beside each other are the cases that differ, and a quota costs those
// that come and go.
func TestCompare(t *testing.T) {
	cases, rules := large(40)
	with := Work(cases, rules)
	for q := range rules.Quotas {
		for _, d := range Compare(with, Without(cases, rules, q)) {
			if with.Gives[d.Case] != d.A || d.A == d.B {
				t.Errorf("%+v", d)
			}
		}
	}
	if len(rules.Quotas) != 10 || Compare(with, with) != nil {
		t.Error("a what-if differs from itself, or a quota is lost")
	}
}

// What a quota costs in rank: who comes in for whom, and how far down the order.
func TestCostOf(t *testing.T) {
	const n, s = 0, 1
	of := func(value int, score, asked int64) Case {
		return Case{Known: true, Worth: score, Asked: asked, Useful: asked, Groups: []int{value}}
	}
	cases := []Case{of(n, 9, 10), of(n, 8, 10), of(n, 7, 10), of(s, 6, 10), of(s, 5, 10)}
	for _, c := range []struct {
		says    string
		quota   Quota
		in, out []int
		ranks   int
	}{
		{"one of the south at least", Quota{Value: s, Least: 1, Most: -1}, []int{3}, []int{2}, 1},
		{"two", Quota{Value: s, Least: 2, Most: -1}, []int{3, 4}, []int{1, 2}, 4},
		{"one of the north at least", Quota{Value: n, Least: 1, Most: -1}, nil, nil, 0},
		{"one of the north at most", Quota{Value: n, Most: 1}, []int{3, 4}, []int{1, 2}, 4},
	} {
		rules := Rules{Funds: []int64{30}, Quotas: []Quota{c.quota}}
		got := CostOf(cases, rules, 0, Work(cases, rules))
		if !slices.Equal(got.In, c.in) || !slices.Equal(got.Out, c.out) || got.Ranks() != c.ranks {
			t.Errorf("%s: %+v, %d ranks", c.says, got, got.Ranks())
		}
	}
}

// Whatever the rules: no fund is passed, no most, nobody gets more than they ask or
// less than is of use to them, who is held stays, and reserves are the first of those
// who get nothing.
func TestWorkKeepsItsRules(t *testing.T) {
	draw := rand.New(rand.NewPCG(19, 4))
	for range 5000 {
		cases, rules := drawn(draw, 1+draw.IntN(20))
		r := Work(cases, rules)
		money, counts := make([]int64, 2), make([]int64, len(rules.Quotas))
		last := 0
		for i, c := range cases {
			g, h := r.Gives[i], rules.Held[i]
			_, held := rules.Held[i]
			money[c.Fund] += g
			if g > 0 && (g > c.Asked || g < min(c.Useful, c.Asked) || !c.Known && !held) || held && !h.Give && g > 0 {
				t.Fatalf("%+v is given %d (%+v)", c, g, h)
			}
			for q, quota := range rules.Quotas {
				if g > 0 && quota.of(c) {
					counts[q] += quota.counts(g)
				}
			}
			if r.Reserve[i] > 0 {
				if g > 0 || r.Reserve[i] != last+1 && !h.Reserve {
					t.Fatalf("place %d in reserve after %d, with %d", r.Reserve[i], last, g)
				}
				last = r.Reserve[i]
			}
			if (r.Why[i] == Least || r.Why[i] == Most) != (r.By[i] >= 0) {
				t.Fatalf("%v by %d", r.Why[i], r.By[i])
			}
		}
		for f := range money {
			if hand := rules.Held; len(hand) == 0 && money[f] > rules.Funds[f] || money[f] != r.Placed[f] {
				t.Fatalf("fund %d holds %d, %d placed", rules.Funds[f], money[f], r.Placed[f])
			}
		}
		for q, quota := range rules.Quotas {
			if len(rules.Held) == 0 && quota.Most >= 0 && counts[q] > quota.Most || slices.Contains(r.Short,
				q) != (counts[q] < quota.Least) {
				t.Fatalf("quota %+v holds %d, short %v", quota, counts[q], r.Short)
			}
		}
		if free := BestSet(cases, rules, 20_000); free.Gives != nil && len(r.Short) == 0 && !rules.Part &&
			len(rules.Held) == 0 && r.Worth > free.Worth {
			t.Fatalf("the order is worth %d, the best %d", r.Worth, free.Worth)
		}
	}
}
