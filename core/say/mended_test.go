package say

import "testing"

func TestMended(t *testing.T) {
	for _, c := range []struct {
		n    map[Help]int
		want string
	}{
		{nil, ""},
		{map[Help]int{Alone: 3}, "3 got over it, by themselves."},
		{map[Help]int{Nudged: 1}, "1 got over it, after a nudge."},
		{map[Help]int{Nudged: 5, MoreTime: 1, Alone: 3},
			"9 got over it: 5 after a nudge, 1 after more time was given and 3 by themselves."},
	} {
		if got := Mended(c.n); got != c.want {
			t.Errorf("%q, want %q", got, c.want)
		}
	}
}
