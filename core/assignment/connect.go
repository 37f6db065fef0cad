package assignment

import "slices"

// Marks are comparable where a chain of readers and cases joins them: two juries
// that share no case measure with two rods.

// Juries are the readers that chains of shared cases join, the largest first. Who
// reads nothing is in none.
func Juries(given [][]int, readers int) (out [][]int) {
	root := make([]int, readers)
	for r := range root {
		root[r] = r
	}
	var find func(r int) int
	find = func(r int) int {
		if root[r] != r {
			root[r] = find(root[r])
		}
		return root[r]
	}
	reads := make([]bool, readers)
	for _, list := range given {
		for _, r := range list {
			reads[r] = true
			root[find(r)] = find(list[0])
		}
	}
	of := map[int][]int{}
	for r := range root {
		if reads[r] {
			of[find(r)] = append(of[find(r)], r)
		}
	}
	for _, list := range of {
		out = append(out, list)
	}
	slices.SortFunc(out, func(a, b []int) int {
		if len(a) != len(b) {
			return len(b) - len(a)
		}
		return a[0] - b[0]
	})
	return out
}

// Bridge is one more reading that joins two juries.
type Bridge struct {
	Case, Reader int
	Costs        int64
}

// Bridges are the cheapest readings more that join all juries, shared cases for
// each joint, of readers with room; fewer where there is no room. Two shared cases
// are the least from which a difference can be told from chance.
func Bridges(p *Problem, given [][]int, shared int) (out []Bridge) {
	plan := Plan{Given: given}
	load := plan.Loads(p.Readers())
	taken := map[[2]int]bool{}
	list := Juries(given, p.Readers())
	all := make([]int, p.Readers())
	for r := range all {
		all[r] = r
	}
	for len(list) > 1 {
		jury := make([]int, p.Readers())
		for r := range jury {
			jury[r] = None
		}
		for j, readers := range list {
			for _, r := range readers {
				jury[r] = j
			}
		}
		// the smallest is joined to the one to which it can be joined for least
		small, to := len(list)-1, None
		for range shared {
			best := Bridge{Case: None, Costs: Never}
			for c, readers := range given {
				if len(readers) == 0 {
					continue
				}
				of := jury[readers[0]]
				with := list[small] // a case of another jury is joined by one of the smallest alone
				if of == small {
					with = all
				} else if to != None && of != to {
					continue
				}
				for _, r := range with {
					joins := jury[r] != None && jury[r] != of && (to == None || of == to || jury[r] == to)
					if joins && p.Allowed(c, r) && load[r] < p.most(r) && !taken[[2]int{c, r}] && p.Costs[c][r] < best.Costs {
						best = Bridge{c, r, p.Costs[c][r]}
					}
				}
			}
			if best.Case == None {
				break
			}
			if to == None {
				if to = jury[best.Reader]; to == small {
					to = jury[given[best.Case][0]]
				}
			}
			out = append(out, best)
			load[best.Reader]++
			taken[[2]int{best.Case, best.Reader}] = true
		}
		if to == None { // nobody has room: it stays by itself
			list = list[:small]
			continue
		}
		list[to] = append(list[to], list[small]...)
		slices.Sort(list[to])
		list = list[:small]
		slices.SortFunc(list, func(a, b []int) int { return len(b) - len(a) })
	}
	return out
}
