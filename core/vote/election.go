package vote

import (
	"slices"

	"ulvant/core/phrase"
	"ulvant/core/refusal"
)

// By is how ballots are counted.
type By string

// The ways.
const (
	MostVotes   By = "most votes"
	EqualShares By = "equal shares"
	Places      By = "ranked"
	GivenPoints By = "points"
)

// Election is what is voted on, and by which rules.
type Election struct {
	By       By
	Projects []Project // in the order of the ballot paper
	Most     int       // projects that a ballot may name, or points that it gives; 0: any number
	Named    int       // how many are named, where no budget says so
	Budget   int64     // minor units
	Utility  Utility
	Rest     Completion
}

// Choice is what one ballot says: the places of projects on the ballot paper, approved of
// in any order or ranked from the first; where points are given, a figure for each
// project in the order of the paper. A ballot that names none is blank, and counts as a
// voter who came.
type Choice []int

// UsualPoints is how many points a voter gives where a design does not say.
const UsualPoints = 10

// Points is how many a voter may give.
func (e *Election) Points() int {
	if e.Most == 0 {
		return UsualPoints
	}
	return e.Most
}

// Fits refuses a choice that no ballot can say.
func (e *Election) Fits(c Choice) error {
	n := len(e.Projects)
	if e.By == GivenPoints {
		sum := 0
		for _, p := range c {
			if p < 0 {
				return refusal.Unfit("a project is given no points, or some")
			}
			sum = min(sum+min(p, e.Points()+1), e.Points()+1)
		}
		switch {
		case len(c) != n && len(c) != 0:
			return refusal.Unfit("this ballot is of another ballot paper").But("open it again")
		case sum > e.Points():
			return refusal.Unfit("you have given more than " + phrase.Count(int64(e.Points()), "point",
				"points")).But("take some away")
		}
		return nil
	}
	for k, p := range c {
		if p < 0 || p >= n {
			return refusal.Unfit("this ballot is of another ballot paper").But("open it again")
		}
		if slices.Contains(c[:k], p) {
			return refusal.Unfit("a project is named twice").But("name it once")
		}
	}
	if e.Most > 0 && len(c) > e.Most {
		return refusal.Newf("you have chosen %s, and this ballot may name %d", phrase.Count(int64(len(c)), "project",
			"projects"), e.Most).
			But("take some away")
	}
	return nil
}

// Result of a count.
type Result struct {
	Ballots int
	Blank   int     // that name nothing
	Came    []int64 // of each project: votes, or points
	Order   []int   // projects, those that came to most first
	Tied    []bool  // by place in Order: it came to as much as the one before it
	Won     []int   // in the order in which they are bought or named
	Shared  Shared  // of equal shares
}

// Count the ballots. A project that is taken off the paper stands in Off: nobody's vote
// for it counts, and the points of ranked ballots close up behind it.
func (e *Election) Count(ballots []Choice, off []bool) Result {
	isOff := func(p int) bool { return p < len(off) && off[p] }
	r := Result{Ballots: len(ballots)}
	kept := make([]Approvals, len(ballots))
	for i, b := range ballots {
		if e.By == GivenPoints {
			if !slices.ContainsFunc(b, func(n int) bool { return n > 0 }) {
				r.Blank++
			}
			continue
		}
		if len(b) == 0 {
			r.Blank++
		}
		if !slices.ContainsFunc(b, isOff) {
			kept[i] = Approvals(b)
			continue
		}
		for _, p := range b {
			if !isOff(p) {
				kept[i] = append(kept[i], p)
			}
		}
	}
	n := len(e.Projects)
	switch e.By {
	case GivenPoints:
		given := make([][]int, len(ballots))
		for i, b := range ballots {
			given[i] = b
		}
		r.Came = Points(n, given)
		for p := range r.Came {
			if isOff(p) {
				r.Came[p] = 0
			}
		}
	case Places:
		ranked := make([][]int, len(kept))
		for i, b := range kept {
			ranked[i] = b
		}
		standing := n
		for p := range n {
			standing -= bit(isOff(p))
		}
		r.Came = borda(n, standing, ranked)
	default:
		r.Came = Votes(n, kept)
	}
	r.Order, r.Tied = InOrder(r.Came)
	if e.By == EqualShares {
		r.Shared = Shares(e.Projects, kept, e.Budget, e.Utility, e.Rest)
		for _, b := range r.Shared.Bought {
			r.Won = append(r.Won, b.Project)
		}
		return r
	}
	for k, p := range r.Order {
		if r.Came[p] > 0 && !isOff(p) && (k < e.Named || len(r.Won) > 0 && r.Tied[k] && len(r.Won) == k) {
			r.Won = append(r.Won, p)
		}
	}
	return r
}

// Names reports that a choice says something for a project.
func (c Choice) Names(project int, by By) bool {
	if by == GivenPoints {
		return project < len(c) && c[project] > 0
	}
	return slices.Contains(c, project)
}
