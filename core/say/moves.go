package say

import "ulvant/core/phrase"

// MovedPlaces says how far a case was moved in the order.
func MovedPlaces(places int) string {
	if places < 0 {
		return "moved " + phrase.Count(int64(-places), "place", "places") + " down"
	}
	return "moved " + phrase.Count(int64(places), "place", "places") + " up"
}
