package budget

import (
	"math"
	"math/big"
	"math/rand/v2"
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
	got, _ := Sum([]Line{{"Reed stock", "", 3840000, 3000000, Own}, {"Groynes", "", 2950000, 2400000, InKind}, {"Survey", "", 1210000, 1000000, Promised}})
	if got.Cost != 8000000 || got.FromUs != 6400000 || got.Match != 1600000 || Percent(got.Match, got.Cost) != 20.0 {
		t.Errorf("%+v, match %.1f%%", got, Percent(got.Match, got.Cost))
	}
}
