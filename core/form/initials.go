package form

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Initials of a name as it stands on file: the first letter of every word, and
// of every part of a word with a hyphen: Ana-Mara Ó Sé is AMÓS. "" for a name
// without letters.
func Initials(name string) string {
	return strings.ToUpper(firsts(name, func(r rune) bool { return unicode.IsSpace(r) || hyphen(r) }))
}

// IsInitials reports whether somebody of that name signs so. Points, blanks,
// accents and case do not count; those who write a hyphened name as one, or
// leave out what stands between their first and last name, are let do so.
func IsInitials(typed, name string) bool {
	t := bareLetters(typed)
	if t == "" {
		return false
	}
	words := func(r rune) bool { return unicode.IsSpace(r) }
	whole := []rune(bareLetters(firsts(name, words)))
	if t == bareLetters(Initials(name)) || t == string(whole) {
		return true
	}
	return len(whole) > 2 && t == string([]rune{whole[0], whole[len(whole)-1]})
}

func hyphen(r rune) bool { return r == '-' || r == '‐' || r == '‑' }

// firsts are the first letters of what a name is split into.
func firsts(name string, split func(rune) bool) string {
	var b strings.Builder
	for _, w := range strings.FieldsFunc(norm.NFC.String(name), split) {
		for _, r := range w {
			if unicode.IsLetter(r) {
				b.WriteRune(r)
				break
			}
		}
	}
	return b.String()
}

// bareLetters are the letters of a text in lower case, without their accents.
func bareLetters(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, norm.NFD.String(s))
}
