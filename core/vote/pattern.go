package vote

import "math"

// LeastPattern is how many have to come together before anything is a pattern. Ballots
// are marked by it and by nothing smaller, so that a mark never stands for one person.
const LeastPattern = 5

// Tally is how many asked for a ballot in one minute, and before it: of all, and of those
// who have something in common, such as the domain of their address.
type Tally struct {
	Theirs, All             int // in this minute, this one among them
	TheirsBefore, AllBefore int
}

// unlikely is how seldom a minute as full as this would come by chance before it is
// called a pattern: in a vote of a fortnight over a hundred domains, once in some fifty votes.
const unlikely = 1e-8

// Unusual reports that so many of one kind came in a minute that chance hardly explains
// it: were they as many of those who come now as of those who came before, their number
// in a minute would follow Poisson's law. Half of one more that came before them all
// stands for what is not known yet.
func (t Tally) Unusual() bool {
	if t.Theirs < LeastPattern {
		return false
	}
	share := (float64(t.TheirsBefore) + 0.5) / (float64(t.AllBefore) + 1)
	return poissonTail(t.Theirs, share*float64(t.All)) < unlikely
}

// poissonTail is how likely n or more are where mean is usual.
func poissonTail(n int, mean float64) float64 {
	// the sum of what follows n, term by term; it falls fast where it matters
	lg, _ := math.Lgamma(float64(n) + 1)
	term := math.Exp(float64(n)*math.Log(mean) - mean - lg)
	sum := 0.0
	for k := n; k < n+10_000 && term > 0; k++ {
		sum += term
		term *= mean / float64(k+1)
		if term < sum*1e-17 && float64(k) > mean {
			break
		}
	}
	return min(sum, 1)
}
