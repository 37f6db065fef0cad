// Package calibrate brings marks to one scale. A mark is what the case deserves,
// what its reader is apt to give, and chance: mark = mean + case + reader + error,
// case and reader effects random, their variances found by restricted maximum
// likelihood (Patterson & Thompson, Biometrika 58, 1971), the effects predicted by
// Henderson's mixed-model equations (Biometrics 31, 1975). A case that few have read
// is drawn towards the mean as far as is known of it. The criterion is that of Bates
// et al., Fitting linear mixed-effects models using lme4, J. Stat. Softw. 67, 2015.
package calibrate

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/optimize"
)

// Mark of one reader for one case, both by their places; a reader of -1 is nobody's
// doing.
type Mark struct {
	Case, Reader int
	Value        float64
}

// Effect of a case or a reader: how far from the mean, and its standard error.
type Effect struct{ Is, Error float64 }

// Model of the marks of a round.
type Model struct {
	Mean                         float64
	CaseVar, ReaderVar, ErrorVar float64 // variances
	Criterion                    float64 // −2 log restricted likelihood, the smaller the better
	Cases                        []Effect
	Readers                      []Effect
	marks                        []Mark
	system                       *system
	sigma                        float64
}

// ErrTooFew: there are too few marks to tell anything.
var ErrTooFew = errors.New("too few marks to bring them to one scale")

// system is the mixed-model equations with the cases eliminated: what is left is the
// mean and the readers.
type system struct {
	nCases, nReaders, n int
	count               []float64 // marks of each case
	sum                 []float64 // of each case
	by                  [][]int   // readers of each case
	yy, total           float64
	readerSum, readers  []float64

	chol   mat.Cholesky
	x      *mat.VecDense // mean, then readers
	d      []float64     // of each case: count + 1/γ
	rss    float64
	logDet float64
}

func gather(marks []Mark, cases, readers int) *system {
	s := &system{nCases: cases, nReaders: readers, n: len(marks), count: make([]float64, cases), sum: make([]float64,
		cases),
		by: make([][]int, cases), readerSum: make([]float64, readers), readers: make([]float64, readers)}
	for _, m := range marks {
		s.count[m.Case]++
		s.sum[m.Case] += m.Value
		s.yy += m.Value * m.Value
		s.total += m.Value
		if m.Reader >= 0 {
			s.by[m.Case] = append(s.by[m.Case], m.Reader)
			s.readerSum[m.Reader] += m.Value
			s.readers[m.Reader]++
		}
	}
	return s
}

// solve the equations at variance ratios (to the error variance) of cases and
// readers; false where they cannot be solved.
func (s *system) solve(caseRatio, readerRatio float64) bool {
	k := s.nReaders + 1
	a, rhs := mat.NewSymDense(k, nil), make([]float64, k)
	s.d = make([]float64, s.nCases)
	a.SetSym(0, 0, float64(s.n))
	rhs[0] = s.total
	for r := range s.nReaders {
		a.SetSym(0, r+1, s.readers[r])
		a.SetSym(r+1, r+1, s.readers[r]+1/readerRatio)
		rhs[r+1] = s.readerSum[r]
	}
	s.logDet = float64(s.nCases)*math.Log(caseRatio) + float64(s.nReaders)*math.Log(readerRatio)
	for i := range s.nCases {
		s.d[i] = s.count[i] + 1/caseRatio
		s.logDet += math.Log(s.d[i])
		if s.count[i] == 0 {
			continue
		}
		share := 1 / s.d[i]
		a.SetSym(0, 0, a.At(0, 0)-s.count[i]*s.count[i]*share)
		rhs[0] -= s.count[i] * s.sum[i] * share
		for _, r := range s.by[i] {
			a.SetSym(0, r+1, a.At(0, r+1)-s.count[i]*share)
			rhs[r+1] -= s.sum[i] * share
			for _, q := range s.by[i] {
				if q >= r {
					v := share
					if q == r { // met once for each pair of marks
						a.SetSym(r+1, r+1, a.At(r+1, r+1)-v)
						continue
					}
					a.SetSym(r+1, q+1, a.At(r+1, q+1)-v)
				}
			}
		}
	}
	if !s.chol.Factorize(a) {
		return false
	}
	s.logDet += s.chol.LogDet()
	s.x = mat.NewVecDense(k, nil)
	if err := s.chol.SolveVecTo(s.x, mat.NewVecDense(k, rhs)); err != nil {
		return false
	}
	// penalised sum of squares: y'y less the solution times the right-hand side
	s.rss = s.yy - s.x.AtVec(0)*s.total
	for r := range s.nReaders {
		s.rss -= s.x.AtVec(r+1) * s.readerSum[r]
	}
	for i := range s.nCases {
		s.rss -= s.effect(i) * s.sum[i]
	}
	return s.rss > 0
}

