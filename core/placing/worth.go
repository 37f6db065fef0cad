package placing

// Standing is what a person brings to an award.
type Standing struct {
	Need, Merit int  // of 1,000, the greatest of all being 1,000
	Wish        int  // 1 where they put it first, 2 second…; 0: they said nothing
	First       bool // they come before all others, such as last year’s holder
}

// Point is one point of 100 in Worth.
const Point = 1000

// FirstWorth is more than any need, merit and wish together.
const FirstWorth = 1000 * Point

// Worth of a pair: need and merit by the award’s own weights, to 100 points; a wish
// adds to it, the second half of what the first does, the third a third. byNeed is in
// percent, wishes in points. It is never 0: a place is rather given than left.
func (s Standing) Worth(byNeed, wishes int) int64 {
	out := int64(byNeed*s.Need+(100-byNeed)*s.Merit) + 1
	if s.Wish > 0 {
		out += int64(wishes * Point / s.Wish)
	}
	if s.First {
		out += FirstWorth
	}
	return out
}

// OfGreatest is a value of 1,000 where the greatest is 1,000, rounded; below nothing
// counts as nothing.
func OfGreatest(value, greatest int64) int {
	if value <= 0 || greatest <= 0 {
		return 0
	}
	return int((2000*min(value, greatest) + greatest) / (2 * greatest))
}

// InOrder is what a pair is worth where the awards are prizes in order: the earlier the
// prize, the more each point counts, so that the sum is greatest where the first prize
// goes to whoever is worth most, the second to the next, and so on (the rearrangement
// inequality; Hardy, Littlewood and Pólya, Inequalities, 1934, section 10.2).
func InOrder(worth int64, prize, prizes int) int64 { return worth * int64(prizes-prize) }
