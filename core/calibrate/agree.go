package calibrate

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/mat"
)

// Alpha is Krippendorff's alpha with the interval metric: how far readers agree, 1
// for wholly and 0 for no better than chance (Krippendorff, Computing Krippendorff’s
// Alpha-Reliability, 2011). Cases with one mark do not count; NaN when nothing does.
func Alpha(marks []Mark) float64 {
	by := map[int][]float64{}
	for _, m := range marks {
		by[m.Case] = append(by[m.Case], m.Value)
	}
	var all []float64
	within := 0.0
	for _, v := range by {
		if len(v) < 2 {
			continue
		}
		all = append(all, v...)
		within += spread(v) / float64(len(v)-1)
	}
	n := float64(len(all))
	between := spread(all) / (n - 1)
	if n < 2 || between == 0 {
		return math.NaN()
	}
	return 1 - within/between
}

// spread is the sum of squared differences over all ordered pairs.
func spread(v []float64) float64 {
	sum, squares := 0.0, 0.0
	for _, x := range v {
		sum += x
		squares += x * x
	}
	return 2 * (float64(len(v))*squares - sum*sum)
}

// ErrApart: cases that no chain of readers joins cannot be compared.
var ErrApart = errors.New("some cases share no reader with the others, and cannot be compared")

// Adjusted are the cases with their readers’ severity taken off and nothing drawn
// towards the mean: the least-squares fit of case + reader, in which the readers’
// effects add up to nothing. It needs one chain of readers that joins all cases.
func Adjusted(marks []Mark, cases, readers int) (caseValues, readerEffects []float64, err error) {
	s := gather(marks, cases, readers)
	a, rhs := mat.NewSymDense(readers, nil), mat.NewVecDense(readers, nil)
	for r := range readers {
		if s.readers[r] == 0 {
			a.SetSym(r, r, 1) // gave no mark: no effect
		}
		a.SetSym(r, r, a.At(r, r)+s.readers[r])
		rhs.SetVec(r, s.readerSum[r])
	}
	for i := range cases {
		for _, r := range s.by[i] {
			rhs.SetVec(r, rhs.AtVec(r)-s.sum[i]/s.count[i])
			for _, q := range s.by[i] {
				if q >= r {
					a.SetSym(r, q, a.At(r, q)-1/s.count[i])
				}
			}
		}
	}
	for r := range readers { // their sum is nothing
		for q := r; q < readers; q++ {
			if s.readers[r] > 0 && s.readers[q] > 0 {
				a.SetSym(r, q, a.At(r, q)+1/float64(readers))
			}
		}
	}
	var chol mat.Cholesky
	if !chol.Factorize(a) || chol.Cond() > 1e10 {
		return nil, nil, ErrApart
	}
	x := mat.NewVecDense(readers, nil)
	if err := chol.SolveVecTo(x, rhs); err != nil {
		return nil, nil, ErrApart
	}
	caseValues, readerEffects = make([]float64, cases), make([]float64, readers)
	for r := range readers {
		readerEffects[r] = x.AtVec(r)
	}
	for i := range cases {
		v := s.sum[i]
		for _, r := range s.by[i] {
			v -= readerEffects[r]
		}
		caseValues[i] = v / s.count[i]
	}
	return caseValues, readerEffects, nil
}

// Drift is how a reader’s marks move over their own order of reading, beyond what
// the cases tell: marks a case, and how many standard errors that is from none.
// residuals are in that order; fewer than five tell nothing.
func Drift(residuals []float64) (slope, z float64) {
	n := float64(len(residuals))
	if n < 5 {
		return 0, 0
	}
	mx, my, sxx, sxy, syy := (n-1)/2, 0.0, 0.0, 0.0, 0.0
	for _, v := range residuals {
		my += v / n
	}
	for i, v := range residuals {
		dx, dy := float64(i)-mx, v-my
		sxx, sxy, syy = sxx+dx*dx, sxy+dx*dy, syy+dy*dy
	}
	slope = sxy / sxx
	rest := (syy - slope*sxy) / (n - 2)
	if rest <= 1e-12 {
		if math.Abs(slope) < 1e-9 {
			return 0, 0
		}
		return slope, math.Copysign(math.Inf(1), slope)
	}
	return slope, slope / math.Sqrt(rest/sxx)
}

// Halo is how far criteria move together in one reader’s marks: the mean correlation
// of each two, over the cases they marked; NaN where nothing can be told. rows are
// cases, columns criteria.
func Halo(rows [][]float64) float64 {
	if len(rows) < 5 || len(rows[0]) < 2 {
		return math.NaN()
	}
	sum, n := 0.0, 0
	for a := range rows[0] {
		for b := range a {
			if r := correlation(rows, a, b); !math.IsNaN(r) {
				sum, n = sum+r, n+1
			}
		}
	}
	if n == 0 {
		return math.NaN()
	}
	return sum / float64(n)
}

func correlation(rows [][]float64, a, b int) float64 {
	var ma, mb, saa, sbb, sab float64
	n := float64(len(rows))
	for _, r := range rows {
		ma, mb = ma+r[a]/n, mb+r[b]/n
	}
	for _, r := range rows {
		saa, sbb, sab = saa+(r[a]-ma)*(r[a]-ma), sbb+(r[b]-mb)*(r[b]-mb), sab+(r[a]-ma)*(r[b]-mb)
	}
	if saa == 0 || sbb == 0 {
		return math.NaN()
	}
	return sab / math.Sqrt(saa*sbb)
}
