package rescue

import (
	"testing"
	"time"

	"ulvant/core/say"
)

func TestHelped(t *testing.T) {
	over := time.Date(2027, 3, 10, 12, 0, 0, 0, time.UTC)
	at := func(hours int) time.Time { return over.Add(-time.Duration(hours) * time.Hour) }
	for _, c := range []struct {
		what string
		done []Done
		want say.Help
	}{
		{"nothing", nil, say.Alone},
		{"a nudge the day before", []Done{{say.Nudged, at(24)}}, say.Nudged},
		{"the last of two", []Done{{say.Supported, at(5)}, {say.Nudged, at(24)}}, say.Supported},
		{"three days before, to the hour", []Done{{say.Nudged, at(72)}}, say.Nudged},
		{"longer ago", []Done{{say.Nudged, at(73)}}, say.Alone},
		{"afterwards", []Done{{say.Nudged, at(-1)}}, say.Alone},
		{"at the same moment", []Done{{say.Nudged, over}}, say.Alone},
	} {
		if got := Helped(over, c.done); got != c.want {
			t.Errorf("%s: %q", c.what, got)
		}
	}
}
