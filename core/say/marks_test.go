package say

import (
	"math"
	"strings"
	"testing"
)

func TestWhatMarksTell(t *testing.T) {
	for alpha, want := range map[float64]string{0.8: "agree well", 0.79: "agree fairly", 0.6: "agree fairly",
		0.59: "agree little",
		0.3:  "agree little", 0.29: "hardly agree", math.NaN(): "nobody can say"} {
		if got := Agreement(alpha, 0.4); !strings.Contains(got, want) {
			t.Errorf("%v: %s", alpha, got)
		}
	}
	for p, want := range map[float64]string{1: "100%", 0.999: "over 99%", 0.5: "50%", 0.001: "under 1%", 0: "0%"} {
		if got := Percent(p); got != want {
			t.Errorf("%v: %s", p, got)
		}
	}
	for _, c := range []struct {
		effect, err float64
		want        string
	}{{-0.5, 0.2, "0.50 more severe than the others"},
		{0.5, 0.2, "0.50 milder than the others"}, {0.39, 0.2, ""}} {
		if got := Severity(c.effect, c.err); got != c.want {
			t.Errorf("%v ± %v: %q", c.effect, c.err, got)
		}
	}
	if got := Drift(-0.1, -2.7, 11); got != "grew more severe by 1.00 from the first case to the last" {
		t.Error(got)
	}
	if got := Drift(0.1, 2.5, 11); got != "" {
		t.Error(got)
	}
	if Halo(0.84) != "" || Halo(math.NaN()) != "" || !strings.Contains(Halo(0.9), "0.90") {
		t.Error(Halo(0.9))
	}
	if got := TooClose(2, 15); !strings.HasPrefix(got, "2 cases are too close to call of 15") {
		t.Error(got)
	}
}
