package budget

import (
	"math"
	"math/big"
	"math/rand/v2"
	"reflect"
	"testing"
)

// Source: exact rational arithmetic of math/big, beside 100,000 random budgets
// with quantities, sources, indirect costs on a capped base and years.
func TestSumsAreExact(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	n := 100_000
	if testing.Short() {
		n = 5_000
	}
	headings, periods := []string{"people", "plant", "stock"}, []string{"y1", "y2"}
	for range n {
		x := Indirect{Rate: 1 + r.Int64N(3000), ByOwn: r.IntN(4) == 0, OfAsked: r.IntN(3) == 0,
			Bases: []Base{{"people", 0, 0}, {"plant", r.Int64N(2) * (1 + r.Int64N(1e8)), 0}}}
		var lines []Line
		direct, us, base := map[string]*big.Rat{}, new(big.Rat), map[string]*big.Rat{"y1": {}, "y2": {}}
		for _, p := range periods {
			direct[p] = new(big.Rat)
		}
		for range 1 + r.IntN(8) {
			num, den, each := r.Int64N(1e6), []int64{1, 10, 100, 1000}[r.IntN(4)], r.Int64N(1e6)
			cost, ok := LineCost(num, den, each)
			exact := new(big.Rat).Mul(big.NewRat(num, den), big.NewRat(each, 1))
			if want := rounded(exact); !ok || cost != want {
				t.Fatalf("%d/%d × %d = %d, want %d", num, den, each, cost, want)
			}
			l := Line{Heading: headings[r.IntN(3)], Period: periods[r.IntN(2)], Cost: cost, FromUs: r.Int64N(cost + 1)}
			l.Parts[r.IntN(payers)] = l.Match()
			lines = append(lines, l)
			direct[l.Period].Add(direct[l.Period], big.NewRat(cost, 1))
			us.Add(us, big.NewRat(l.FromUs, 1))
			counts := cost
			if x.OfAsked {
				counts = l.FromUs
			}
			if l.Heading == "plant" && x.Bases[1].LineMost > 0 {
				counts = min(counts, x.Bases[1].LineMost)
			}
			if l.Heading != "stock" {
				base[l.Period].Add(base[l.Period], big.NewRat(counts, 1))
			}
		}
		indirect := int64(0)
		for _, p := range periods {
			indirect += rounded(new(big.Rat).Mul(base[p], big.NewRat(x.Rate, 10_000)))
		}
		got, ok := Sum(lines, Rules{Indirect: &x, Periods: periods})
		all := new(big.Rat).Add(direct["y1"], direct["y2"])
		all.Add(all, big.NewRat(indirect, 1))
		if !x.ByOwn {
			us.Add(us, big.NewRat(indirect, 1))
		}
		others := int64(0)
		for _, p := range got.ByPayer {
			others += p
		}
		if !ok || got.Indirect != indirect || big.NewRat(got.Cost, 1).Cmp(all) != 0 ||
			big.NewRat(got.FromUs, 1).Cmp(us) != 0 || got.Match != others || got.Match != got.Cost-got.FromUs {
			t.Fatalf("%+v\nof %+v by %+v: want cost %s, from us %s, indirect %d", got, lines, x, all, us, indirect)
		}
	}
}

func rounded(x *big.Rat) int64 { // half up, of what is not negative
	x = new(big.Rat).Add(x, big.NewRat(1, 2))
	return new(big.Int).Quo(x.Num(), x.Denom()).Int64()
}

