package say

import "strings"

// List writes things one after another: a, b and c.
func List(things []string) string {
	if n := len(things); n > 1 {
		return strings.Join(things[:n-1], ", ") + " and " + things[n-1]
	}
	return strings.Join(things, "")
}
