package say_test

import (
	"testing"
	"time"

	"ulvant/core/say"
)

func TestLasts(t *testing.T) {
	t.Parallel()
	for d, want := range map[time.Duration]string{
		0:                              "0 seconds",
		time.Second:                    "1 second",
		time.Minute - time.Millisecond: "59 seconds",
		time.Minute:                    "1 minute",
		30*time.Minute + time.Second:   "30 minutes",
		time.Hour - time.Second:        "59 minutes",
		time.Hour:                      "1 hour",
		time.Hour + 59*time.Second:     "1 hour",
		time.Hour + time.Minute:        "1 hour and 1 minute",
		90 * time.Minute:               "1 hour and 30 minutes",
		48 * time.Hour:                 "48 hours",
		72*time.Hour - time.Hour:       "71 hours",
		72 * time.Hour:                 "3 days",
		73 * time.Hour:                 "73 hours",
		14 * 24 * time.Hour:            "14 days",
	} {
		if got := say.Lasts(d); got != want {
			t.Errorf("%v: %q, want %q", d, got, want)
		}
	}
}
