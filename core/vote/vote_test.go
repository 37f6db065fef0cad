package vote_test

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	. "ulvant/core/vote"
)

// ballots as letters: "AB" approves of the first two projects.
func approving(text string) (out []Approvals) {
	for _, word := range strings.Fields(text) {
		var b Approvals
		for _, r := range word {
			b = append(b, int(r-'A'))
		}
		out = append(out, b)
	}
	return out
}

func costs(list ...int64) (out []Project) {
	for _, c := range list {
		out = append(out, Project{c})
	}
	return out
}

// The three elections of section 9 of the values from outside, checkable by hand.
func TestEqualSharesByHand(t *testing.T) {
	sixty := strings.Repeat("ABCDE ", 60) + strings.Repeat("FGHIJ ", 40)
	for _, c := range []struct {
		says     string
		projects []Project
		ballots  []Approvals
		budget   int64
		rest     Completion
		want     string // project at rate, in the order in which they are bought
		spent    int64
	}{
		{"ten voters", costs(40, 30, 30, 20, 24), approving("AB AB AB ABC A AC CD DE DE E"), 100, KeepRest, "A 20/3, D 20/3",
			60},
		{"and what is left by votes", costs(40, 30, 30, 20, 24), approving("AB AB AB ABC A AC CD DE DE E"), 100, ByVotes,
			"A 20/3, D 20/3, B -", 90},
		{"three fifths and two fifths", costs(20, 20, 20, 20, 20, 20, 20, 20, 20, 20), approving(sixty), 100, KeepRest,
			"A 1/3, B 1/3, C 1/3, F 1/2, G 1/2", 100},
		{"a payer who has too little", costs(12, 14), approving("A AB B"), 30, KeepRest, "A 6/1, B 10/1", 26},
		{"nobody votes", costs(12), nil, 30, KeepRest, "", 0},
		{"nobody can pay", costs(50), approving("A A"), 30, ByVotes, "", 0},
	} {
		t.Run(c.says, func(t *testing.T) {
			got := Shares(c.projects, c.ballots, c.budget, OneEach, c.rest)
			var out []string
			for _, b := range got.Bought {
				rate := "-"
				if b.Rate != nil {
					rate = b.Rate.String()
				}
				out = append(out, fmt.Sprintf("%c %s", 'A'+b.Project, rate))
			}
			if s := strings.Join(out, ", "); s != c.want || got.Spent != c.spent {
				t.Errorf("%s, %d spent; not %s, %d", s, got.Spent, c.want, c.spent)
			}
		})
	}
}

// plainly counts equal shares again, voter by voter and by the definition alone: another
// program by another hand, slower and simpler.
func plainly(projects []Project, ballots []Approvals, budget int64, utility Utility) (bought []int) {
	left := make([]*big.Rat, len(ballots))
	for i := range left {
		left[i] = big.NewRat(budget, int64(len(ballots)))
	}
	for {
		best, bestRate, bestMost := -1, new(big.Rat), new(big.Rat)
		for p, x := range projects {
			if slices.Contains(bought, p) {
				continue
			}
			var purses []*big.Rat
			for i, b := range ballots {
				if slices.Contains(b, p) {
					purses = append(purses, left[i])
				}
			}
			slices.SortFunc(purses, (*big.Rat).Cmp)
			// try each number of them who give all they have
			for poor := range purses {
				missing := big.NewRat(x.Cost, 1)
				for _, m := range purses[:poor] {
					missing.Sub(missing, m)
				}
				most := missing.Quo(missing, big.NewRat(int64(len(purses)-poor), 1))
				if most.Cmp(purses[poor]) > 0 || poor > 0 && most.Cmp(purses[poor-1]) < 0 {
					continue
				}
				rate := new(big.Rat).Set(most)
				if utility == ByCost {
					rate.Quo(rate, big.NewRat(x.Cost, 1))
				}
				if best < 0 || rate.Cmp(bestRate) < 0 {
					best, bestRate, bestMost = p, rate, new(big.Rat).Set(most)
				}
				break
			}
		}
		if best < 0 {
			return bought
		}
		bought = append(bought, best)
		for i, b := range ballots {
			if slices.Contains(b, best) {
				pays := bestMost
				if left[i].Cmp(pays) < 0 {
					pays = left[i]
				}
				left[i] = new(big.Rat).Sub(left[i], pays)
			}
		}
	}
}

