// Package wordcount counts words as applicants' word processors do, so that
// nobody who drafted to the limit elsewhere is told here that they are over.
//
// A word is a run of non-white-space holding at least one letter or number,
// after soft hyphens, zero-width spaces, word joiners and byte-order marks are
// deleted. Hyphens, apostrophes, addresses and dashes do not split; stray
// dashes, bullets and symbols do not count. Where a script is written without
// blanks (Chinese, Japanese, Thai, Lao, Khmer, Burmese) every letter is a word
// of its own, as word processors have it; Korean parts its words. (UAX #29 is the wrong rule for a
// limit: it counts state-of-the-art as four.) static/words.js holds the
// same rule; a test runs both on the same texts.
package wordcount

import (
	"strings"
	"unicode"
)

// unparted are the scripts written without blanks between words.
var unparted = []*unicode.RangeTable{unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Thai, unicode.Lao,
	unicode.Khmer, unicode.Myanmar}

// Words in s; never more than a word processor shows for the same text.
func Words(s string) int {
	n, counted := 0, false
	for _, r := range s {
		switch {
		case r == '\u00AD' || r == '\u200B' || r == '\u2060' || r == '\uFEFF':
		case unicode.IsSpace(r):
			counted = false
		case r > unicode.MaxLatin1 && unicode.IsLetter(r) && unicode.In(r, unparted...):
			n++
			counted = false
		case !counted && (unicode.IsLetter(r) || unicode.IsNumber(r)):
			n++
			counted = true
		}
	}
	return n
}

// Characters are Unicode code points after CRLF has become LF.
func Characters(s string) int {
	n := 0
	for range strings.ReplaceAll(s, "\r\n", "\n") {
		n++
	}
	return n
}
