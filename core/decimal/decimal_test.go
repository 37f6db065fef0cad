package decimal

import (
	"math"
	"math/big"
	"testing"

	"ulvant/core/condition"
)

func rat(n condition.Number) *big.Rat { return big.NewRat(n.Num, max(n.Den, 1)) }

// Source: exact rationals of math/big.
func FuzzAgainstRationals(f *testing.F) {
	f.Add("3.33", "3.67")
	f.Add("-0,5", "12")
	f.Fuzz(func(t *testing.T, x, y string) {
		a, ok := Parse(x)
		b, okB := Parse(y)
		if !ok || !okB || len(x)+len(y) > 16 { // beyond that a sum may reach its bound
			return
		}
		if got, want := rat(Add(a, b)), new(big.Rat).Add(rat(a), rat(b)); got.Cmp(want) != 0 {
			t.Errorf("%s + %s = %s, want %s", x, y, got, want)
		}
		if q, ok := Div(a, b); ok {
			if want := new(big.Rat).Quo(rat(a), rat(b)); rat(q).Cmp(want) != 0 {
				t.Errorf("%s / %s = %s, want %s", x, y, rat(q), want)
			}
		}
	})
}

func TestParse(t *testing.T) {
	for s, want := range map[string]bool{"12": true, " 3.67 ": true, "-0,5": true, "−2": true, "": false, ".": false, "1.2.3": false, "1e3": false, ".5": false, "1 000": false, "123456789012345678": false, "5.": true} {
		if _, ok := Parse(s); ok != want {
			t.Errorf("%q: %v", s, ok)
		}
	}
}

// Common practice, no source: a half goes away from nothing, also where a
// binary fraction lies just below it.
func TestHalvesAreRoundedAway(t *testing.T) {
	for _, c := range []struct {
		num, den int64
		places   int
		want     string
	}{{94650, 400, 2, "236.63"}, {1005, 1000, 2, "1.01"}, {-1005, 1000, 2, "-1.01"}, {5, 2, 0, "3"}, {1, 3, 2, "0.33"}, {12, 1, 2, "12"}, {math.MaxInt64, 1, 2, "9223372036854775807"}} {
		if got := String(condition.Number{Num: c.num, Den: c.den}, c.places); got != c.want {
			t.Errorf("%d/%d: %s, want %s", c.num, c.den, got, c.want)
		}
	}
}