// What two published rules come to, by settings alone. Sources: 2 CFR 200.414(f)
// and 200.1 (modified total direct cost) as in force from 2024-10-01 and
// before; Regulation (EU) 2021/695 art. 35. The figures are constructed, see
// check-values.md section 7.
func TestIndirectCosts(t *testing.T) {
	usd := func(n int64) int64 { return n * 100 }
	mtdc := func(most int64) []Base {
		out := []Base{{"subaward", 0, usd(most)}}
		for _, h := range []string{"salaries", "fringe", "travel", "supplies"} {
			out = append(out, Base{Heading: h})
		}
		return out
	}
	us := []Line{{Heading: "salaries", Cost: usd(100_000)}, {Heading: "fringe", Cost: usd(30_000)},
		{Heading: "travel", Cost: usd(5_000)}, {Heading: "supplies", Cost: usd(8_000)},
		{Heading: "equipment", Cost: usd(40_000)}, {Heading: "tuition", Cost: usd(12_000)},
		{Heading: "participants", Cost: usd(6_000)}, {Heading: "rent", Cost: usd(9_000)},
		{Heading: "subaward", Partner: "A", Cost: usd(120_000)}, {Heading: "subaward", Partner: "B", Cost: usd(20_000)}}
	var eu []Line
	for h, n := range map[string]int64{"A": 400_000, "B": 60_000, "C1": 20_000, "C2": 30_000, "C3": 50_000, "D1": 100_000,
		"own": 0} {
		eu = append(eu, Line{Heading: h, Cost: usd(n)})
	}
	years := []Line{{Heading: "subaward", Partner: "A", Period: "1", Cost: usd(30_000)},
		{Heading: "subaward", Partner: "A", Period: "2", Cost: usd(40_000)}}
	for _, c := range []struct {
		name                 string
		lines                []Line
		x                    Indirect
		base, indirect, cost int64
	}{
		{"15% of MTDC, from 2024-10-01", us, Indirect{Rate: 15_00, Bases: mtdc(50_000)}, 213_000, 31_950, 381_950},
		{"10% of MTDC, before", us, Indirect{Rate: 10_00, Bases: mtdc(25_000)}, 188_000, 18_800, 368_800},
		{"one subaward over two years", years, Indirect{Rate: 15_00, Bases: mtdc(50_000)}, 50_000, 7_500, 77_500},
		{"its first year alone", years[:1], Indirect{Rate: 15_00, Bases: mtdc(50_000)}, 30_000, 4_500, 34_500},
		{"25% flat without subcontracting and what goes to third parties", eu,
			Indirect{Rate: 25_00, Bases: []Base{{Heading: "A"}, {Heading: "C1"}, {Heading: "C2"}, {Heading: "C3"}}},
			500_000, 125_000, 785_000},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, ok := Sum(c.lines, Rules{Indirect: &c.x, Periods: []string{"1", "2"}})
			if !ok || got.Base != usd(c.base) || got.Indirect != usd(c.indirect) || got.Cost != usd(c.cost) ||
				got.FromUs != usd(c.indirect) {
				t.Errorf("base %d, indirect %d, cost %d, asked %d", got.Base, got.Indirect, got.Cost, got.FromUs)
			}
		})
	}
	// a funding rate of 70% of the total of art. 35's example
	if got := MostShare(usd(785_000), 70); got != usd(549_500) {
		t.Errorf("70%% is %d", got)
	}
}

// A line without a partner is one of its own; a cap on a line holds for each
// line; what is asked, not what it costs, is the base where a round says so.
func TestCapsOfTheBase(t *testing.T) {
	lines := []Line{{Heading: "h", Cost: 900, FromUs: 500}, {Heading: "h", Cost: 900, FromUs: 900},
		{Heading: "h", Partner: "p", Cost: 300, FromUs: 300}, {Heading: "h", Partner: "p", Cost: 900, FromUs: 1},
		{Heading: "other", Cost: 5000}}
	for _, c := range []struct {
		name string
		b    Base
		of   bool
		base int64
	}{
		{"no cap", Base{"h", 0, 0}, false, 3000},
		{"each line to 400", Base{"h", 400, 0}, false, 400 + 400 + 300 + 400},
		{"each partner to 1,000", Base{"h", 0, 1000}, false, 900 + 900 + 1000},
		{"both", Base{"h", 400, 500}, false, 400 + 400 + 500},
		{"of what is asked", Base{"h", 0, 0}, true, 1701},
		{"another heading", Base{"none", 0, 0}, false, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, ok := Sum(lines, Rules{Indirect: &Indirect{Rate: 50_00, Bases: []Base{c.b}, OfAsked: c.of, ByOwn: true}})
			if want := (c.base + 1) / 2; !ok || got.Base != c.base || got.Indirect != want || got.FromUs != 1701 ||
				got.ByPayer[Own] != want {
				t.Errorf("%+v", got)
			}
		})
	}
}

// Share of the cost, not of the request: applicants mistake one for the other
// (common practice, no source).
func TestMatchIsAShareOfTheCost(t *testing.T) {
	got, _ := Sum([]Line{{Cost: 3840000, FromUs: 3000000}, {Cost: 2950000, FromUs: 2400000},
		{Cost: 1210000, FromUs: 1000000}}, Rules{})
	if got.Cost != 8000000 || got.FromUs != 6400000 || got.Match != 1600000 || Percent(got.Match, got.Cost) != "20%" ||
		Percent(got.Match, got.FromUs) != "25%" || got.Counted != got.Match {
		t.Errorf("%+v, match %s", got, Percent(got.Match, got.Cost))
	}
}

