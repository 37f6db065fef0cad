package calibrate

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
)

// Closeness of a case to a line: between these chances of standing above it, it is
// too close to call.
const (
	CloseFrom = 0.10
	CloseTo   = 0.90
)

// Close reports a chance that is too close to call.
func Close(chance float64) bool { return chance > CloseFrom && chance < CloseTo }

// Normal is where chance comes from: draws of a standard normal variable.
type Normal interface{ NormFloat64() float64 }

// Chances of each case of standing above a line, by draws from what is known of all
// effects together, the variances taken as they are. above says which stand above it
// when the cases, by their places, are in this order. draw is where chance comes from.
func (m *Model) Chances(draw Normal, draws int, above func(order []int) []bool) []float64 {
	s := m.system
	k := s.nReaders + 1
	var l mat.TriDense
	s.chol.LTo(&l)
	z, x := mat.NewVecDense(k, nil), mat.NewVecDense(k, nil)
	out := make([]float64, s.nCases)
	value, order := make([]float64, s.nCases), make([]int, s.nCases)
	for range draws {
		for i := range k {
			z.SetVec(i, draw.NormFloat64())
		}
		if err := x.SolveVec(l.T(), z); err != nil {
			return out
		}
		for i := range k {
			x.SetVec(i, s.x.AtVec(i)+m.sigma*x.AtVec(i))
		}
		for i := range s.nCases {
			v := s.sum[i] - s.count[i]*x.AtVec(0)
			for _, r := range s.by[i] {
				v -= x.AtVec(r + 1)
			}
			value[i] = x.AtVec(0) + v/s.d[i] + m.sigma/math.Sqrt(s.d[i])*draw.NormFloat64()
			order[i] = i
		}
		slices.SortFunc(order, func(a, b int) int {
			switch {
			case value[a] > value[b]:
				return -1
			case value[a] < value[b]:
				return 1
			}
			return a - b
		})
		for i, is := range above(order) {
			if is {
				out[order[i]]++
			}
		}
	}
	for i := range out {
		out[i] /= float64(draws)
	}
	return out
}
