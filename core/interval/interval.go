// Package interval says how sure a share is that was counted on few. The
// interval is Wilson’s score interval without continuity correction (E. B.
// Wilson, "Probable inference, the law of succession, and statistical
// inference", JASA 22, 1927), which stays inside 0 to 1 and keeps its promise on
// small counts, where the plain one does not (R. G. Newcombe, Statistics in
// Medicine 17, 1998).
package interval

import "math"

// Z95 is the normal quantile for intervals that hold the truth 95 times in 100.
const Z95 = 1.959963984540054

// Share is k of n with the interval around it; all between 0 and 1.
type Share struct {
	K, N      int
	At        float64 // k/n; 0 where n is 0
	Low, High float64
}

// Wilson of k in n, 0 ≤ k ≤ n, by a normal quantile. Of nothing, everything is
// possible: 0 to 1.
func Wilson(k, n int, z float64) Share {
	if n <= 0 {
		return Share{High: 1}
	}
	p, m, zz := float64(k)/float64(n), float64(n), z*z
	middle := (p + zz/(2*m)) / (1 + zz/m)
	half := z / (1 + zz/m) * math.Sqrt(p*(1-p)/m+zz/(4*m*m))
	// the ends never pass the share itself, whatever the last digits say
	return Share{k, n, p, math.Max(0, math.Min(p, middle-half)), math.Min(1, math.Max(p, middle+half))}
}

// Apart reports that two shares differ by more than their counts explain: neither
// interval reaches into the other. It is careful: intervals that overlap a little
// may differ all the same.
func Apart(a, b Share) bool { return a.N > 0 && b.N > 0 && (a.Low > b.High || b.Low > a.High) }