func TestEqualSharesAgainstAnotherHand(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 1))
	for n := range 1500 {
		var projects []Project
		for range 1 + r.IntN(7) {
			projects = append(projects, Project{int64(1 + r.IntN(40))})
		}
		var ballots []Approvals
		for range 1 + r.IntN(12) {
			var b Approvals
			for p := range projects {
				if r.IntN(3) == 0 {
					b = append(b, p)
				}
			}
			ballots = append(ballots, b)
		}
		utility, budget := []Utility{OneEach, ByCost}[n%2], int64(1+r.IntN(120))
		got := Shares(projects, ballots, budget, utility, KeepRest)
		var bought []int
		sum := int64(0)
		for _, b := range got.Bought {
			bought = append(bought, b.Project)
			sum += projects[b.Project].Cost
		}
		if want := plainly(projects, ballots, budget, utility); !slices.Equal(bought, want) {
			t.Fatalf("%d: %v, counted by another hand %v\n%v %v %d %s", n, bought, want, projects, ballots, budget, utility)
		}
		if sum != got.Spent || sum > budget {
			t.Fatalf("%d: %d of %d is spent, said to be %d", n, sum, budget, got.Spent)
		}
	}
}

// The Tennessee example: Memphis, Nashville, Chattanooga, Knoxville (general knowledge,
// as printed in many textbooks; section 9).
func TestTennessee(t *testing.T) {
	const m, n, c, k = 0, 1, 2, 3
	var ranked [][]int
	for _, x := range []struct {
		voters int
		order  []int
	}{{42, []int{m, n, c, k}}, {26, []int{n, c, k, m}}, {15, []int{c, k, n, m}}, {17, []int{k, c, n, m}}} {
		for range x.voters {
			ranked = append(ranked, x.order)
		}
	}
	if got := Borda(4, ranked); !slices.Equal(got, []int64{126, 194, 173, 107}) {
		t.Errorf("Borda %v", got)
	}
	var first []Approvals
	for _, b := range ranked {
		first = append(first, Approvals{b[0], b[0]}) // named twice, counted once
	}
	if got := Votes(4, first); !slices.Equal(got, []int64{42, 26, 15, 17}) {
		t.Errorf("most votes %v", got)
	}
	for _, x := range []struct {
		over int
		want int64
	}{{c, 68}, {k, 68}, {m, 58}} {
		if got := Beats(ranked, n, x.over); got != x.want {
			t.Errorf("Nashville over %d: %d, not %d", x.over, got, x.want)
		}
	}
	if got := Beats([][]int{{m}}, m, k) + Beats([][]int{{m}}, k, m); got != 1 {
		t.Errorf("one that is not ranked: %d", got)
	}
}

func TestInOrder(t *testing.T) {
	order, tied := InOrder([]int64{5, 9, 5, 9, 1})
	if !slices.Equal(order, []int{1, 3, 0, 2, 4}) || !slices.Equal(tied, []bool{false, true, false, true, false}) {
		t.Errorf("%v %v", order, tied)
	}
	if got := Points(3, [][]int{{3, 0, 1}, {0, 2, 5}}); !slices.Equal(got, []int64{3, 2, 6}) {
		t.Errorf("%v", got)
	}
}

// BenchmarkShares counts 100,000 ballots on 60 projects; the bare bound is adding up
// their votes once.
func BenchmarkShares(b *testing.B) {
	r := rand.New(rand.NewPCG(21, 2))
	var projects []Project
	for range 60 {
		projects = append(projects, Project{int64(5_000_00 + r.IntN(95_000_00))})
	}
	ballots := make([]Approvals, 100_000)
	for i := range ballots {
		for range 1 + r.IntN(10) {
			ballots[i] = append(ballots[i], min(r.IntN(60), r.IntN(60)))
		}
	}
	b.Run("counted", func(b *testing.B) {
		for b.Loop() {
			Shares(projects, ballots, 1_000_000_00, OneEach, ByVotes)
		}
	})
	b.Run("votes alone", func(b *testing.B) {
		for b.Loop() {
			Votes(60, ballots)
		}
	})
}