// effect of a case at the solution.
func (s *system) effect(i int) float64 {
	v := s.sum[i] - s.count[i]*s.x.AtVec(0)
	for _, r := range s.by[i] {
		v -= s.x.AtVec(r + 1)
	}
	return v / s.d[i]
}

// criterion is −2 log restricted likelihood with the error variance worked out.
func (s *system) criterion() float64 {
	n := float64(s.n - 1)
	return s.logDet + n*(1+math.Log(2*math.Pi*s.rss/n))
}

// least is the least standard deviation of an effect beside the error’s that is
// looked at: beneath it, it is none.
const least = 1e-4

// Fit the model to marks of so many cases and readers, by their places.
func Fit(marks []Mark, cases, readers int) (*Model, error) {
	s := gather(marks, cases, readers)
	shared := 0
	for _, c := range s.count {
		if c > 1 {
			shared++
		}
	}
	if len(marks) < 3 || shared == 0 || len(marks) <= cases {
		return nil, ErrTooFew
	}
	dims := 1
	if readers > 0 {
		dims = 2
	}
	ratio := func(x []float64) (float64, float64) { // of log standard deviations
		sd := func(v float64) float64 { return math.Max(math.Exp(v), least) }
		if dims == 1 {
			return sd(x[0]) * sd(x[0]), 1
		}
		return sd(x[0]) * sd(x[0]), sd(x[1]) * sd(x[1])
	}
	problem := optimize.Problem{Func: func(x []float64) float64 {
		if !s.solve(ratio(x)) {
			return math.Inf(1)
		}
		return s.criterion()
	}}
	out, err := optimize.Minimize(problem, make([]float64, dims), &optimize.Settings{FuncEvaluations: 400,
		Converger: &optimize.FunctionConverge{Absolute: 1e-9, Iterations: 25}}, &optimize.NelderMead{SimplexSize: 0.5})
	if out == nil || err != nil && out.X == nil {
		return nil, ErrTooFew
	}
	a, b := ratio(out.X)
	if !s.solve(a, b) {
		return nil, ErrTooFew
	}
	m := &Model{Mean: s.x.AtVec(0), Criterion: s.criterion(), ErrorVar: s.rss / float64(s.n-1), marks: marks, system: s}
	m.sigma = math.Sqrt(m.ErrorVar)
	m.CaseVar = a * m.ErrorVar
	if dims == 2 {
		m.ReaderVar = b * m.ErrorVar
	}
	m.effects()
	return m, nil
}

// effects and their conditional standard deviations, given the variances: those of
// the effect itself, not of the error in predicting the mean with it.
func (m *Model) effects() {
	s := m.system
	var inverse mat.SymDense
	if err := s.chol.InverseTo(&inverse); err != nil {
		return
	}
	m.Cases, m.Readers = make([]Effect, s.nCases), make([]Effect, s.nReaders)
	// conditional on the mean: the block of readers without it
	block := mat.NewSymDense(max(s.nReaders, 1), nil)
	if s.nReaders > 0 {
		for r := range s.nReaders {
			for q := r; q < s.nReaders; q++ { // of the inverse, less what goes by the mean
				block.SetSym(r, q, inverse.At(r+1, q+1)-inverse.At(r+1, 0)*inverse.At(0, q+1)/inverse.At(0, 0))
			}
			m.Readers[r] = Effect{s.x.AtVec(r + 1), m.sigma * math.Sqrt(block.At(r, r))}
		}
	}
	for i := range s.nCases {
		v := 1 / s.d[i]
		for _, r := range s.by[i] {
			for _, q := range s.by[i] {
				v += block.At(r, q) / (s.d[i] * s.d[i])
			}
		}
		m.Cases[i] = Effect{s.effect(i), m.sigma * math.Sqrt(v)}
	}
}

// Calibrated is the score of a case on the scale of the marks.
func (m *Model) Calibrated(i int) float64 { return m.Mean + m.Cases[i].Is }

// Single is how much of the spread of one reader’s marks is the cases: the intraclass
// correlation of a single mark, ICC(2,1) of Shrout & Fleiss, Psychol. Bull. 86, 1979.
func (m *Model) Single() float64 { return m.CaseVar / (m.CaseVar + m.ReaderVar + m.ErrorVar) }

// Residual of a mark: what neither its case nor its reader tells.
func (m *Model) Residual(x Mark) float64 {
	v := x.Value - m.Calibrated(x.Case)
	if x.Reader >= 0 {
		v -= m.Readers[x.Reader].Is
	}
	return v
}
