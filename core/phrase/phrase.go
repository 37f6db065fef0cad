// Package phrase has the small change of English that every sentence is made
// of: numbers of things, sizes, running times, lists, articles. It knows
// nothing of designs, so that kinds of question can speak with it as core/say
// does.
package phrase

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Count writes a number of things: 1 word, 208 words.
func Count(n int64, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return strconv.FormatInt(n, 10) + " " + many
}

// Bytes writes a size for people: 840 kB, 6 MB, 1.5 GB. A kB is 1,024 bytes
// throughout, as file managers mostly count.
func Bytes(n int64) string {
	tenths := func(unit int64, name string) string {
		return strings.TrimSuffix(strconv.FormatFloat(float64(n)/float64(unit), 'f', 1, 64), ".0") + name
	}
	switch {
	case n < 1<<10:
		return Count(n, "byte", "bytes")
	case n <= 1<<20-1<<10:
		return strconv.FormatInt((n+1<<10-1)>>10, 10) + " kB"
	case n < 1<<30:
		return tenths(1<<20, " MB")
	}
	return tenths(1<<30, " GB")
}

// Seconds writes a running time: 40 s, 2 min, 2 min 30 s.
func Seconds(n int64) string {
	switch {
	case n < 60:
		return strconv.FormatInt(n, 10) + " s"
	case n%60 == 0:
		return strconv.FormatInt(n/60, 10) + " min"
	}
	return fmt.Sprintf("%d min %d s", n/60, n%60)
}

// List writes things one after another: a, b and c.
func List(things []string) string {
	if n := len(things); n > 1 {
		return strings.Join(things[:n-1], ", ") + " and " + things[n-1]
	}
	return strings.Join(things, "")
}

// Either writes one of some things: a, b or c.
func Either(things []string) string {
	if n := len(things); n > 1 {
		return strings.Join(things[:n-1], ", ") + " or " + things[n-1]
	}
	return strings.Join(things, "")
}

// WithArticle puts a or an before the name of a thing.
func WithArticle(name string) string {
	if name != "" && strings.ContainsRune("aeiou", rune(name[0])) {
		return "an " + name
	}
	return "a " + name
}

// Initial writes the first letter of a text large, past an opening quotation mark.
func Initial(s string) string {
	r := []rune(s)
	for i, c := range r {
		if c != '“' {
			r[i] = unicode.ToUpper(c)
			break
		}
	}
	return string(r)
}

// LowerInitial begins a word in the middle of a sentence.
func LowerInitial(s string) string {
	_, n := utf8.DecodeRuneInString(s)
	return strings.ToLower(s[:n]) + s[n:]
}
