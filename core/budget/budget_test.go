package budget

import (
	"math"
	"math/big"
	"math/rand/v2"
	"reflect"
	"testing"
)

// Source: exact rational arithmetic of math/big, on random tables.
func TestSumAndMatchAreExact(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	for range 500 {
		var lines []Line
		cost, us := new(big.Rat), new(big.Rat)
		for range 1 + r.IntN(30) {
			c := r.Int64N(1e11)
			l := Line{Cost: c, FromUs: r.Int64N(c + 1), Payer: Payers[r.IntN(4)]}
			lines = append(lines, l)
			cost.Add(cost, big.NewRat(l.Cost, 100))
			us.Add(us, big.NewRat(l.FromUs, 100))
		}
		got, ok := Sum(lines)
		if !ok || big.NewRat(got.Cost, 100).Cmp(cost) != 0 || big.NewRat(got.FromUs, 100).Cmp(us) != 0 {
			t.Fatalf("%+v, want %s and %s", got, cost, us)
		}
		percent := 1 + r.Int64N(100)
		least := LeastMatch(got.Cost, percent)
		floor := new(big.Rat).Mul(big.NewRat(got.Cost, 1), big.NewRat(percent, 100))
		if big.NewRat(least, 1).Cmp(floor) < 0 || big.NewRat(least-1, 1).Cmp(floor) >= 0 {
			t.Fatalf("least match of %d at %d%% is %d, floor %s", got.Cost, percent, least, floor)
		}
	}
}

func TestSumNeverWraps(t *testing.T) {
	if _, ok := Sum([]Line{{Cost: math.MaxInt64}, {Cost: 1}}); ok {
		t.Error("a sum beyond the range was taken for a sum")
	}
}

// Share of the cost, not of the request: applicants mistake one for the other
// (common practice, no source).
func TestMatchIsAShareOfTheCost(t *testing.T) {
	got, _ := Sum([]Line{{"Reed stock", "", 3840000, 3000000, Own}, {"Groynes", "", 2950000, 2400000, InKind},
		{"Survey", "", 1210000, 1000000, Promised}})
	if got.Cost != 8000000 || got.FromUs != 6400000 || got.Match != 1600000 || Percent(got.Match, got.Cost) != 20.0 {
		t.Errorf("%+v, match %.1f%%", got, Percent(got.Match, got.Cost))
	}
}

// Who pays what of which heading; a line without anybody named is nobody's.
func TestByPayerAndHeading(t *testing.T) {
	got, ok := Sum([]Line{{"Reed", "Plants", 900, 600, Own}, {"Willow", "Plants", 500, 100, Promised},
		{"Boat", "Hire", 400, 400, ""}, {"Stakes", "Plants", 300, 0, Own}})
	want := Totals{Cost: 2100, FromUs: 1100, Match: 1000, ByPayer: map[Payer]int64{Own: 600, Promised: 400},
		ByHeading: map[string]int64{"Plants": 700, "Hire": 400}}
	if !ok || !reflect.DeepEqual(got, want) {
		t.Errorf("%+v %v, want %+v", got, ok, want)
	}
	if got, ok := Sum(nil); !ok || got.Cost != 0 || got.Match != 0 {
		t.Errorf("of nothing: %+v %v", got, ok)
	}
}

// A sum on the very bound is one; a unit beyond it is none, and what was added up
// before stays.
func TestSumAtItsBounds(t *testing.T) {
	for _, c := range []struct {
		name  string
		lines []Line
		ok    bool
	}{
		{"to the most", []Line{{Cost: math.MaxInt64 - 1}, {Cost: 1}}, true},
		{"one beyond", []Line{{Cost: math.MaxInt64 - 1}, {Cost: 2}}, false},
		{"to the least", []Line{{Cost: math.MinInt64 + 1}, {Cost: -1}}, true},
		{"one below", []Line{{Cost: math.MinInt64 + 1}, {Cost: -2}}, false},
		{"asked beyond", []Line{{FromUs: math.MaxInt64}, {FromUs: 1}}, false},
		{"nothing more", []Line{{Cost: math.MaxInt64}, {Cost: 0}}, true},
		{"one payer beyond", []Line{{Cost: math.MaxInt64, Payer: Own}, {Cost: math.MinInt64 + 9, Payer: InKind},
			{Cost: 5, Payer: Own}}, false},
		{"beyond, and then none", []Line{{Cost: math.MaxInt64}, {Cost: 1}, {Cost: 0, Payer: Own}}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got, ok := Sum(c.lines); ok != c.ok {
				t.Errorf("%v: %+v", ok, got)
			}
		})
	}
}

// Least and most shares in whole units. Source: exact rationals of math/big.
func TestShares(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 4))
	for range 2000 {
		sum, percent := r.Int64N(1_000_000), r.Int64N(101)
		exact := new(big.Rat).Mul(big.NewRat(sum, 1), big.NewRat(percent, 100))
		floor := new(big.Int).Quo(exact.Num(), exact.Denom()).Int64()
		ceil := floor
		if !exact.IsInt() {
			ceil++
		}
		if got := MostShare(sum, percent); got != floor {
			t.Fatalf("at most %d%% of %d is %d, want %d", percent, sum, got, floor)
		}
		if got := LeastMatch(sum, percent); got != ceil {
			t.Fatalf("at least %d%% of %d is %d, want %d", percent, sum, got, ceil)
		}
	}
	for _, c := range []struct{ sum, percent, least, most int64 }{{0, 15, 0, 0}, {-100, 15, 0, 0}, {1, 1, 1, 0},
		{1, 100, 1, 1}, {100, 15, 15, 15}, {101, 15, 16, 15}, {99, 50, 50, 49}} {
		if least, most := LeastMatch(c.sum, c.percent), MostShare(c.sum, c.percent); least != c.least || most != c.most {
			t.Errorf("%d%% of %d: at least %d, at most %d", c.percent, c.sum, least, most)
		}
	}
}

// For showing: tenths of a percent, a half upwards.
func TestPercent(t *testing.T) {
	for _, c := range []struct {
		part, whole int64
		want        float64
	}{{0, 0, 0}, {5, 0, 0}, {1, 3, 33.3}, {2, 3, 66.7}, {1, 1, 100}, {1, 2000, 0.1}, {1, 2001, 0}, {3, 2, 150}} {
		if got := Percent(c.part, c.whole); got != c.want {
			t.Errorf("%d of %d: %v, want %v", c.part, c.whole, got, c.want)
		}
	}
}
