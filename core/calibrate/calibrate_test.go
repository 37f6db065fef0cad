package calibrate

import (
	"encoding/csv"
	"math"
	"os"
	"slices"
	"strconv"
	"testing"
)

func table(t testing.TB, name string) [][]string {
	t.Helper()
	f, err := os.Open("../../../shared/check-fixtures/" + name)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	return rows[1:]
}

func number(t testing.TB, s string) float64 {
	t.Helper()
	v, err := strconv.ParseFloat(s, 64)
	if err != nil {
		t.Fatal(err)
	}
	return v
}

// place of a name in a list, which grows.
func place(list *[]string, name string) int {
	if i := slices.Index(*list, name); i >= 0 {
		return i
	}
	*list = append(*list, name)
	return len(*list) - 1
}

// marks of a file: the columns of case, reader (-1 for none) and value.
func marksOf(t testing.TB, name string, c, r, v int) (out []Mark, cases, readers []string) {
	for _, row := range table(t, name) {
		m := Mark{Case: place(&cases, row[c]), Reader: -1, Value: number(t, row[v])}
		if r >= 0 {
			m.Reader = place(&readers, row[r])
		}
		out = append(out, m)
	}
	return out, cases, readers
}

func near(t *testing.T, what string, got, want, tolerance float64) {
	t.Helper()
	if math.Abs(got-want) > tolerance*math.Max(1, math.Abs(want)) {
		t.Errorf("%s: %.8f, want %.8f", what, got, want)
	}
}

// Sources: check-values.md, section 12 (R 4.2.2, lme4 1.1.31); the first two are
// published data sets (Davies & Goldsmith 1972; Bates et al. 2015, from memory).
func TestPublishedDataSets(t *testing.T) {
	dye, batches, _ := marksOf(t, "dyestuff.csv", 0, -1, 1)
	m, err := Fit(dye, len(batches), 0)
	if err != nil {
		t.Fatal(err)
	}
	near(t, "mean", m.Mean, 1527.5, 1e-9)
	near(t, "batch variance", m.CaseVar, 1764.05, 1e-4)
	near(t, "residual", m.ErrorVar, 2451.25, 1e-4)
	near(t, "criterion", m.Criterion, 319.65427684, 1e-9)
	for i, want := range []float64{-17.60685137, 0.39126336, 28.56222555, -23.08453846, 56.73318774, -44.99528683} {
		near(t, "batch "+batches[i], m.Cases[i].Is, want, 1e-4)
	}
	pen, plates, samples := marksOf(t, "penicillin.csv", 1, 2, 0)
	if m, err = Fit(pen, len(plates), len(samples)); err != nil {
		t.Fatal(err)
	}
	near(t, "mean", m.Mean, 22.97222222, 1e-8)
	near(t, "plates", m.CaseVar, 0.71690514, 1e-4)
	near(t, "samples", m.ReaderVar, 3.73113184, 1e-4)
	near(t, "residual", m.ErrorVar, 0.30241496, 1e-4)
	near(t, "criterion", m.Criterion, 330.86058900, 1e-9)
	for i, want := range []float64{2.18705840, -1.01047635, 1.93789985, -0.09689499, -0.01384214, -3.00374477} {
		near(t, "sample "+samples[i], m.Readers[i].Is, want, 1e-4)
	}
	for name, want := range map[string]float64{"a": 0.80454691, "c": 0.18167188, "d": 0.33739064, "e": 0.02595313,
		"f": -0.44120314} {
		near(t, "plate "+name, m.Cases[slices.Index(plates, name)].Is, want, 1e-4)
	}
}

// Source: check-values.md, section 12: 40 applications, 12 reviewers, unbalanced.
func TestUnbalancedMarks(t *testing.T) {
	marks, cases, readers := marksOf(t, "severity_scores.csv", 0, 1, 2)
	m, err := Fit(marks, len(cases), len(readers))
	if err != nil {
		t.Fatal(err)
	}
	near(t, "mean", m.Mean, 56.90250168, 1e-6)
	near(t, "applications", m.CaseVar, 220.34174691, 1e-4)
	near(t, "reviewers", m.ReaderVar, 44.45866677, 1e-4)
	near(t, "residual", m.ErrorVar, 20.16150274, 1e-4)
	near(t, "criterion", m.Criterion, 868.38892664, 1e-9)
	for _, row := range table(t, "severity_blup_applications.csv") {
		i := slices.Index(cases, row[0])
		near(t, row[0], m.Cases[i].Is, number(t, row[1]), 1e-4)
		near(t, row[0]+" calibrated", m.Calibrated(i), number(t, row[2]), 1e-4)
		near(t, row[0]+" error", m.Cases[i].Error, number(t, row[3]), 1e-3)
	}
	for _, row := range table(t, "severity_blup_reviewers.csv") {
		near(t, row[0], m.Readers[slices.Index(readers, row[0])].Is, number(t, row[1]), 1e-4)
	}
	order := make([]int, len(cases))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int {
		if m.Calibrated(a) > m.Calibrated(b) {
			return -1
		}
		return 1
	})
	for i, want := range []string{"A04", "A34", "A13", "A19", "A35", "A06", "A38", "A21"} {
		if cases[order[i]] != want {
			t.Errorf("place %d: %s, want %s", i+1, cases[order[i]], want)
		}
	}
}
