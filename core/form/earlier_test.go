package form

import (
	"strings"
	"testing"
	"time"
)

func TestKeepEarlier(t *testing.T) {
	long := strings.Repeat("reed ", 20)
	for _, c := range []struct {
		what     string
		old, new string
		same     bool
		stood    time.Duration
		want     bool
	}{
		{"going on typing is one version", "Reed beds", "Reed beds for the shore", true, 2 * time.Second, false},
		{"after a rest it is another", "Reed beds", "Reed beds for the shore", true, restTime, true},
		{"somebody else's is kept at once", "Reed beds", "Reed", false, time.Second, true},
		{"a text deleted at once is kept", long, "", true, time.Second, true},
		{"a word taken out is not", long, long[:80], true, time.Second, false},
		{"nothing is not worth keeping", "", "Reed", false, time.Hour, false},
	} {
		if got := KeepEarlier(c.old, c.new, c.same, c.stood); got != c.want {
			t.Errorf("%s: %v", c.what, got)
		}
	}
}
