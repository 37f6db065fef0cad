package turn_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"ulvant/core/turn"
)

func TestOneAfterAnother(t *testing.T) {
	const w, a, y, n, b = turn.Waits, turn.With, turn.Yes, turn.No, turn.Back
	for _, c := range []struct {
		says string
		from turn.Turns
		do   func(turn.Turns) error
		to   turn.Turns // nil: refused
	}{
		{"the first begins", turn.Turns{w, w}, func(t turn.Turns) error { t.Begin(); return nil }, turn.Turns{a, w}},
		{"one that has begun stays", turn.Turns{y, a, w}, func(t turn.Turns) error { t.Begin(); return nil },
			turn.Turns{y, a, w}},
		{"a no keeps the others waiting", turn.Turns{n, w}, func(t turn.Turns) error { t.Begin(); return nil },
			turn.Turns{n, w}},
		{"yes passes on", turn.Turns{a, w}, func(t turn.Turns) error { return t.Answer(0, y) }, turn.Turns{y, a}},
		{"the last yes ends it", turn.Turns{y, a}, func(t turn.Turns) error { return t.Answer(1, y) }, turn.Turns{y, y}},
		{"no waits for the office", turn.Turns{a, w}, func(t turn.Turns) error { return t.Answer(0, n) }, turn.Turns{n, w}},
		{"back to the office", turn.Turns{a, w}, func(t turn.Turns) error { return t.Answer(0, b) }, turn.Turns{b, w}},
		{"not theirs", turn.Turns{a, w}, func(t turn.Turns) error { return t.Answer(1, y) }, nil},
		{"nobody’s", turn.Turns{a}, func(t turn.Turns) error { return t.Answer(2, y) }, nil},
		{"said already", turn.Turns{y, a}, func(t turn.Turns) error { return t.Answer(0, n) }, nil},
		{"over a no", turn.Turns{n, w}, func(t turn.Turns) error { return t.Go(0) }, turn.Turns{turn.Over, a}},
		{"back to those who asked", turn.Turns{b, w}, func(t turn.Turns) error { return t.Go(0) }, turn.Turns{a, w}},
		{"nothing waits for the office", turn.Turns{a, w}, func(t turn.Turns) error { return t.Go(0) }, nil},
		{"to the one before", turn.Turns{y, a}, func(t turn.Turns) error { _, err := t.Return(1); return err },
			turn.Turns{a, w}},
		{"not one’s own to return", turn.Turns{y, a}, func(t turn.Turns) error { _, err := t.Return(0); return err }, nil},
	} {
		got := slices.Clone(c.from)
		err := c.do(got)
		if (err != nil) != (c.to == nil) || err == nil && !slices.Equal(got, c.to) {
			t.Errorf("%s: %v, %v, want %v", c.says, got, err, c.to)
		}
	}
	if ok, err := (turn.Turns{a, w}).Return(0); ok || err != nil {
		t.Errorf("the first has nobody before: %v %v", ok, err)
	}
}

// Whatever is done, never two have a case, and it is never with nobody while
// somebody has not answered and the office has nothing to do.
func TestExactlyOneHasIt(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	answers := []turn.State{turn.Yes, turn.No, turn.Back}
	for range 2000 {
		list := make(turn.Turns, 1+r.IntN(4))
		for i := range list {
			list[i] = turn.Waits
		}
		list.Begin()
		for range 12 {
			switch i := r.IntN(len(list)); r.IntN(3) {
			case 0:
				_ = list.Answer(i, answers[r.IntN(3)])
			case 1:
				_ = list.Go(i)
			case 2:
				_, _ = list.Return(i)
			}
			n := map[turn.State]int{}
			for _, s := range list {
				n[s]++
			}
			if n[turn.With]+n[turn.No]+n[turn.Back] > 1 || n[turn.With]+n[turn.No]+n[turn.Back] == 0 && n[turn.Waits] > 0 {
				t.Fatalf("%v", list)
			}
		}
	}
}
