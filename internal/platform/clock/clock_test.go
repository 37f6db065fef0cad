package clock_test

import (
	"testing"
	"time"

	"ulvant/internal/platform/clock"
)

func TestASettableClockStandsStill(t *testing.T) {
	noon := time.Date(2027, 3, 2, 12, 0, 0, 123_456_789, time.FixedZone("", 3600))
	c := clock.NewSettable(noon)
	if got := c.Now(); !got.Equal(noon) || got.Location() != time.UTC || !c.Now().Equal(got) {
		t.Error(got)
	}
	c.Set(noon.Add(time.Nanosecond))
	if got := c.Now(); !got.Equal(noon.Add(time.Nanosecond)) {
		t.Error(got)
	}
	if (clock.System{}).Now().IsZero() {
		t.Error("the machine's clock tells nothing")
	}
}
