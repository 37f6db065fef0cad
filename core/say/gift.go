package say

import "ulvant/core/phrase"

// fewApply is below which a donor is not told how many: among so few they would be
// known.
const fewApply = 5

// Applied says how many applied for an award, to whoever gives it.
func Applied(n int) string {
	switch {
	case n == 0:
		return "nobody has applied"
	case n < fewApply:
		return "fewer than five have applied"
	}
	return phrase.Count(int64(n), "person has applied", "people have applied")
}
