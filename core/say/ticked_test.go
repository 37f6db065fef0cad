package say_test

import (
	"testing"

	"ulvant/core/form"
	"ulvant/core/say"
)

func TestTicked(t *testing.T) {
	for _, c := range []struct {
		tick form.Tick
		want string
	}{
		{form.Tick{Says: []string{"No name stands on it.", "It is ours."}},
			"The applicant has ticked: “No name stands on it.”, “It is ours.” Look at the files and confirm it."},
		{form.Tick{Ink: "I lend the land."},
			"A page was to be printed and signed in ink: “I lend the land.” Look at the files and confirm it."},
		{form.Tick{Says: []string{"It is ours."}, Ink: "I lend the land."}, "The applicant has ticked: “It is ours.” " +
			"A page was to be printed and signed in ink: “I lend the land.” Look at the files and confirm it."},
	} {
		if got := say.Ticked(c.tick); got != c.want {
			t.Errorf("%+v:\n %q, want\n %q", c.tick, got, c.want)
		}
	}
}
