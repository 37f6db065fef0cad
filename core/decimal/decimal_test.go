package decimal

import (
	"math"
	"math/big"
	"math/rand/v2"
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
	for s, want := range map[string]bool{"12": true, " 3.67 ": true, "-0,5": true, "−2": true, "": false, ".": false,
		"1.2.3": false, "1e3": false, ".5": false, "1 000": false, "123456789012345678": false, "5.": true} {
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
	}{{94650, 400, 2, "236.63"}, {1005, 1000, 2, "1.01"}, {-1005, 1000, 2, "-1.01"}, {5, 2, 0, "3"}, {1, 3, 2,
		"0.33"}, {12, 1, 2, "12"}, {math.MaxInt64, 1, 2, "9223372036854775807"}} {
		if got := String(condition.Number{Num: c.num, Den: c.den}, c.places); got != c.want {
			t.Errorf("%d/%d: %s, want %s", c.num, c.den, got, c.want)
		}
	}
}

// What is typed, as the ratio it stands for.
func TestParsedValues(t *testing.T) {
	for s, want := range map[string]condition.Number{"12": {Num: 12, Den: 1}, " 3.67 ": {Num: 367, Den: 100},
		"-0,5": {Num: -5, Den: 10}, "−2": {Num: -2, Den: 1}, "-2": {Num: -2, Den: 1}, "5.": {Num: 5, Den: 1}, "0": {Num: 0,
			Den: 1}} {
		if got, ok := Parse(s); !ok || got != want {
			t.Errorf("%q is %+v %v, want %+v", s, got, ok, want)
		}
	}
	for _, s := range []string{"", "x", "1.2.3", "12345678901234567890"} {
		if got, ok := Parse(s); ok || got != (condition.Number{}) {
			t.Errorf("%q is %+v %v", s, got, ok)
		}
	}
}

// Source: exact rationals of math/big, over numbers of both signs and of many
// denominators; what comes out is in lowest terms.
func TestAgainstRationals(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	some := func() condition.Number {
		return condition.Number{Num: r.Int64N(2_000_001) - 1_000_000, Den: []int64{0, 1, 10, 100, 3, 7, 12}[r.IntN(7)]}
	}
	for range 2000 {
		a, b := some(), some()
		sum := Add(a, b)
		if want := new(big.Rat).Add(rat(a), rat(b)); rat(sum).Cmp(want) != 0 ||
			rat(Add(a, Neg(b))).Cmp(new(big.Rat).Sub(rat(a), rat(b))) != 0 {
			t.Fatalf("%v + %v = %v, want %s", a, b, sum, want)
		}
		if a.Den > 1 && b.Den > 1 && (sum.Num != rat(sum).Num().Int64() || sum.Den != rat(sum).Denom().Int64()) {
			t.Fatalf("%v + %v = %v is not in lowest terms", a, b, sum)
		}
		q, ok := Div(a, b)
		if ok != (b.Num > 0) {
			t.Fatalf("%v / %v: %v", a, b, ok)
		}
		if !ok {
			if q != (condition.Number{}) {
				t.Fatalf("%v / %v is refused and %v", a, b, q)
			}
			continue
		}
		if want := new(big.Rat).Quo(rat(a), rat(b)); rat(q).Cmp(want) != 0 {
			t.Fatalf("%v / %v = %v, want %s", a, b, q, want)
		}
	}
}

// At the ends of what fits a sum stays at its bound and never wraps round.
func TestBounds(t *testing.T) {
	const most = math.MaxInt64
	n := func(v int64) condition.Number { return condition.Number{Num: v, Den: 1} }
	for _, c := range []struct {
		a, b, want int64
	}{{most, 0, most}, {most - 1, 1, most}, {most, 1, most}, {-most, -1, -most}, {-most + 1, -1, -most}, {most, -1,
		most - 1}, {-most, 1, -most + 1}, {most, -most, 0}} {
		if got := Add(n(c.a), n(c.b)); got != n(c.want) {
			t.Errorf("%d + %d = %v, want %d", c.a, c.b, got, c.want)
		}
	}
	if got, ok := Div(n(most), condition.Number{Num: 1, Den: 10}); !ok || got != n(most) {
		t.Errorf("ten times the most is %v %v", got, ok)
	}
	if got, ok := Div(n(-most), condition.Number{Num: 1, Den: 10}); !ok || got != n(-most) {
		t.Errorf("ten times the least is %v %v", got, ok)
	}
}

// How many of something, as people type it. Common practice, no source.
func TestQuantities(t *testing.T) {
	for typed, want := range map[string]string{"12": "12", "1.5": "1.5", "0,5": "0.5", "9,000": "9000",
		"1,234,567": "1234567", "9,000.5": "9000.5", "1.234,5": "1234.5", "1.125": "1.125", " 3 ": "3", "-2": "-2",
		"0,125": "0.125", "1,12": "1.12", "12,34,567": "", "1,2.5": "", "1.2,5": "", "": "", "some": "", "1e3": "",
		"1,0000": "", "0,1250": "0.125", "9,000,": "", "1 000": "", "١٢": ""} {
		n, ok := Quantity(typed)
		if got := String(n, 6); ok != (want != "") || ok && got != want {
			t.Errorf("%q: %s %v, want %q", typed, got, ok, want)
		}
	}
}
