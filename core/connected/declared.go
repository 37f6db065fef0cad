package connected

import (
	"slices"
	"strings"

	"ulvant/core/personname"
)

// Declared finds what somebody declared beforehand, a person, a body or a place on
// each line, among the names that a case gives: every word of the line stands in the
// name, in whatever order and spelling of accents. "" when nothing is found. A line of
// one word finds everybody who has it, which is what “Calloway” means.
func Declared(lines string, names []string) (line, name string) {
	for said := range strings.Lines(lines) {
		said = strings.TrimSpace(said)
		want := strings.Fields(personname.Fold(said))
		if len(want) == 0 {
			continue
		}
		for _, n := range names {
			have := strings.Fields(personname.Fold(n))
			if !slices.ContainsFunc(want, func(w string) bool { return !slices.Contains(have, w) }) {
				return said, n
			}
		}
	}
	return "", ""
}
