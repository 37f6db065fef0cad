package say_test

import (
	"fmt"
	"testing"

	"ulvant/core/form"
	"ulvant/core/say"
)

func TestFitting(t *testing.T) {
	awards := func(n int) (out []form.Award) {
		for i := range n {
			out = append(out, form.Award{Key: form.Key(fmt.Sprintf("a%d", i)), Label: fmt.Sprintf("A%d", i)})
		}
		return out
	}
	keys := func(from, to int) (out []string) {
		for i := from; i < to; i++ {
			out = append(out, fmt.Sprintf("a%d", i))
		}
		return append(out, string(form.EveryAward))
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
		if got := say.Fitting(awards(c.awards), keys(c.from, c.to)); got != c.want {
			t.Errorf("%d of %d: %q, want %q", c.to-c.from, c.awards, got, c.want)
		}
	}
}
