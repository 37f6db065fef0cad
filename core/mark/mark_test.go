package mark

import (
	"math"
	"math/big"
	"math/rand/v2"
	"slices"
	"testing"
)

// Source: scipy rankdata, competition ranking (check-values.md, section 9).
func TestCompetitionRanking(t *testing.T) {
	var scores []Score
	for _, s := range []int64{90, 85, 85, 80, 80, 80, 70} {
		scores = append(scores, Score{s * 3, 3})
	}
	want := []int{1, 2, 2, 4, 4, 4, 7}
	for i, p := range Order(scores, nil, nil) {
		if p.Rank != want[i] || p.Tied != (want[i] == 2 || want[i] == 4) {
			t.Errorf("place %d: rank %d tied %v, want %d", i, p.Rank, p.Tied, want[i])
		}
	}
}

// Source: exact rational arithmetic of math/big.
func TestMeanIsExact(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	weights := []int{40, 30, 30}
	for range 300 {
		var scores []Score
		exact := new(big.Rat)
		n := 1 + r.IntN(7)
		for range n {
			marks := []int{r.IntN(6), r.IntN(6), r.IntN(6)}
			s, all := Weighted(marks, weights)
			if !all {
				t.Fatal("all were marked")
			}
			scores = append(scores, s)
			exact.Add(exact, big.NewRat(int64(marks[0]*40+marks[1]*30+marks[2]*30), 100))
		}
		exact.Quo(exact, big.NewRat(int64(n), 1))
		got := Mean(scores)
		if big.NewRat(got.Num, got.Den).Cmp(exact) != 0 {
			t.Fatalf("%v, want %s", got, exact)
		}
	}
}

func TestUnmarked(t *testing.T) {
	s, all := Weighted([]int{4, 5, -1}, []int{40, 30, 30})
	if all || s.String() != "4.43" {
		t.Errorf("%s %v", s, all)
	}
	if Mean(nil).Known() || (Score{}).String() != "–" {
		t.Error("no marks are not a score of nothing")
	}
	if got := (Score{405, 100}).String(); got != "4.05" {
		t.Errorf("405/100 is shown as %s", got)
	}
}

// A mean over many weights that share no factor stays where the scores are.
// Source: math/big.
func TestMeanNeverWraps(t *testing.T) {
	primes := []int64{1000003, 1000033, 1000037, 1000039, 1000081, 1000099}
	var scores []Score
	sum := new(big.Rat)
	for _, p := range primes {
		scores = append(scores, Score{4*p + 1, p})
		sum.Add(sum, big.NewRat(4*p+1, p))
	}
	want, _ := sum.Quo(sum, big.NewRat(int64(len(primes)), 1)).Float64()
	if got := Mean(scores).Float(); math.Abs(got-want) > 1e-9 {
		t.Errorf("the mean is %v, want %v", got, want)
	}
}

// Scores of 0 to 4 by the whole step they are nearest to, half upwards.
func TestFall(t *testing.T) {
	var counts []int
	for _, s := range []Score{{7, 2}, {10, 3}, {0, 1}, {}, {1, 2}, {49, 100}} { // 3.5, 3.33, 0, none, 0.5, 0.49
		counts = Fall(counts, s, 4)
	}
	if want := []int{2, 1, 0, 1, 1}; !slices.Equal(counts, want) {
		t.Errorf("%v, want %v", counts, want)
	}
	if got := Fall([]int{0, 0}, Score{5, 1}, 1); !slices.Equal(got, []int{0, 0, 0, 0, 0, 1}) {
		t.Errorf("a score above the steps of its round: %v", got)
	}
}

// A case that readers gave 6.5 and an interview 8, with 60 and 40 in a hundred: 0.6 ×
// 6.5 + 0.4 × 8 = 7.1. What nobody has given does not count.
func TestJoined(t *testing.T) {
	for _, c := range []struct {
		a    Score
		wa   int
		b    Score
		wb   int
		want Score
	}{
		{Score{13, 2}, 60, Score{8, 1}, 40, Score{71, 10}}, {Score{13, 2}, 60, Score{}, 40, Score{13, 2}},
		{Score{}, 60, Score{8, 1}, 40, Score{8, 1}}, {Score{13, 2}, 100, Score{8, 1}, 0, Score{13, 2}},
		{Score{13, 2}, 0, Score{8, 1}, 100, Score{8, 1}}, {Score{}, 0, Score{}, 0, Score{}},
	} {
		if got := Joined(c.a, c.wa, c.b, c.wb); got.Compare(c.want) != 0 || got.Known() != c.want.Known() {
			t.Errorf("%v × %d with %v × %d: %v, want %v", c.a, c.wa, c.b, c.wb, got, c.want)
		}
	}
}

// Who was met stands before who was not, whatever the readers gave; among those who
// were met the score decides, and only equals of one kind share a place.
func TestOrderFirst(t *testing.T) {
	scores := []Score{{9, 1}, {5, 1}, {7, 1}, {9, 1}, {7, 1}}
	got := Order(scores, []bool{false, true, true, false, false}, nil)
	for i, want := range []Place{{2, 1, false, false}, {1, 2, false, false}, {0, 3, true, false}, {3, 3, true, false},
		{4, 5, false, false}} {
		if got[i] != want {
			t.Errorf("place %d: %+v, want %+v", i+1, got[i], want)
		}
	}
}
