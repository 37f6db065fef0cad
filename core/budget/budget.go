// Package budget adds up a budget table: what each line costs, how much of it
// is asked from this fund, and who pays the rest. Sums are whole minor units
// and never wrap; shares compare by cross-multiplying.
package budget

import "math"

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

// Line is one line of the table, in minor units.
type Line struct {
	Item    string
	Heading string // "" where the budget has none
	Cost    int64
	FromUs  int64
	Payer   Payer // "" when nobody is named
}

// Match is what others pay of the line.
func (l Line) Match() int64 { return l.Cost - l.FromUs }

// Totals of a table.
type Totals struct {
	Cost, FromUs, Match int64
	ByPayer             map[Payer]int64
	ByHeading           map[string]int64 // of what is asked from this fund
}

// Sum adds lines; ok is false when a sum leaves the range of an int64.
func Sum(lines []Line) (t Totals, ok bool) {
	t.ByPayer, t.ByHeading = map[Payer]int64{}, map[string]int64{}
	ok = true
	for _, l := range lines {
		ok = ok && add(&t.Cost, l.Cost) && add(&t.FromUs, l.FromUs)
		if l.Payer != "" {
			p := t.ByPayer[l.Payer]
			ok = ok && add(&p, l.Match())
			t.ByPayer[l.Payer] = p
		}
	}
	for _, l := range lines {
		t.ByHeading[l.Heading] += l.FromUs // below t.FromUs, which did not wrap
	}
	t.Match = t.Cost - t.FromUs
	return t, ok
}

func add(sum *int64, n int64) bool {
	if n > 0 && *sum > math.MaxInt64-n || n < 0 && *sum < math.MinInt64-n {
		return false
	}
	*sum += n
	return true
}

// LeastMatch is the smallest whole sum that is at least percent of cost.
func LeastMatch(cost int64, percent int64) int64 {
	if cost <= 0 {
		return 0
	}
	return (cost/100)*percent + ((cost%100)*percent+99)/100
}

// MostShare is the greatest whole sum that is at most percent of a sum.
func MostShare(sum, percent int64) int64 {
	if sum <= 0 {
		return 0
	}
	return (sum/100)*percent + (sum%100)*percent/100
}

// Percent is part of whole in tenths of a percent, rounded half up; for
// showing only, never for deciding.
func Percent(part, whole int64) float64 {
	if whole == 0 {
		return 0
	}
	return math.Floor(float64(part)/float64(whole)*1000+0.5) / 10
}
