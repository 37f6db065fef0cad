// Package vote counts the ballots of a public vote: most votes, ranked ballots by the
// method of Borda, points, and money by equal shares. It is exact throughout: money and
// shares are whole numbers or fractions, so that whoever counts the published ballots
// again comes to the same, whatever they count with.
//
// The method of equal shares is that of D. Peters, G. Pierczyński and P. Skowron
// (Proportional Participatory Budgeting with Additive Utilities, NeurIPS 2021): the
// money is divided among the voters in equal shares; a project is bought where those who
// approve of it can pay for it, each as much as the others or all that they have left;
// of those that can be bought, the one that costs its payers least for what it gives
// them is next.
package vote

import "slices"

// Project that can be voted for.
type Project struct {
	Cost int64 // minor units, above 0; only equal shares look at it
}

// Approvals is a ballot that approves of projects: their places, in any order.
type Approvals []int

// Votes of each project: how many ballots approve of it.
func Votes(projects int, ballots []Approvals) []int64 {
	out := make([]int64, projects)
	for _, b := range ballots {
		for k, p := range b {
			if !slices.Contains(b[:k], p) {
				out[p]++
			}
		}
	}
	return out
}

// Borda adds up ranked ballots: the first of n projects has n−1 points, the last none.
// A project that a ballot does not rank has none from it.
func Borda(projects int, ranked [][]int) []int64 { return borda(projects, projects, ranked) }

// borda is Borda where so many of the projects stand on the ballot paper still.
func borda(projects, standing int, ranked [][]int) []int64 {
	out := make([]int64, projects)
	for _, b := range ranked {
		for place, p := range b {
			out[p] += int64(standing - 1 - place)
		}
	}
	return out
}

// Points adds up ballots that give points; a ballot has one figure for each project.
func Points(projects int, ballots [][]int) []int64 {
	out := make([]int64, projects)
	for _, b := range ballots {
		for p, n := range b {
			out[p] += int64(n)
		}
	}
	return out
}

// Beats is how many ranked ballots put project a before b. One that a ballot does not
// rank stands behind all that it does.
func Beats(ranked [][]int, a, b int) (n int64) {
	for _, ballot := range ranked {
		i, j := slices.Index(ballot, a), slices.Index(ballot, b)
		if i >= 0 && (j < 0 || i < j) {
			n++
		}
	}
	return n
}

// InOrder are the projects by what they came to, the most first; those that came to as
// much stay in the order of the ballot paper, and the second result says which are tied
// with the one before them.
func InOrder(came []int64) (order []int, tied []bool) {
	order = make([]int, len(came))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		switch {
		case came[a] > came[b]:
			return -1
		case came[a] < came[b]:
			return 1
		}
		return 0
	})
	tied = make([]bool, len(came))
	for k := 1; k < len(order); k++ {
		tied[k] = came[order[k]] == came[order[k-1]]
	}
	return order, tied
}
