package say

import (
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
)

// WritesTo says whom a mail goes to.
func WritesTo(whom string) string { return "a mail to " + whom }

// Settles says what settling a rule makes of a case.
func Settles(before, after lifecycle.State) string {
	if before == after {
		return "settled; other rules still wait, and it stays " + string(after)
	}
	if after.Is(lifecycle.TurnedDown) {
		return "it would be " + string(after) + ", and its letter written"
	}
	return "it would be " + string(after)
}

// HandsTo says who looks after a case from whom on; "" is whoever looks after its place.
func HandsTo(before, after string) string {
	switch {
	case before == "":
		return "looked after by " + after
	case after == "":
		return "back from " + before + " to whoever looks after its place"
	}
	return "looked after by " + after + " instead of " + before
}

// CameOf says what came of an act on many.
func CameOf(did, not int) string {
	says := "Done to " + phrase.Count(int64(did), "application", "applications")
	if not > 0 {
		says += "; " + phrase.Count(int64(not), "could not be and says why", "could not be and say why")
	}
	return says + "."
}
