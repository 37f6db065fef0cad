package placing_test

import (
	"testing"

	. "ulvant/core/placing"
)

// BenchmarkPlacing places 10,000 people on 400 awards under a cap on money; HiGHS needs
// 13.6 s for the exact optimum on the machine of the values from outside.
func BenchmarkPlacing(b *testing.B) {
	p := large(10000, 400, 13, 100, Person{Money: 3000})
	for b.Loop() {
		if got := Solve(p, Usual); !got.Proved() {
			b.Fatal("not proved")
		}
	}
}

// BenchmarkChange changes that by hand.
func BenchmarkChange(b *testing.B) {
	p := large(10000, 400, 13, 100, Person{Money: 3000})
	from := Solve(p, Usual)
	given := make([]bool, len(p.Pairs))
	for _, x := range from.Given {
		given[x] = true
	}
	x := 0
	for b.Loop() {
		for x++; given[x] || p.Awards[p.Pairs[x].Award].Least > 3000; x++ {
		}
		if _, ok := Change(p, from, x, true); !ok {
			b.Fatal("cannot be")
		}
	}
}

// BenchmarkLosses is the bare lower bound: everybody’s best set looked for once.
func BenchmarkLosses(b *testing.B) {
	p := large(10000, 400, 13, 100, Person{Money: 3000})
	from := Solve(p, Usual)
	for b.Loop() {
		Losses(p, from, nil)
	}
}
