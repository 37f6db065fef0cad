package proof

import (
	"context"

	"github.com/crillab/gophersat/solver"
)

// lit is a variable of the formula or, negated, its complement.
type lit int

// The constants. Variable 1 is never free.
const (
	always lit = 1
	never  lit = -1
)

// formula is a growing set of clauses. Gates are defined in both directions,
// so that whatever is not asked about can always be completed.
type formula struct {
	vars    int
	clauses [][]int
	gates   map[string]lit
	linear  []*linear // atoms about sums, held to lazily
	numbers []*number
}

func newFormula() *formula { return &formula{vars: 1, gates: map[string]lit{}} }

func (f *formula) fresh() lit {
	f.vars++
	return lit(f.vars)
}

// add a clause: at least one of them.
func (f *formula) add(of ...lit) {
	clause := make([]int, 0, len(of))
	for _, l := range of {
		switch l {
		case always:
			return
		case never:
			continue
		}
		clause = append(clause, int(l))
	}
	f.clauses = append(f.clauses, clause)
}

// implies: when all of from hold, so does to.
func (f *formula) implies(to lit, from ...lit) {
	clause := []lit{to}
	for _, l := range from {
		clause = append(clause, -l)
	}
	f.add(clause...)
}

// and is a literal that holds when all do.
func (f *formula) and(of ...lit) lit {
	var kept []lit
	for _, l := range of {
		switch {
		case l == never:
			return never
		case l == always, holds(kept, l):
			continue
		case holds(kept, -l):
			return never
		}
		kept = append(kept, l)
	}
	switch len(kept) {
	case 0:
		return always
	case 1:
		return kept[0]
	}
	key := gateKey(kept)
	if g, ok := f.gates[key]; ok {
		return g
	}
	g := f.fresh()
	back := []lit{g}
	for _, l := range kept {
		f.add(-g, l)
		back = append(back, -l)
	}
	f.add(back...)
	f.gates[key] = g
	return g
}

// or is a literal that holds when any does.
func (f *formula) or(of ...lit) lit {
	neg := make([]lit, len(of))
	for i, l := range of {
		neg[i] = -l
	}
	return -f.and(neg...)
}

// atLeast holds when n or more of them do: a counter, row by row.
func (f *formula) atLeast(n int, of []lit) lit {
	switch {
	case n <= 0:
		return always
	case n > len(of):
		return never
	case n == 1:
		return f.or(of...)
	case n == len(of):
		return f.and(of...)
	}
	return f.counts(of, n)[n]
}

// counts gives, for every k up to most, a literal for "k or more of them".
func (f *formula) counts(of []lit, most int) []lit {
	row := make([]lit, most+1)
	row[0] = always
	for k := 1; k <= most; k++ {
		row[k] = never
	}
	for _, l := range of {
		next := make([]lit, most+1)
		next[0] = always
		for k := 1; k <= most; k++ {
			next[k] = f.or(row[k], f.and(row[k-1], l))
		}
		row = next
	}
	return row
}

// oneOf makes exactly one of them hold.
func (f *formula) oneOf(of []lit) {
	f.add(of...)
	for i := range of {
		for j := range i {
			f.add(-of[i], -of[j])
		}
	}
}

func holds(of []lit, l lit) bool {
	for _, m := range of {
		if m == l {
			return true
		}
	}
	return false
}

func gateKey(of []lit) string {
	b := make([]byte, 0, 4*len(of))
	for _, l := range of {
		b = append(b, byte(l>>24), byte(l>>16), byte(l>>8), byte(l))
	}
	return string(b)
}

// model says which variables hold.
type model []bool

func (m model) holds(l lit) bool {
	switch {
	case l == always:
		return true
	case l == never:
		return false
	case l > 0:
		return int(l) <= len(m) && m[l-1]
	}
	return !m.holds(-l)
}

// rounds is how often the sums may contradict the booleans before a query is
// given up.
const rounds = 300

// answer of a query.
type answer int8

const (
	impossible answer = iota
	possible
	undecided // time ran out, or the sums did
)

// solve looks for an assignment in which all assumptions hold. Conflicts
// between sums come back as clauses that stay: they hold always.
func (f *formula) solve(ctx context.Context, assume ...lit) (answer, model) {
	for range rounds {
		if ctx.Err() != nil {
			return undecided, nil
		}
		m, ok := f.booleans(assume)
		if !ok {
			return impossible, nil
		}
		conflict := f.sums(m)
		if conflict == nil {
			return possible, m
		}
		f.add(conflict...)
	}
	return undecided, nil
}

// booleans solves without the sums. A new solver for each query: assumptions
// are units of the problem, which the solver simplifies by.
func (f *formula) booleans(assume []lit) (model, bool) {
	cnf := make([][]int, 0, len(f.clauses)+len(assume)+1)
	cnf = append(cnf, []int{1})
	for _, l := range assume {
		if l == never {
			return nil, false
		}
		if l != always {
			cnf = append(cnf, []int{int(l)})
		}
	}
	for _, c := range f.clauses {
		if len(c) == 0 {
			return nil, false
		}
		cnf = append(cnf, c)
	}
	s := solver.New(solver.ParseSliceNb(cnf, f.vars))
	if s.Solve() != solver.Sat {
		return nil, false
	}
	return s.Model(), true
}
