package whatif

import (
	"math"
	"slices"
)

// Best is the set of cases that is worth most under the money and the quotas of rules,
// whatever the order.
type Best struct {
	Gives  []int64 // sums, minor units; nil where no set keeps all quotas
	Worth  int64
	Bound  int64 // no set is worth more
	Proved bool
}

// BestSet finds it by branch and bound over linear programmes (Land and Doig,
// Econometrica 28, 1960), fixing what reduced costs rule out (Dantzig, Fulkerson and
// Johnson, 1954). nodes bounds the search: where it ends early the bound says how much
// better a set could be. What is held by hand stays; parts are not given, since what is
// of use is not what is worth most.
func BestSet(cases []Case, rules Rules, nodes int) *Best {
	s := &search{rules: rules, cases: cases, best: -1}
	s.lay()
	root := s.lp.start()
	for k, i := range s.of {
		if h, held := rules.Held[i]; held && h.Give {
			root.low[k] = 1
			root.upper[k] = true
		}
	}
	s.trial(s.order())
	b := &Best{Bound: math.MinInt64}
	if !s.lp.solve(root) {
		return b
	}
	s.branch(root, &nodes)
	b.Proved = nodes > 0
	if s.best < 0 {
		b.Bound = s.bound
		return b
	}
	b.Worth, b.Bound = s.best, max(s.best, s.bound)
	if b.Proved {
		b.Bound = b.Worth
	}
	b.Gives = make([]int64, len(cases))
	for k, in := range s.chosen {
		if in {
			b.Gives[s.of[k]] = s.sums[k]
		}
	}
	return b
}

// search under way. Variables are the cases that can be given something.
type search struct {
	rules  Rules
	cases  []Case
	lp     *lp
	of     []int // case of each variable
	sums   []int64
	worth  []int64
	rows   []row
	best   int64 // -1: none yet
	chosen []bool
	bound  int64 // of what was left unsearched
}

// row is a condition in whole numbers: Σ counts ≤ most.
type row struct {
	counts []int64 // of each variable
	most   int64
}

func (s *search) lay() {
	for i, c := range s.cases {
		h, held := s.rules.Held[i]
		sum := s.rules.Sum(c)
		if held && h.Sum > 0 {
			sum = h.Sum
		}
		if held && !h.Give || !held && !c.Known || sum <= 0 {
			continue
		}
		s.of, s.sums, s.worth = append(s.of, i), append(s.sums, sum), append(s.worth, c.Worth)
	}
	n := len(s.of)
	for f, money := range s.rules.Funds {
		r := row{make([]int64, n), money}
		for k, i := range s.of {
			if s.cases[i].Fund == f {
				r.counts[k] = s.sums[k]
			}
		}
		s.rows = append(s.rows, r)
	}
	for _, q := range s.rules.Quotas {
		most, least := row{make([]int64, n), q.Most}, row{make([]int64, n), -q.Least}
		for k, i := range s.of {
			if q.of(s.cases[i]) {
				most.counts[k], least.counts[k] = q.counts(s.sums[k]), -q.counts(s.sums[k])
			}
		}
		if q.Most >= 0 {
			s.rows = append(s.rows, most)
		}
		if q.Least > 0 {
			s.rows = append(s.rows, least)
		}
	}
	s.lp = &lp{c: make([]float64, n), cols: make([][]entry, n), b: make([]float64, len(s.rows))}
	for r, row := range s.rows {
		scale := 1.0 // rows of money and rows of heads alike in size
		for _, v := range row.counts {
			scale = max(scale, math.Abs(float64(v)))
		}
		s.lp.b[r] = float64(row.most) / scale
		for k, v := range row.counts {
			if v != 0 {
				s.lp.cols[k] = append(s.lp.cols[k], entry{r, float64(v) / scale})
			}
		}
	}
	for k, w := range s.worth {
		s.lp.c[k] = float64(w)
	}
}

// order is what the order itself gives, as a first set to beat.
func (s *search) order() []bool {
	rules := s.rules
	rules.Past, rules.Part = true, false
	res := Work(s.cases, rules)
	out := make([]bool, len(s.of))
	for k, i := range s.of {
		out[k] = res.Gives[i] > 0
	}
	return out
}

// trial keeps a set that breaks no row, if it is the best so far. A copy is kept.
func (s *search) trial(set []bool) {
	var worth int64
	for k, in := range set {
		if in {
			worth += s.worth[k]
		}
	}
	if worth <= s.best {
		return
	}
	for _, r := range s.rows {
		var sum int64
		for k, in := range set {
			if in {
				sum += r.counts[k]
			}
		}
		if sum > r.most {
			return
		}
	}
	s.best, s.chosen = worth, slices.Clone(set)
}

// branch searches below a solved state.
func (s *search) branch(at *state, nodes *int) {
	x, worth := s.lp.values(at)
	bound := int64(math.Floor(worth + 1e-6))
	if bound <= s.best {
		return
	}
	if *nodes--; *nodes <= 0 {
		s.bound = max(s.bound, bound)
		return
	}
	set := make([]bool, len(x)) // what the relaxation takes whole
	split, far := -1, 1e-6
	for k, v := range x {
		set[k] = v > 1-1e-6
		if part := min(v, 1-v); part > far {
			split, far = k, part
		}
	}
	s.trial(set)
	if split < 0 {
		return
	}
	s.trial(s.filled(set, x))
	for k := range x { // what cannot be otherwise in anything better stays as it is
		if at.place[k] < 0 && at.low[k] < at.high[k] && worth-math.Abs(at.d[k]) < float64(s.best)+1-1e-6 {
			if at.upper[k] {
				at.low[k] = at.high[k]
			} else {
				at.high[k] = at.low[k]
			}
		}
	}
	order := []float64{1, 0}
	if x[split] < 0.5 {
		order = []float64{0, 1}
	}
	for _, v := range order {
		next := at.clone()
		next.low[split], next.high[split] = v, v
		next.upper[split] = v == 1
		if s.lp.solve(next) {
			s.branch(next, nodes)
		}
	}
}

// filled adds to a set what still fits, the largest parts first.
func (s *search) filled(set []bool, x []float64) []bool {
	out := slices.Clone(set)
	sums := make([]int64, len(s.rows))
	for r, row := range s.rows {
		for k, in := range out {
			if in {
				sums[r] += row.counts[k]
			}
		}
	}
	var open []int
	for k := range x {
		if !out[k] {
			open = append(open, k)
		}
	}
	slices.SortStableFunc(open, func(a, b int) int {
		switch {
		case x[a] != x[b]:
			if x[a] > x[b] {
				return -1
			}
			return 1
		case s.worth[a] != s.worth[b]:
			if s.worth[a] > s.worth[b] {
				return -1
			}
			return 1
		}
		return a - b
	})
	for _, k := range open {
		fits := true
		for r, row := range s.rows {
			fits = fits && (row.counts[k] <= 0 || sums[r]+row.counts[k] <= row.most)
		}
		if !fits {
			continue
		}
		out[k] = true
		for r, row := range s.rows {
			sums[r] += row.counts[k]
		}
	}
	return out
}
