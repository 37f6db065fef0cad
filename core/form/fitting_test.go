package form

import (
	"fmt"
	"testing"
)

func TestFitting(t *testing.T) {
	awards := func(n int) (out []Award) {
		for i := range n {
			out = append(out, Award{Key: Key(fmt.Sprintf("a%d", i)), Label: fmt.Sprintf("A%d", i)})
		}
		return out
	}
	keys := func(from, to int) (out []string) {
		for i := from; i < to; i++ {
			out = append(out, fmt.Sprintf("a%d", i))
		}
		return append(out, string(EveryAward))
	}
	for _, c := range []struct {
		awards, from, to int
		want             string
	}{
		{3, 0, 0, "None is known to fit yet."},
		{3, 0, 3, "All 3 awards fit what you have answered."},
		{3, 1, 3, "What you have answered fits: A1, A2."},
		{40, 2, 40, "38 of 40 awards fit what you have answered; not A0, A1."},
		{40, 10, 30, "20 of 40 awards fit what you have answered."},
	} {
		t.Run(c.want, func(t *testing.T) {
			if got := fitting(awards(c.awards), keys(c.from, c.to)); got != c.want {
				t.Errorf("%q", got)
			}
		})
	}
}
