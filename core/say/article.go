package say

import "strings"

// WithArticle puts a or an before the name of a thing.
func WithArticle(name string) string {
	if name != "" && strings.ContainsRune("aeiou", rune(name[0])) {
		return "an " + name
	}
	return "a " + name
}
