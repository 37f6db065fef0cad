package calibrate

import (
	"errors"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

// Sources: Krippendorff 2011 (check-values.md, section 1); Shrout & Fleiss 1979,
// Table 2: of balanced marks the restricted likelihood gives the analysis of variance.
func TestAgreement(t *testing.T) {
	var marks []Mark
	for o, row := range table(t, "krippendorff_4x12.csv") {
		for u, cell := range row[1:] {
			if cell != "" {
				marks = append(marks, Mark{u, o, number(t, cell)})
			}
		}
	}
	near(t, "alpha", Alpha(marks), 0.8491071429, 1e-9)
	marks = nil
	for c, row := range table(t, "shrout_fleiss_6x4.csv") {
		for j, cell := range row[1:] {
			marks = append(marks, Mark{c, j, number(t, cell)})
		}
	}
	m, err := Fit(marks, 6, 4)
	if err != nil {
		t.Fatal(err)
	}
	near(t, "ICC(2,1)", m.Single(), 0.28976378, 1e-5)
	near(t, "ICC(3,1)", m.CaseVar/(m.CaseVar+m.ErrorVar), 0.71484071, 1e-5)
	if !math.IsNaN(Alpha([]Mark{{0, 0, 3}, {1, 1, 4}})) {
		t.Error("cases with one mark tell nothing")
	}
}

// Source: check-values.md, section 2 (numpy lstsq, R lm), and an exact fit by hand.
func TestSeverity(t *testing.T) {
	marks, cases, readers := marksOf(t, "severity_scores.csv", 0, 1, 2)
	values, effects, err := Adjusted(marks, len(cases), len(readers))
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []float64{3.5823032105, -9.0672822861, -1.2231061600, 5.9099712207, 11.5959827678, -2.4207022479,
		0.1673413133, 2.9342604258, -10.6312679476, 2.4068034500, -9.5741531906, 6.3198494442} {
		name := []string{"R01", "R02", "R03", "R04", "R05", "R06", "R07", "R08", "R09", "R10", "R11", "R12"}[i]
		near(t, name, effects[slices.Index(readers, name)], want, 1e-8)
	}
	near(t, "A01", values[slices.Index(cases, "A01")], 58.4141387565, 1e-8)
	near(t, "A02", values[slices.Index(cases, "A02")], 59.8817222485, 1e-8)
	tiny, cases, readers := marksOf(t, "severity_tiny.csv", 0, 1, 2)
	if values, effects, err = Adjusted(tiny, len(cases), len(readers)); err != nil {
		t.Fatal(err)
	}
	for i, want := range []float64{60, 70, 80} {
		near(t, cases[i], values[i], want, 1e-9)
		near(t, readers[i], effects[i], []float64{-5, 0, 5}[i], 1e-9)
	}
	// two juries that share nobody
	if _, _, err := Adjusted([]Mark{{0, 0, 1}, {0, 1, 2}, {1, 0, 3}, {2, 2, 4}, {2, 3, 5}}, 3, 4); !errors.Is(err,
		ErrApart) {
		t.Errorf("no chain joins them: %v", err)
	}
}

// Two cases of equal marks have equal chances; far above the line it is certain; and
// of many made rounds the cases said to stand above with a chance do so as often.
func TestChances(t *testing.T) {
	r := rand.New(rand.NewPCG(18, 3))
	buckets, true5 := make([]int, 5), make([]int, 5)
	for range 60 {
		const cases, readers, places = 24, 8, 8
		var marks []Mark
		worth, severe := make([]float64, cases), make([]float64, readers)
		for i := range worth {
			worth[i] = 60 + 12*r.NormFloat64()
		}
		for i := range severe {
			severe[i] = 7 * r.NormFloat64()
		}
		for i := range worth {
			for k := range 3 {
				j := (i + k*(1+i/readers)) % readers
				marks = append(marks, Mark{i, j, worth[i] + severe[j] + 6*r.NormFloat64()})
			}
		}
		m, err := Fit(marks, cases, readers)
		if err != nil {
			t.Fatal(err)
		}
		chances := m.Chances(r, 400, func(order []int) []bool {
			return append(slices.Repeat([]bool{true}, places), make([]bool, len(order)-places)...)
		})
		sum := 0.0
		for i, p := range chances {
			sum += p
			above := 0
			for _, w := range worth {
				if w > worth[i] {
					above++
				}
			}
			b := min(4, int(p*5))
			buckets[b]++
			if above < places {
				true5[b]++
			}
		}
		if math.Abs(sum-places) > 1e-9 {
			t.Fatalf("the chances add up to %v of %d places", sum, places)
		}
	}
	for b, n := range buckets {
		if share := float64(true5[b]) / float64(n); n < 30 || share < float64(b)/5-0.08 || share > float64(b+1)/5+0.08 {
			t.Errorf("of %d said to have %d to %d in 100, %.2f did", n, b*20, b*20+20, share)
		}
	}
	for p, want := range map[float64]bool{0.1: false, 0.11: true, 0.5: true, 0.89: true, 0.9: false, 1: false} {
		if Close(p) != want {
			t.Errorf("%v: %v", p, !want)
		}
	}
}

func TestDriftAndHalo(t *testing.T) {
	if slope, z := Drift([]float64{0, 1, 2, 3, 4}); slope != 1 || !math.IsInf(z, 1) {
		t.Errorf("%v %v", slope, z)
	}
	if slope, z := Drift([]float64{1, 1, 1, 1, 1}); slope != 0 || z != 0 {
		t.Errorf("%v %v", slope, z)
	}
	// by hand: x = 0…4, y = 0 2 1 3 4: slope 9/10, residual sum 1.9 over 3, z = 0.9/√(0.6333/10)
	slope, z := Drift([]float64{0, 2, 1, 3, 4})
	near(t, "slope", slope, 0.9, 1e-12)
	near(t, "z", z, 0.9/math.Sqrt(1.9/3/10), 1e-12)
	if slope, _ := Drift([]float64{0, 1, 2, 3}); slope != 0 {
		t.Error("four tell nothing")
	}
	near(t, "halo", Halo([][]float64{{1, 2}, {2, 4}, {3, 6}, {4, 8}, {5, 10}}), 1, 1e-12)
	near(t, "none", Halo([][]float64{{1, 1}, {1, -1}, {-1, 1}, {-1, -1}, {0, 0}}), 0, 1e-12)
	if !math.IsNaN(Halo([][]float64{{1, 2}, {1, 3}, {1, 4}, {1, 5}, {1, 6}})) {
		t.Error("a criterion that never moves tells nothing")
	}
}

// The marks of 2,000 cases by 300 readers, three each: beside adding them up.
func BenchmarkCalibrate2000(b *testing.B) {
	r := rand.New(rand.NewPCG(18, 4))
	var marks []Mark
	severe := make([]float64, 300)
	for i := range severe {
		severe[i] = r.NormFloat64()
	}
	for i := range 2000 {
		worth := 2 * r.NormFloat64()
		for k := range 3 {
			j := (i*7 + k*101) % 300
			marks = append(marks, Mark{i, j, worth + severe[j] + r.NormFloat64()})
		}
	}
	for b.Loop() {
		if _, err := Fit(marks, 2000, 300); err != nil {
			b.Fatal(err)
		}
	}
}
