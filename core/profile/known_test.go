package profile

import (
	"strings"
	"testing"
)

// What is said at the start agrees with what a checker is told at the end.
func TestNotYetKnown(t *testing.T) {
	for _, c := range []struct {
		kind  Kind
		state State
		has   string
	}{
		{Body, Known, ""}, {Person, Making, ""}, {Body, Making, "never handed to the office"},
		{Body, Waiting, "looking “Hallin Bar Common” over"}, {Body, SentBack, "sent back to you"},
	} {
		got := NotYetKnown(c.kind, "Hallin Bar Common", c.state)
		if (c.has == "") != (got == "") || !strings.Contains(got, c.has) ||
			(got == "") != (Unknown(c.kind, "Hallin Bar Common", c.state) == "") {
			t.Errorf("%s %s: %q", c.kind, c.state, got)
		}
		if got != "" && !strings.HasSuffix(got, "the office must have settled it.") {
			t.Errorf("what it means is not said: %q", got)
		}
	}
}
