package assignment

import "slices"

// explain says of each case that lacks readers why: a field that too few know,
// else the readers it and others are left with, and their places.
func (p *Problem) explain(f *flow) (out []Short) {
	fields := p.fieldsShort()
	for _, c := range f.short {
		s := Short{Case: c, Got: len(f.at[c]), Field: None}
		if p.Field != nil && p.Field[c] != None {
			if why, ok := fields[p.Field[c]]; ok {
				s.Field, s.Cases, s.Readers, s.Needed, s.Places = p.Field[c], why.Cases, why.Readers, why.Needed, why.Places
				out = append(out, s)
				continue
			}
		}
		f.begin()
		for r := range f.n {
			if f.may(c, r, None) {
				f.dist[r] = 0
			}
		}
		reached := f.reachable()
		s.count(p, f, c, reached)
		out = append(out, s)
	}
	return out
}

// reachable marks the readers to whom a place could be handed on, from those whose
// distance is set.
func (f *flow) reachable() []bool {
	seen := make([]bool, f.n)
	var next []int
	for r := range f.n {
		if f.dist[r] < far {
			seen[r], next = true, append(next, r)
		}
	}
	for len(next) > 0 {
		u := next[0]
		next = next[1:]
		for v := range f.n {
			if !seen[v] && f.weight(u, v) < far {
				seen[v], next = true, append(next, v)
			}
		}
	}
	return seen
}

// count the cases that hang on the readers reached, what they need of them, and
// what places these have: a minimum cut (Ford & Fulkerson, Flows in Networks, 1962).
func (s *Short) count(p *Problem, f *flow, c int, reached []bool) {
	for r, is := range reached {
		if is {
			s.Readers, s.Places = append(s.Readers, r), s.Places+p.most(r)
		}
	}
	allowed := 0
	for i := range p.Each {
		inside, outside := 0, 0
		for r := range f.n {
			switch {
			case !p.Allowed(i, r):
			case reached[r]:
				inside++
			default:
				outside++
			}
		}
		if i == c {
			allowed = inside + outside
		}
		mine := slices.ContainsFunc(f.at[i], func(r int) bool { return reached[r] })
		if need := p.Each[i] - outside; need > 0 && (mine || i == c) {
			s.Cases, s.Needed = append(s.Cases, i), s.Needed+need
		}
	}
	if s.Readers == nil && allowed >= p.Each[c] {
		s.AnotherOrg = true
	}
}

// fieldsShort are the fields that too few readers know for their cases, with why.
func (p *Problem) fieldsShort() map[int]Short {
	out := map[int]Short{}
	if p.Field == nil {
		return out
	}
	fields := map[int]bool{}
	for _, field := range p.Field {
		if field != None {
			fields[field] = true
		}
	}
	for field := range fields {
		sub := &Problem{Each: make([]int, len(p.Each)), Costs: make([][]int64, len(p.Each)), Most: p.Most}
		for c := range p.Each {
			sub.Costs[c] = make([]int64, p.Readers())
			if p.Field[c] == field {
				sub.Each[c] = min(1, p.Each[c])
			}
			for r := range sub.Costs[c] {
				if !p.Allowed(c, r) || !p.Knows[r][field] {
					sub.Costs[c][r] = Never
				}
			}
		}
		if plan := Solve(sub, 0); len(plan.Short) > 0 {
			why := plan.Short[0]
			why.Field = field
			out[field] = why
		}
	}
	return out
}
