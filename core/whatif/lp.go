package whatif

import "math"

// lp is a linear programme: the greatest c·x with Ax ≤ b and every x between its
// bounds, which are finite. It is solved by the dual simplex method for bounded
// variables (Lemke, Naval Research Logistics Quarterly 1, 1954; Maros, Computational
// Techniques of the Simplex Method, 2003, chapter 10): with every variable at the bound
// that its worth points to, the slacks are a basis that is dual feasible at once, and
// it stays so when bounds are moved, so that a branch goes on from where its parent
// ended. Rows are few (funds and quotas), columns many (cases), and thin.
type lp struct {
	c    []float64
	cols [][]entry // of each variable
	b    []float64
}

// entry of a column.
type entry struct {
	row int
	v   float64
}

// state of a solution: which variable is basic in each row (n + r for the slack of row
// r), which stand at their upper bound, and the inverse of the basis.
type state struct {
	low, high []float64 // bounds of the variables
	basis     []int
	place     []int // of a variable in the basis, -1: none; slacks after the variables
	upper     []bool
	inv       [][]float64 // rows × rows
	d         []float64   // reduced costs, of variables and slacks
}

const tiny = 1e-9

func (p *lp) start() *state {
	n, m := len(p.c), len(p.b)
	s := &state{low: make([]float64, n), high: make([]float64, n), basis: make([]int, m), place: make([]int, n+m),
		upper: make([]bool, n), inv: make([][]float64, m), d: make([]float64, n+m)}
	for j := range n {
		s.high[j], s.place[j], s.upper[j], s.d[j] = 1, -1, p.c[j] > 0, p.c[j]
	}
	for r := range m {
		s.basis[r], s.place[n+r] = n+r, r
		s.inv[r] = make([]float64, m)
		s.inv[r][r] = 1
	}
	return s
}

func (s *state) clone() *state {
	out := &state{low: append([]float64(nil), s.low...), high: append([]float64(nil), s.high...),
		basis: append([]int(nil), s.basis...),
		place: append([]int(nil), s.place...), upper: append([]bool(nil), s.upper...), d: append([]float64(nil), s.d...)}
	for _, row := range s.inv {
		out.inv = append(out.inv, append([]float64(nil), row...))
	}
	return out
}

// bounds of a variable or slack.
func (s *state) bounds(j int) (float64, float64) {
	if j < len(s.low) {
		return s.low[j], s.high[j]
	}
	return 0, math.Inf(1)
}

// at is where a variable that is not basic stands.
func (s *state) at(j int) float64 {
	if s.upper[j] {
		return s.high[j]
	}
	return s.low[j]
}

// basics are the values of the basic variables, row by row.
func (p *lp) basics(s *state) []float64 {
	rest := append([]float64(nil), p.b...)
	for j, col := range p.cols {
		if s.place[j] >= 0 {
			continue
		}
		if x := s.at(j); x != 0 {
			for _, e := range col {
				rest[e.row] -= e.v * x
			}
		}
	}
	out := make([]float64, len(p.b))
	for r, row := range s.inv {
		for k, v := range row {
			out[r] += v * rest[k]
		}
	}
	return out
}

// solve to the optimum; ok is false where nothing satisfies all rows.
func (p *lp) solve(s *state) (ok bool) {
	n, m := len(p.c), len(p.b)
	alpha := make([]float64, n+m)
	for range 200 * (m + 10) {
		x := p.basics(s)
		row, worst, below := -1, 1e-7, false
		for r, j := range s.basis {
			low, high := s.bounds(j)
			if v := low - x[r]; v > worst {
				row, worst, below = r, v, true
			}
			if v := x[r] - high; v > worst {
				row, worst, below = r, v, false
			}
		}
		if row < 0 {
			return true
		}
		sign := 1.0 // what must grow
		if !below {
			sign = -1
		}
		in, best := -1, math.Inf(1)
		for j := range n + m {
			if s.place[j] >= 0 {
				continue
			}
			a := p.rowAt(s, row, j)
			alpha[j] = a
			if j < n && s.low[j] == s.high[j] || math.Abs(a) < tiny {
				continue
			}
			up := j < n && s.upper[j]
			// x[row] falls by a for each step that j rises
			if a*sign < 0 && !up || a*sign > 0 && up {
				if ratio := math.Abs(s.d[j]) / math.Abs(a); ratio < best-1e-12 {
					in, best = j, ratio
				}
			}
		}
		if in < 0 {
			return false
		}
		p.pivot(s, row, in, !below, alpha)
	}
	return true // as near as it comes; the bound is checked by whoever asks
}

// rowAt is the entry of a row of the basis’ inverse times a column.
func (p *lp) rowAt(s *state, row, j int) (a float64) {
	if n := len(p.c); j >= n {
		return s.inv[row][j-n]
	}
	for _, e := range p.cols[j] {
		a += s.inv[row][e.row] * e.v
	}
	return a
}

// pivot takes in into the basis for what stands in a row, which goes to a bound.
func (p *lp) pivot(s *state, row, in int, toUpper bool, alpha []float64) {
	n, m := len(p.c), len(p.b)
	out, pivot := s.basis[row], alpha[in]
	step := s.d[in] / pivot
	for j := range n + m {
		if s.place[j] < 0 && j != in {
			s.d[j] -= step * alpha[j]
		}
	}
	s.d[in], s.d[out] = 0, -step
	col := make([]float64, m)
	for r := range m {
		col[r] = p.rowAt(s, r, in)
	}
	for k := range m {
		s.inv[row][k] /= pivot
	}
	for r := range m {
		if r == row || col[r] == 0 {
			continue
		}
		for k := range m {
			s.inv[r][k] -= col[r] * s.inv[row][k]
		}
	}
	s.place[out], s.place[in], s.basis[row] = -1, row, in
	if out < n {
		s.upper[out] = toUpper
	}
}

// values of the variables and what they are worth together.
func (p *lp) values(s *state) (x []float64, worth float64) {
	basics := p.basics(s)
	x = make([]float64, len(p.c))
	for j := range x {
		if r := s.place[j]; r >= 0 {
			x[j] = basics[r]
		} else {
			x[j] = s.at(j)
		}
		worth += p.c[j] * x[j]
	}
	return x, worth
}
