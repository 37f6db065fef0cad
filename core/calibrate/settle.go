package calibrate

import "math"

// Settles is the chance that one more reading of a case, by somebody of whom nothing is
// known yet, settles what is too close to call: that its chance of standing above a
// line is then no longer between CloseFrom and CloseTo. Of normal distributions, with
// the variances taken as they are: what is known of the case goes from its variance v
// to v′ = 1 / (1/v + 1/w), w that of a mark about a case, and its mean moves with a
// variance of v − v′ (preposterior analysis; Raiffa and Schlaifer, Applied Statistical
// Decision Theory, 1961, section 5.4).
func (m *Model) Settles(i int, line float64) float64 {
	c := m.Cases[i]
	return settles(m.Calibrated(i)-line, c.Error*c.Error, m.ReaderVar+m.ErrorVar)
}

func settles(distance, v, w float64) float64 {
	if v <= 0 || w <= 0 {
		return 0
	}
	after := 1 / (1/v + 1/w)
	need, moves := quantile90*math.Sqrt(after), math.Sqrt(v-after)
	return normal((distance-need)/moves) + normal((-distance-need)/moves)
}

// quantile90 of the standard normal distribution: what stands so many errors from a
// line stands above or below it with a chance of 0.9.
const quantile90 = 1.2815515655446004

// normal is the standard normal distribution function.
func normal(z float64) float64 { return math.Erfc(-z/math.Sqrt2) / 2 }
