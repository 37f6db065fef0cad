// Package mark turns readers' marks into scores and an order: the weighted
// mean over criteria, the plain mean over readers, and competition ranking in
// which equal scores share a place ("1224"). Scores are exact ratios, so a tie
// is a tie.
package mark

import (
	"cmp"
	"math"
	"math/big"
	"slices"
	"strconv"

	"ulvant/core/condition"
)

// Score is an exact score; the zero Score (Den 0) means "no marks yet".
type Score struct{ Num, Den int64 }

// Known reports that there is a score.
func (s Score) Known() bool { return s.Den > 0 }

// Compare is -1, 0 or +1; no score is below every score.
func (s Score) Compare(o Score) int {
	if !s.Known() || !o.Known() {
		return b(s.Known()) - b(o.Known())
	}
	return condition.Number{Num: s.Num, Den: s.Den}.Compare(condition.Number{Num: o.Num, Den: o.Den})
}

func b(v bool) int {
	if v {
		return 1
	}
	return 0
}

// Float for drawing only.
func (s Score) Float() float64 {
	if !s.Known() {
		return 0
	}
	return float64(s.Num) / float64(s.Den)
}

// String has two decimals; half is rounded up.
func (s Score) String() string {
	if !s.Known() {
		return "–"
	}
	h := (s.Num*200 + s.Den) / (2 * s.Den)
	return strconv.FormatInt(h/100, 10) + "." + strconv.FormatInt(h%100/10, 10) + strconv.FormatInt(h%10, 10)
}

// Weighted is one reader's score: marks and weights are in the order of the
// criteria; a negative mark is "not marked". all is false while one is missing,
// and the score is then over those that are there.
func Weighted(marks, weights []int) (s Score, all bool) {
	all = true
	for i, m := range marks {
		if m < 0 {
			all = false
			continue
		}
		s.Num += int64(m * weights[i])
		s.Den += int64(weights[i])
	}
	return s, all && len(marks) > 0
}

// Mean of scores, exact while its lowest terms fit an int64; beyond that the
// nearest billionth, so that it never wraps round. Unknown scores do not count.
func Mean(scores []Score) Score {
	if s, ok := meanAlike(scores); ok {
		return s
	}
	sum, n := new(big.Rat), int64(0)
	for _, s := range scores {
		if s.Known() {
			sum.Add(sum, big.NewRat(s.Num, s.Den))
			n++
		}
	}
	if n == 0 {
		return Score{}
	}
	return scoreOf(sum.Quo(sum, big.NewRat(n, 1)))
}

// meanAlike is the mean of scores out of one whole, as readers who mark by the same
// criteria give them; ok is false where they are not alike, or too large.
func meanAlike(scores []Score) (out Score, ok bool) {
	const large = 1 << 30
	for _, s := range scores {
		switch {
		case !s.Known():
			continue
		case out.Den == 0:
			out.Den = s.Den
		case s.Den != out.Den:
			return Score{}, false
		}
		if s.Num < -large || s.Num > large || s.Den > large {
			return Score{}, false
		}
		out.Num += s.Num
		ok = true
	}
	if !ok || len(scores) > large {
		return Score{}, false
	}
	n := int64(0)
	for _, s := range scores {
		if s.Known() {
			n++
		}
	}
	out.Den *= n
	for a, b := out.Num, out.Den; ; a, b = b, a%b { // in lowest terms
		if b == 0 {
			if a < 0 {
				a = -a
			}
			if a > 0 {
				out.Num, out.Den = out.Num/a, out.Den/a
			}
			return out, true
		}
	}
}

// Joined is a score of two parts, each with its weight; a part that is not known
// does not count.
func Joined(a Score, weighsA int, b Score, weighsB int) Score {
	switch {
	case !b.Known() || weighsB == 0:
		return a
	case !a.Known() || weighsA == 0:
		return b
	}
	part := func(s Score, weighs int) *big.Rat {
		return new(big.Rat).Mul(big.NewRat(s.Num, s.Den), big.NewRat(int64(weighs), 1))
	}
	sum := new(big.Rat).Add(part(a, weighsA), part(b, weighsB))
	return scoreOf(sum.Quo(sum, big.NewRat(int64(weighsA+weighsB), 1)))
}

// scoreOf is an exact score while its lowest terms fit an int64, else the nearest
// billionth.
func scoreOf(r *big.Rat) Score {
	if r.Num().IsInt64() && r.Denom().IsInt64() {
		return Score{r.Num().Int64(), r.Denom().Int64()}
	}
	f, _ := r.Float64()
	return Score{int64(math.Round(f * 1e9)), 1e9}
}

// Place is a position in an order: rank, and whether others share it.
type Place struct {
	Index int // into the scores given to Order
	Rank  int
	Tied  bool
	// Settled: its score is another’s too, and which of them stands first was settled
	// otherwise.
	Settled bool
}

// Order ranks scores from the highest; equal ones share a rank and keep the
// order in which they were given. first are those that stand before all others,
// whatever their scores: people who were met at an interview. nil: nobody does. then
// settles equal scores, the higher first; nil: nothing does.
func Order(scores []Score, first []bool, then []Score) []Place {
	before := func(i int) int { return b(first != nil && first[i]) }
	compare := func(i, j int) int { return cmp.Or(before(i)-before(j), scores[i].Compare(scores[j])) }
	settle := func(i, j int) int {
		if then == nil {
			return 0
		}
		return then[i].Compare(then[j])
	}
	out := make([]Place, len(scores))
	for i := range scores {
		out[i].Index = i
	}
	slices.SortStableFunc(out, func(x, y Place) int { return cmp.Or(compare(y.Index, x.Index), settle(y.Index, x.Index)) })
	for i := range out {
		out[i].Rank = i + 1
		if i == 0 || compare(out[i].Index, out[i-1].Index) != 0 {
			continue
		}
		if settle(out[i].Index, out[i-1].Index) != 0 {
			out[i].Settled, out[i-1].Settled = true, true
		} else {
			out[i].Rank = out[i-1].Rank
			out[i].Tied, out[i-1].Tied = true, true
		}
	}
	return out
}

// Fall adds a score to a count of how many fall to each whole step, half rounded
// up; the count reaches to most at least, the highest step there is. A score that
// is not known falls nowhere.
func Fall(counts []int, s Score, most int) []int {
	n := -1
	if s.Known() {
		n = int((2*s.Num + s.Den) / (2 * s.Den))
	}
	counts = append(counts, make([]int, max(0, max(n, most)+1-len(counts)))...)
	if n >= 0 {
		counts[n]++
	}
	return counts
}
