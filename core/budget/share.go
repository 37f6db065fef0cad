package budget

import (
	"math"
	"strconv"
)

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

// Percent writes part of whole in percent, to the tenth, rounded half up: 42.9%;
// "" where there is no whole. For showing only, never for deciding.
func Percent(part, whole int64) string {
	sign := ""
	if part < 0 {
		part, sign = -part, "−"
	}
	tenths, ok := scaled(part, 1000, max(whole, 1), half)
	if whole <= 0 || !ok {
		return ""
	}
	text := sign + strconv.FormatInt(tenths/10, 10)
	if rest := tenths % 10; rest != 0 {
		text += "." + strconv.FormatInt(rest, 10)
	}
	return text + "%"
}

// Portion is part of whole, of so many, rounded down; 0 where there is no whole.
// For drawing, never for deciding.
func Portion(part, whole, of int64) int64 {
	if whole <= 0 || part <= 0 {
		return 0
	}
	n, _ := scaled(part, of, whole, down)
	return n
}

// Mend is what would bring a share to its bound, either way alone, in minor
// units and rounded up to whole units of unit; 0 where that way leads nowhere.
type Mend struct{ Less, More int64 }

// MatchMend is for a match below percent of the cost: Less moves from this fund
// to others, the cost as it is; More is new cost that others bear. rate is of
// indirect costs, which may grow with it, in hundredths of a percent.
func MatchMend(t Totals, percent, rate, unit int64) Mend {
	short := LeastMatch(t.Cost, percent) - t.Counted
	return Mend{whole(short, unit), grown(short, 100, percent, rate, unit)}
}

// RequestMend is for a match below percent of what is asked from this fund.
func RequestMend(t Totals, percent, unit int64) Mend {
	short := LeastMatch(t.FromUs, percent) - t.Counted
	less, ok := scaled(max(short, 0), 100, 100+percent, up)
	if !ok {
		less = 0
	}
	return Mend{whole(less, unit), whole(short, unit)}
}

// CapMend is for a heading above percent of a sum that it is itself part of:
// Less is spent less there, More is spent more elsewhere. rate is of indirect
// costs that the sum holds and that may shrink with the heading; 0 for none.
func CapMend(heading, of, percent, rate, unit int64) Mend {
	m := Mend{Less: grown(heading-MostShare(of, percent), 100, percent, rate, unit)}
	if percent > 0 {
		if sum, ok := scaled(heading, 100, percent, up); ok {
			m.More = whole(sum-of, unit)
		}
	}
	return m
}

// grown is the smallest x with x ≥ short + percent·(1+rate)·x, that is
// short/(1 − percent·(1+rate)); 0 where there is none.
func grown(short, hundred, percent, rate, unit int64) int64 {
	// in millionths: percent of 100 times (10000 + rate) of 10000
	share := percent * (rateOne + rate)
	left := hundred*rateOne - share
	if left <= 0 || short <= 0 {
		return 0
	}
	x, ok := scaled(short, hundred*rateOne, left, up)
	if !ok {
		return 0
	}
	return whole(x, unit)
}

// whole rounds up to whole units.
func whole(n, unit int64) int64 {
	if n <= 0 {
		return 0
	}
	if r := n % unit; r != 0 && n <= math.MaxInt64-unit {
		n += unit - r
	}
	return n
}
