package say_test

import (
	"strings"
	"testing"

	"ulvant/core/lifecycle"
	"ulvant/core/say"
)

// Every state with a seal behind it is told in a sentence, which asks nothing
// of the applicant unless it is their move.
func TestNextSaysWhatHappens(t *testing.T) {
	for _, s := range lifecycle.States() {
		for _, readers := range []string{"readers", "jurors", ""} {
			text := say.Next(s, "", readers)
			if sum := say.Next(s, "€5,000", readers); strings.Contains(sum, "€5,000") != s.Is(lifecycle.Gives) ||
				strings.Count(sum, "It is awarded") > 1 {
				t.Errorf("%s with a sum: %q", s, sum)
			}
			if s.Sealed() == (text == "") {
				t.Errorf("%s: %q", s, text)
			}
			waits := strings.Contains(text, "You need do nothing.")
			if m := lifecycle.MoveIn(s); waits && m == lifecycle.Applicant {
				t.Errorf("%s is the applicant's move: %q", s, text)
			}
			if readers == "" && strings.Contains(text, "mark it") {
				t.Errorf("%s: nobody reads it: %q", s, text)
			}
			if readers == "jurors" && strings.Contains(strings.ToLower(text), "readers") {
				t.Errorf("%s: they are called jurors: %q", s, text)
			}
		}
	}
}
