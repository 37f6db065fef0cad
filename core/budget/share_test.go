package budget

import (
	"math/big"
	"math/rand/v2"
	"testing"
)

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
		want        string
	}{{0, 0, ""}, {5, 0, ""}, {1, 3, "33.3%"}, {2, 3, "66.7%"}, {1, 1, "100%"}, {1, 2000, "0.1%"}, {1, 2001, "0%"},
		{3, 2, "150%"}, {-1, 3, "−33.3%"}, {1, -3, ""}, {43, 100, "43%"}} {
		if got := Percent(c.part, c.whole); got != c.want {
			t.Errorf("%d of %d: %q, want %q", c.part, c.whole, got, c.want)
		}
	}
}

// The sums that mend, of a sketch that a grants officer drew: of €80,000 plant
// takes €27,100 where at most 30% is allowed.
func TestSumsThatMend(t *testing.T) {
	for _, c := range []struct {
		name       string
		got        Mend
		less, more int64
	}{
		{"a heading over its share", CapMend(27_100_00, 80_000_00, 30, 0, 100), 4_429_00, 10_334_00},
		{"where indirect costs shrink with it", CapMend(27_100_00, 80_000_00, 30, 15_00, 100), 4_733_00, 10_334_00},
		{"a heading that may take nothing", CapMend(500, 1000, 0, 0, 1), 500, 0},
		{"a heading that may take all", CapMend(500, 400, 100, 0, 1), 0, 100},
		{"to the cent", CapMend(27_100_00, 80_000_00, 30, 0, 1), 4_428_58, 10_333_34},
		{"others pay a fifth of the cost and should a quarter", MatchMend(Totals{Cost: 1000, Counted: 200}, 25, 0, 1), 50,
			67},
		{"nobody can pay all of it", MatchMend(Totals{Cost: 1000, Counted: 200}, 100, 0, 1), 800, 0},
		{"a share of what is asked", RequestMend(Totals{FromUs: 800, Counted: 200}, 50, 1), 134, 200},
		{"nothing is short", RequestMend(Totals{FromUs: 800, Counted: 400}, 50, 1), 0, 0},
	} {
		if c.got != (Mend{c.less, c.more}) {
			t.Errorf("%s: %+v, want %d or %d", c.name, c.got, c.less, c.more)
		}
	}
}

// Whatever is done as the sentence says brings the share to its bound.
func TestMendsMend(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	x := &Indirect{Rate: 15_00, Bases: []Base{{Heading: "a"}, {Heading: "b"}}}
	for range 20_000 {
		percent := 1 + r.Int64N(60)
		a, b := 1+r.Int64N(100_000), 1+r.Int64N(100_000)
		us := r.Int64N(b + 1)
		lines := func(a, b, us, own int64) []Line {
			return []Line{{Heading: "a", Cost: a, FromUs: a}, {Heading: "b", Cost: b, FromUs: us, Parts: [4]int64{b - us}},
				{Heading: "b", Cost: own, Parts: [4]int64{own}}}
		}
		rules := Rules{Indirect: x}
		at := func(a, b, us, own int64) Totals { t, _ := Sum(lines(a, b, us, own), rules); return t }
		was := at(a, b, us, 0)
		if m := CapMend(a, was.Cost, percent, x.Rate, 100); a > MostShare(was.Cost, percent) {
			if now := at(a-m.Less, b, us, 0); m.Less > 0 && m.Less <= a && a-m.Less > MostShare(now.Cost, percent) {
				t.Fatalf("%d less under a of %+v is still above %d%%: %+v", m.Less, was, percent, now)
			}
			if now := at(a, b, us, m.More); a > MostShare(now.Cost, percent) {
				t.Fatalf("%d more elsewhere of %+v is still above %d%%: %+v", m.More, was, percent, now)
			}
		}
		if m := MatchMend(was, percent, x.Rate, 100); was.Counted < LeastMatch(was.Cost, percent) {
			if now := at(a, b, us-m.Less, 0); m.Less <= us && now.Counted < LeastMatch(now.Cost, percent) {
				t.Fatalf("%d moved to others of %+v is still below %d%%: %+v", m.Less, was, percent, now)
			}
			if now := at(a, b, us, m.More); m.More > 0 && now.Counted < LeastMatch(now.Cost, percent) {
				t.Fatalf("%d more by others of %+v is still below %d%%: %+v", m.More, was, percent, now)
			}
		}
	}
}
