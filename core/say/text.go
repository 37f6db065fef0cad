package say

import (
	"strings"
	"unicode/utf8"
)

// TextMost is the greatest length of a text message in characters: what one part
// of a short message carries in its 7-bit alphabet (3GPP TS 23.038, 160 septets).
const TextMost = 160

// untold are the kinds of letter about a case that no text message tells of:
// receipts and copies, which ask for nothing and can wait for the mail.
var untold = map[string]bool{"fee-receipt": true, "fee-invoice": true, "design-changed": true, "letter-thanks": true}

// Texted reports whether a letter of a kind about a case is told by text message
// too, to those who chose them.
func Texted(kind string) bool {
	return !untold[kind] && !strings.HasPrefix(kind, "text") && !strings.HasSuffix(kind, "-again")
}

// Text is the message that tells of a letter: from whom, about what, and where to
// read it. A subject that is too long is cut; a number and an address never are.
func Text(funder, subject, ref, where string) string {
	about := ""
	if ref != "" && !strings.Contains(subject, ref) {
		about = " (" + ref + ")"
	}
	end := about + ". It is in your mail, and at " + where
	subject = strings.TrimSuffix(subject, ".")
	room := TextMost - utf8.RuneCountInString(funder+": "+end)
	if n := utf8.RuneCountInString(subject); n > room { // an ellipsis is not in that alphabet
		subject = strings.TrimRight(string([]rune(subject)[:max(0, room-3)]), " ,.;:–") + "..."
	}
	return funder + ": " + subject + end
}
