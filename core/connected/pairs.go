package connected

import (
	"cmp"
	"slices"
)

// Pair is a claim between two of a list, by their places in it; A < B.
type Pair struct {
	A, B int
	Claim
}

// All compares everybody with everybody they have a key in common with; pairs that
// matter says no of are not compared (nil: all matter). In order of their places.
func All(list []Party, matter func(a, b int) bool) (out []Pair) {
	counts := map[string]int{}
	by := map[string][]int32{}
	read := make([]Read, len(list))
	for i, p := range list {
		read[i] = Take(p)
		for _, k := range read[i].Keys {
			counts[k.Key]++
			if k.Finds {
				by[k.Key] = append(by[k.Key], int32(i))
			}
		}
	}
	count := func(k string) int { return counts[k] }
	seen := map[[2]int32]bool{}
	for _, block := range by {
		if len(block) > MostBlock {
			continue
		}
		for i, a := range block {
			for _, b := range block[i+1:] {
				pair := [2]int32{min(a, b), max(a, b)}
				if a == b || seen[pair] || matter != nil && !matter(int(a), int(b)) {
					continue
				}
				seen[pair] = true
				if c, ok := Compare(read[pair[0]], read[pair[1]], len(list), count); ok {
					out = append(out, Pair{int(pair[0]), int(pair[1]), c})
				}
			}
		}
	}
	slices.SortFunc(out, func(x, y Pair) int { return cmp.Or(x.A-y.A, x.B-y.B) })
	return out
}
