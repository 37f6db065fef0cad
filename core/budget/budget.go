// Package budget adds up a budget: what each line costs, how that is divided
// among this fund and others, what indirect costs come to on their base, and
// by how much a share misses its bound. Sums are whole minor units and never
// wrap; a share is compared by cross-multiplying and a product is rounded once.
//
// The cost of a line is its quantity times its unit cost, rounded half up.
// Indirect costs are a rate on the lines of the headings that belong to their
// base, each line or each partner up to a cap, as in 2 CFR 200.1 (modified
// total direct cost) and article 35 of Regulation (EU) 2021/695: which
// headings, which caps and which rate are settings, not code.
package budget

import "math/bits"

// Payer says who pays what this fund does not.
type Payer string

// Who may pay the rest of a line.
const (
	Own      Payer = "own money"
	Promised Payer = "another funder, promised"
	Applied  Payer = "another funder, applied for"
	InKind   Payer = "in kind"
)

// Payers lists them as they are offered.
var Payers = []Payer{Own, Promised, Applied, InKind}

// payers is how many there are.
const payers = 4

// Line is one line of a budget, in minor units.
type Line struct {
	Item    string
	Heading string // "" where the budget has none, or none is chosen; so with the next three
	Period  string
	Partner string
	Gives   string // which kind of money, goods or places is asked for
	Cost    int64
	FromUs  int64
	Parts   [payers]int64 // what each of Payers pays
}

// Match is what others pay of the line, or should.
func (l Line) Match() int64 { return l.Cost - l.FromUs }

// Named is what somebody is named for: this fund and all Payers together; ok
// is false when that leaves the range of an int64.
func (l Line) Named() (sum int64, ok bool) {
	sum, ok = l.FromUs, true
	for _, p := range l.Parts {
		ok = ok && add(&sum, p)
	}
	return sum, ok
}

// Rules of a budget; the zero value has no indirect costs and counts all in kind.
type Rules struct {
	Indirect   *Indirect // nil for none
	InKindMost int64     // in kind counts up to so many percent of the cost; 0: all of it counts
	Periods    []string  // in their order; what a partner is capped at over all periods fills them in this order
}

// Part of a budget: what it costs, and what of it is asked from this fund.
type Part struct{ Cost, FromUs int64 }

// Totals of a budget. Cost, FromUs and Match hold the indirect costs.
type Totals struct {
	Direct, Base, Indirect int64 // all lines; what of them indirect costs are reckoned on; those
	Cost, FromUs, Match    int64
	Counted                int64 // what of the match counts: in kind only up to its share
	ByPayer                map[Payer]int64
	ByHeading, ByPeriod    map[string]Part // of the lines; so with the next two
	ByPartner, ByGives     map[string]Part // ByGives: FromUs holds the indirect costs asked for as that kind
}

// Sum adds lines up by rules; ok is false when a sum leaves the range of an int64.
func Sum(lines []Line, rules Rules) (t Totals, ok bool) {
	t.ByPayer, ok = map[Payer]int64{}, true
	t.ByHeading, t.ByPeriod = map[string]Part{}, map[string]Part{}
	t.ByPartner, t.ByGives = map[string]Part{}, map[string]Part{}
	var by [payers]int64
	for _, l := range lines {
		ok = ok && add(&t.Direct, l.Cost) && add(&t.FromUs, l.FromUs)
		for i, p := range l.Parts {
			ok = ok && add(&by[i], p)
		}
	}
	for i := range lines { // each below a sum that did not wrap
		l := &lines[i]
		put(t.ByHeading, l.Heading, l.Cost, l.FromUs)
		put(t.ByPeriod, l.Period, l.Cost, l.FromUs)
		put(t.ByPartner, l.Partner, l.Cost, l.FromUs)
		put(t.ByGives, l.Gives, l.Cost, l.FromUs)
	}
	t.Cost = t.Direct
	if x := rules.Indirect; x != nil && ok {
		t.Base, t.Indirect, ok = x.on(lines, rules.Periods)
		ok = ok && add(&t.Cost, t.Indirect)
		if x.ByOwn {
			ok = ok && add(&by[0], t.Indirect)
		} else {
			ok = ok && add(&t.FromUs, t.Indirect)
			put(t.ByGives, x.Gives, 0, t.Indirect)
		}
	}
	for i, p := range Payers {
		if by[i] != 0 {
			t.ByPayer[p] = by[i]
		}
	}
	t.Match = t.Cost - t.FromUs
	t.Counted = t.Match
	if rules.InKindMost > 0 {
		t.Counted -= max(0, t.ByPayer[InKind]-MostShare(t.Cost, rules.InKindMost))
	}
	return t, ok
}

func put(of map[string]Part, key string, cost, us int64) {
	p := of[key]
	of[key] = Part{p.Cost + cost, p.FromUs + us}
}

// LineCost is quantity × each, the quantity as a fraction num/den, rounded half
// away from nothing; ok is false when it leaves the range of sums.
func LineCost(num, den, each int64) (int64, bool) {
	if den <= 0 || num < 0 || each < 0 {
		return 0, false
	}
	return scaled(each, num, den, half)
}

func add(sum *int64, n int64) bool {
	s := *sum + n
	if (n > 0 && s < *sum) || (n < 0 && s > *sum) {
		return false
	}
	*sum = s
	return true
}

// rounding of a quotient of whole numbers.
type rounding int

const (
	down rounding = iota
	up
	half // half up
)

// scaled is n·num/den of numbers that are not negative, exact before it is
// rounded; ok is false beyond the range of an int64.
func scaled(n, num, den int64, r rounding) (int64, bool) {
	hi, lo := bits.Mul64(uint64(n), uint64(num))
	if hi >= uint64(den) {
		return 0, false
	}
	q, rest := bits.Div64(hi, lo, uint64(den))
	if r == up && rest > 0 || r == half && rest >= uint64(den)-rest {
		q++
	}
	if q > 1<<63-1 {
		return 0, false
	}
	return int64(q), true
}
