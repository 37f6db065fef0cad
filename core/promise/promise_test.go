package promise_test

import (
	"testing"
	"time"

	"ulvant/core/promise"
)

func TestHowAPromiseStands(t *testing.T) {
	at := func(day, hour int) time.Time { return time.Date(2027, 5, day, hour, 0, 0, 0, time.UTC) }
	due := at(21, 12) // a Friday
	for _, c := range []struct {
		says       string
		now        time.Time
		open, late int
		want       promise.Standing
	}{
		{"nothing open", at(3, 9), 0, 0, promise.Kept},
		{"done, one of them late", at(24, 9), 0, 1, promise.Broken},
		{"four working days before", at(17, 9), 1, 0, promise.OnTime},
		{"three, over no weekend", at(18, 9), 1, 0, promise.Soon},
		{"at its very second", due, 1, 0, promise.Soon},
		{"a second after", due.Add(time.Second), 1, 0, promise.Slips},
	} {
		p := promise.Promise{Due: due, Open: c.open, Late: c.late}
		if got := p.Stands(c.now, time.UTC, nil); got != c.want {
			t.Errorf("%s: %s, want %s", c.says, got, c.want)
		}
	}
}