// In kind counts up to its share of the cost; money counts whole.
func TestInKindCountsUpToItsShare(t *testing.T) {
	line := func(kind, own int64) []Line {
		return []Line{{Cost: 1000, FromUs: 1000 - kind - own, Parts: [4]int64{own, 0, 0, kind}}}
	}
	for _, c := range []struct{ kind, own, most, counted int64 }{{300, 100, 0, 400}, {300, 100, 10, 200},
		{100, 100, 10, 200}, {99, 0, 10, 99}, {101, 0, 10, 100}, {0, 400, 10, 400}} {
		if got, _ := Sum(line(c.kind, c.own), Rules{InKindMost: c.most}); got.Counted != c.counted {
			t.Errorf("in kind %d, own %d, up to %d%%: %d counts, want %d", c.kind, c.own, c.most, got.Counted, c.counted)
		}
	}
}

// Who pays what, under which heading, in which year, by whom and as what; a
// line without anybody named is nobody's.
func TestByEverything(t *testing.T) {
	got, ok := Sum([]Line{
		{"Reed", "Plants", "1", "Trust", "", 900, 600, [4]int64{300}},
		{"Willow", "Plants", "2", "Trust", "", 500, 100, [4]int64{0, 400}},
		{"Boat", "Hire", "1", "Club", "boat", 400, 400, [4]int64{}},
		{"Stakes", "Plants", "1", "Club", "", 300, 0, [4]int64{300}}}, Rules{})
	want := Totals{Direct: 2100, Cost: 2100, FromUs: 1100, Match: 1000, Counted: 1000,
		ByPayer:   map[Payer]int64{Own: 600, Promised: 400},
		ByHeading: map[string]Part{"Plants": {1700, 700}, "Hire": {400, 400}},
		ByPeriod:  map[string]Part{"1": {1600, 1000}, "2": {500, 100}},
		ByPartner: map[string]Part{"Trust": {1400, 700}, "Club": {700, 400}},
		ByGives:   map[string]Part{"": {1700, 700}, "boat": {400, 400}}}
	if !ok || !reflect.DeepEqual(got, want) {
		t.Errorf("%+v %v, want %+v", got, ok, want)
	}
	if got, ok := Sum(nil, Rules{}); !ok || got.Cost != 0 || got.Match != 0 {
		t.Errorf("of nothing: %+v %v", got, ok)
	}
}

// A sum on the very bound is one; a unit beyond it is none.
func TestSumAtItsBounds(t *testing.T) {
	most := int64(math.MaxInt64)
	for _, c := range []struct {
		name  string
		lines []Line
		ok    bool
	}{
		{"to the most", []Line{{Cost: most - 1}, {Cost: 1}}, true},
		{"one beyond", []Line{{Cost: most - 1}, {Cost: 2}}, false},
		{"to the least", []Line{{Cost: math.MinInt64 + 1}, {Cost: -1}}, true},
		{"one below", []Line{{Cost: math.MinInt64 + 1}, {Cost: -2}}, false},
		{"asked beyond", []Line{{FromUs: most}, {FromUs: 1}}, false},
		{"nothing more", []Line{{Cost: most}, {Cost: 0}}, true},
		{"one payer beyond", []Line{{Parts: [4]int64{most}}, {Parts: [4]int64{5}}}, false},
		{"beyond, and then none", []Line{{Cost: most}, {Cost: 1}, {Cost: 0}}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got, ok := Sum(c.lines, Rules{}); ok != c.ok {
				t.Errorf("%v: %+v", ok, got)
			}
		})
	}
	if _, ok := Sum([]Line{{Heading: "h", Cost: most}}, Rules{Indirect: &Indirect{Rate: 1,
		Bases: []Base{{Heading: "h"}}}}); ok {
		t.Error("indirect costs beyond the range were added")
	}
	if _, ok := (Line{FromUs: most, Parts: [4]int64{1}}).Named(); ok {
		t.Error("parts beyond the range were added")
	}
	if n, ok := (Line{FromUs: 5, Parts: [4]int64{1, 2, 3, 4}}).Named(); !ok || n != 15 {
		t.Errorf("named: %d", n)
	}
	for _, c := range []struct {
		num, den, each, want int64
		ok                   bool
	}{{3, 2, 3, 5, true}, {1, 2, 1, 1, true}, {49, 100, 1, 0, true}, {5, 10, 1, 1, true}, {most, 1, 1, most, true},
		{most, 1, 2, 0, false}, {1, 0, 1, 0, false}, {-1, 1, 1, 0, false}, {1, 1, -1, 0, false}, {0, 1, 9, 0, true},
		{most, 2, 2, most, true}} {
		if got, ok := LineCost(c.num, c.den, c.each); got != c.want || ok != c.ok {
			t.Errorf("%d/%d × %d: %d %v", c.num, c.den, c.each, got, ok)
		}
	}
}
