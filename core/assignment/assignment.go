// Package assignment hands cases out to readers: every case gets as many
// readers as it needs, nobody reads a case they stepped aside from, and the
// greatest load is as small as it can be. It is a bipartite b-matching found
// by augmenting paths (Ford & Fulkerson, Flows in Networks, 1962, ch. II),
// with the load limit raised until all fits. Where loads are equal it prefers
// the reader who has shared the fewest cases with those who read this one, so
// that readers mix and their marks can be compared later.
package assignment

// Problem of handing out. Cases and readers are numbered from 0.
type Problem struct {
	Cases   int
	Readers int
	Each    int                           // readers for each case
	Barred  func(caseNo, reader int) bool // stepped aside; nil: nobody
	Kept    [][]int                       // readers a case has already; they stay. nil: none
}

// Short is a case that could not get all its readers.
type Short struct{ Case, Got int }

// Solve returns, for each case, its readers in ascending order, those kept
// included, and the cases that fall short even with every load allowed.
func (p Problem) Solve() (given [][]int, short []Short) {
	s := solver{Problem: p, has: make([][]bool, p.Cases), load: make([]int, p.Readers), together: make([][]int, p.Readers)}
	for r := range s.together {
		s.together[r] = make([]int, p.Readers)
	}
	need := 0
	for c := range p.Cases {
		s.has[c] = make([]bool, p.Readers)
		if c < len(p.Kept) {
			for _, r := range p.Kept[c] {
				s.give(c, r)
			}
		}
		need += p.Each
	}
	if p.Readers > 0 {
		s.limit = min((need+p.Readers-1)/p.Readers, p.Cases)
	}
	for ; s.limit <= p.Cases; s.limit++ {
		short = s.fill()
		if len(short) == 0 || s.limit == p.Cases {
			break
		}
	}
	given = make([][]int, p.Cases)
	for c := range p.Cases {
		for r, has := range s.has[c] {
			if has {
				given[c] = append(given[c], r)
			}
		}
	}
	return given, short
}

type solver struct {
	Problem
	limit int
	has   [][]bool // case × reader
	load  []int
	// together counts the cases that two readers share, reader × reader; kept as
	// cases are given and taken, so that comparing readers scans no case.
	together [][]int
}

func (s *solver) give(c, r int) {
	for with, has := range s.has[c] {
		if has {
			s.together[r][with]++
			s.together[with][r]++
		}
	}
	s.has[c][r] = true
	s.load[r]++
}

func (s *solver) take(c, r int) {
	s.has[c][r] = false
	s.load[r]--
	for with, has := range s.has[c] {
		if has {
			s.together[r][with]--
			s.together[with][r]--
		}
	}
}

func (s *solver) fill() (short []Short) {
	for c := range s.Cases {
		got := 0
		for _, has := range s.has[c] {
			if has {
				got++
			}
		}
		for got < s.Each && s.augment(c, make([]bool, s.Readers)) {
			got++
		}
		if got < s.Each {
			short = append(short, Short{c, got})
		}
	}
	return short
}

// augment gives case c one more reader, moving others where that frees one.
func (s *solver) augment(c int, seen []bool) bool {
	best, bestShared := -1, 0
	for r := range s.Readers { // the least loaded first, so that loads stay even
		if !s.may(c, r) || seen[r] || s.load[r] >= s.limit || best >= 0 && s.load[r] > s.load[best] {
			continue
		}
		if shared := s.shared(c, r); best < 0 || s.load[r] < s.load[best] || shared < bestShared {
			best, bestShared = r, shared
		}
	}
	if best >= 0 {
		s.give(c, best)
		return true
	}
	for r := range s.Readers {
		if !s.may(c, r) || seen[r] {
			continue
		}
		seen[r] = true
		for other := range s.Cases {
			if other == c || !s.has[other][r] || s.kept(other, r) {
				continue
			}
			s.take(other, r)
			if s.augment(other, seen) {
				s.give(c, r)
				return true
			}
			s.give(other, r)
		}
	}
	return false
}

// shared counts the cases that r reads together with the readers of c, once
// for each of them.
func (s *solver) shared(c, r int) (n int) {
	for with, has := range s.has[c] {
		if has {
			n += s.together[r][with]
		}
	}
	return n
}

func (s *solver) may(c, r int) bool {
	return !s.has[c][r] && (s.Barred == nil || !s.Barred(c, r))
}

func (s *solver) kept(c, r int) bool {
	if c < len(s.Kept) {
		for _, k := range s.Kept[c] {
			if k == r {
				return true
			}
		}
	}
	return false
}
