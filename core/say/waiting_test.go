package say_test

import (
	"testing"

	"ulvant/core/lifecycle"
	"ulvant/core/say"
)

func TestOutcomes(t *testing.T) {
	for want, n := range map[string]map[lifecycle.State]int{
		"":                                       nil,
		"9 awarded, 3 reserve and 1 not awarded": {lifecycle.NotAwarded: 1, lifecycle.Awarded: 9, lifecycle.Reserve: 3},
		"1 reserve":                              {lifecycle.Reserve: 1, lifecycle.Awarded: 0},
	} {
		if got := say.Outcomes(n, lifecycle.Outcomes(true)); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}
