package say

import (
	"strings"
	"testing"
	"unicode/utf8"
)

func TestText(t *testing.T) {
	for _, c := range []struct{ funder, subject, ref, want string }{
		{"Ostrel Isles Trust", "A question about your application", "SHO-0007-K",
			"Ostrel Isles Trust: A question about your application (SHO-0007-K). It is in your mail, and at https://o.example"},
		{"Ostrel Isles Trust", "SHO-0007-K closes on Friday", "SHO-0007-K",
			"Ostrel Isles Trust: SHO-0007-K closes on Friday. It is in your mail, and at https://o.example"},
		{"Ostrel Isles Trust", "A wish for more time was answered.", "",
			"Ostrel Isles Trust: A wish for more time was answered. It is in your mail, and at https://o.example"},
		{"Ostrel Isles Trust", strings.Repeat("a long subject, ", 20), "SHO-0007-K",
			"Ostrel Isles Trust: a long subject, a long subject, a long subject, a long subject, a long subject... (SHO-0007-K). It is in your mail, and at https://o.example"},
	} {
		got := Text(c.funder, c.subject, c.ref, "https://o.example")
		if got != c.want || utf8.RuneCountInString(got) > TextMost {
			t.Errorf("%d characters: %q", utf8.RuneCountInString(got), got)
		}
	}
}

func TestTexted(t *testing.T) {
	for kind, want := range map[string]bool{"query": true, "awarded": true, "draft-reminder": true, "fee-receipt": false,
		"fee-invoice": false, "text": false, "text-confirm": false, "query-again": false} {
		if Texted(kind) != want {
			t.Errorf("%s: %v", kind, !want)
		}
	}
}
