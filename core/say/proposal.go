package say

import "strings"

// RulingWord says what was ruled of something proposed for a list.
func RulingWord(ruling string) string {
	switch ruling {
	case "taken":
		return "taken into the list, for everybody"
	case "once":
		return "taken for this application"
	case "refused":
		return "not taken"
	}
	return "the office has not ruled on it yet"
}

// ListProposal says what was proposed for a list and what became of it.
func ListProposal(text, list, ruling, reason string) string {
	out := "“" + text + "”, proposed for “" + list + "”: " + RulingWord(ruling)
	if reason != "" {
		out += ", because " + strings.TrimRight(reason, ". ")
	}
	return out + "."
}
