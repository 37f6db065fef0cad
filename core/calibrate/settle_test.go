package calibrate

import (
	"math"
	"math/rand/v2"
	"testing"
)

// The quantile is that of every table of the normal distribution (1.2816, common
// practice); the closed form is held to playing the next reading.
func TestSettles(t *testing.T) {
	if got := normal(quantile90); math.Abs(got-CloseTo) > 1e-12 {
		t.Errorf("the quantile stands for %v", got)
	}
	draw := rand.New(rand.NewPCG(18, 7))
	for _, c := range []struct{ distance, v, w float64 }{{0, 0.1, 0.3}, {0.2, 0.1, 0.3}, {-0.2, 0.1, 0.3}, {0.3, 0.05,
		1}, {0, 1, 0.01}, {0.5, 0.5, 0.5}} {
		const n = 200_000
		hits := 0
		after := 1 / (1/c.v + 1/c.w)
		for range n {
			truth := c.distance + math.Sqrt(c.v)*draw.NormFloat64()
			mark := truth + math.Sqrt(c.w)*draw.NormFloat64()
			mean := after * (c.distance/c.v + mark/c.w)
			if !Close(normal(mean / math.Sqrt(after))) {
				hits++
			}
		}
		if got, want := settles(c.distance, c.v, c.w), float64(hits)/n; math.Abs(got-want) > 0.005 {
			t.Errorf("%+v: %.4f, played %.4f", c, got, want)
		}
	}
	if settles(0, 0, 1) != 0 || settles(0, 1, 0) != 0 {
		t.Error("what is known exactly is settled by reading it again")
	}
	if near, far := settles(0.01, 0.1, 0.3), settles(0.01, 0.01, 0.3); near <= far {
		t.Errorf("a case of which less is known gains less: %v, %v", near, far)
	}
}
