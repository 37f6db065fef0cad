// Package letter fills the fields of a letter from a case. A field stands in
// double braces; one that is not known is an error, never an empty place.
package letter

import (
	"regexp"
	"slices"
	"strings"

	"ulvant/core/refusal"
)

// Fields are the particulars a letter can name.
var Fields = []string{"name", "title", "ref", "round", "amount", "asked", "reasons", "number", "address", "office",
	"place", "answer-on", "stage", "closes", "notes", "awards"}

var field = regexp.MustCompile(`\{\{\s*([^{}]*?)\s*\}\}`)

// Unknown lists the fields of a text that no letter can fill.
func Unknown(text string) []string {
	var out []string
	for _, m := range field.FindAllStringSubmatch(text, -1) {
		if !slices.Contains(Fields, m[1]) && !slices.Contains(out, m[1]) {
			out = append(out, m[1])
		}
	}
	return out
}

// Fill puts the values in. It fails when a field has none.
func Fill(text string, values map[string]string) (string, error) {
	var missing []string
	out := field.ReplaceAllStringFunc(text, func(m string) string {
		name := strings.TrimSpace(m[2 : len(m)-2])
		v, ok := values[name]
		if !ok {
			missing = append(missing, name)
		}
		return v
	})
	if len(missing) > 0 {
		return "", refusal.Newf("the letter asks for %s, which this case does not have", strings.Join(missing, ", "))
	}
	return out, nil
}
