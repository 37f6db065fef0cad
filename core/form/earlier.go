package form

import (
	"time"
	"unicode/utf8"
)

// restTime is how long an answer must have stood still for it to be kept when
// it is written over: one burst of typing is one version.
const restTime = 5 * time.Minute

// MostEarlier is how many earlier versions of one answer are kept.
const MostEarlier = 40

// KeepEarlier reports whether an answer that is written over is kept as an
// earlier version: it was somebody else's, or had stood still for a while, or
// most of it is gone at once.
func KeepEarlier(old, new string, sameHand bool, stood time.Duration) bool {
	was, is := utf8.RuneCountInString(old), utf8.RuneCountInString(new)
	return was > 0 && (!sameHand || stood >= restTime || was >= 40 && is < was/2)
}
