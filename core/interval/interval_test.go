package interval_test

import (
	"math"
	"testing"

	"ulvant/core/interval"
)

// Newcombe 1998, Statistics in Medicine 17:857–872, table I, method 3 (score,
// without continuity correction), 95%; the four examples from memory.
func TestWilsonAsPublished(t *testing.T) {
	for _, c := range []struct {
		k, n      int
		low, high float64
	}{{81, 263, 0.2553, 0.3662}, {15, 148, 0.0624, 0.1605}, {0, 20, 0, 0.1611}, {1, 29, 0.0061, 0.1718}} {
		got := interval.Wilson(c.k, c.n, interval.Z95)
		if math.Abs(got.Low-c.low) > 5e-5 || math.Abs(got.High-c.high) > 5e-5 {
			t.Errorf("%d of %d: %.4f to %.4f, want %.4f to %.4f", c.k, c.n, got.Low, got.High, c.low, c.high)
		}
	}
}

// The interval is what the score test does not refuse: its two ends solve
// (k/n − p)² = z²·p(1−p)/n, Wilson’s own definition.
func TestWilsonSolvesItsEquation(t *testing.T) {
	for n := 1; n <= 60; n += 7 {
		for k := range n + 1 {
			s := interval.Wilson(k, n, interval.Z95)
			for _, p := range []float64{s.Low, s.High} {
				d := s.At - p
				if math.Abs(d*d-interval.Z95*interval.Z95*p*(1-p)/float64(n)) > 1e-9 {
					t.Errorf("%d of %d: %v does not solve it", k, n, p)
				}
			}
			if s.Low > s.At || s.High < s.At {
				t.Errorf("%d of %d lies outside %v to %v", k, n, s.Low, s.High)
			}
		}
	}
	if s := interval.Wilson(0, 0, interval.Z95); s.Low != 0 || s.High != 1 {
		t.Errorf("of nothing: %+v", s)
	}
}

func TestApart(t *testing.T) {
	w := func(k, n int) interval.Share { return interval.Wilson(k, n, interval.Z95) }
	for _, c := range []struct {
		a, b interval.Share
		want bool
	}{
		{w(90, 100), w(50, 100), true}, {w(50, 100), w(90, 100), true},
		{w(9, 10), w(6, 10), false}, {w(0, 0), w(1, 1), false}, {w(1, 1), w(0, 0), false},
	} {
		if got := interval.Apart(c.a, c.b); got != c.want {
			t.Errorf("%+v and %+v: %v", c.a, c.b, got)
		}
	}
}
