// Package address tells a street address from a box number at a post office,
// where nobody can be visited and nothing can be built.
package address

import (
	"regexp"
	"strings"
)

// box finds the ways a box number is written in English, French, German,
// Spanish, Portuguese, Dutch and Danish addresses (common practice, no source).
var box = regexp.MustCompile(`(?i)(^|[^\pL])(p\s*\.?\s*o\s*\.?\s*(box|bag)|post\s*office\s+box|post\s*box|postbox|p\.?\s*box|private\s+(mail)?\s*bag|locked\s+bag|g\.?p\.?o\.?\s+box|bo[iî]te\s+postale|b\.?\s?p\.?\s*\d+|postfach|apartado(\s+postal)?|caixa\s+postal|postbus|postboks|pmb\s*\d+|box\s+(no\.?\s*)?\d+)([^\pL]|$)`)

// IsBox reports a line that names a box rather than a place.
func IsBox(line string) bool {
	return box.MatchString(strings.Join(strings.Fields(line), " "))
}
