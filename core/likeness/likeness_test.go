package likeness_test

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"ulvant/core/likeness"
)

// By hand. Eight words are four shingles, nine are five. The first four are shared
// of five and four: 4 of 5 in all, and the whole of the shorter. One word changed
// in the middle of eight leaves no run of five.
func TestCompareByHand(t *testing.T) {
	for _, c := range []struct {
		a, b               string
		jaccard, contained float64
	}{
		{"one two three four five six seven eight", "One, two; three four five six SEVEN eight nine.", 4.0 / 5, 1},
		{"one two three four five six seven eight", "one two three four other six seven eight", 0, 0},
		{"a b c d e f", "x a b c d e", 1.0 / 3, 1.0 / 2}, // abcde of abcde, bcdef, xabcd
		{"a b c d e", "a b c d e", 1, 1}, {"a b c d", "a b c d", 0, 0}, {"", "a b c d e", 0, 0},
		{"a b c d e a b c d e", "a b c d e", 1.0 / 5, 1}, // a set: abcde counts once, with bcdea, cdeab, deabc, eabcd
		{"the pier’s stone is worn", "The piers stone is wörn!", 1, 1},
	} {
		j, k := likeness.Compare(c.a, c.b)
		if math.Abs(j-c.jaccard) > 1e-12 || math.Abs(k-c.contained) > 1e-12 {
			t.Errorf("%q and %q: %.3f and %.3f, want %.3f and %.3f", c.a, c.b, j, k, c.jaccard, c.contained)
		}
	}
}

func text(r *rand.Rand, n int) string {
	const syllables = "ba co di fu ga ho ki lu ma ne po ru sa te vu wi"
	s := strings.Fields(syllables)
	var b strings.Builder
	for range n {
		for range 2 + r.IntN(3) {
			b.WriteString(s[r.IntN(len(s))])
		}
		b.WriteByte(' ')
	}
	return b.String()
}

func shared(a, b []int64) (n int) {
	has := map[int64]bool{}
	for _, h := range a {
		has[h] = true
	}
	for _, h := range b {
		if has[h] {
			n++
		}
	}
	return n
}

// Whatever two texts share of Sure words running is found, wherever it stands.
func TestNothingSharedIsMissed(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 400 {
		common := text(r, likeness.Sure)
		a := text(r, r.IntN(60)) + common + text(r, r.IntN(60))
		b := text(r, r.IntN(60)) + common + text(r, r.IntN(60))
		if shared(likeness.Marks(a), likeness.Marks(b)) == 0 {
			t.Fatalf("not found: %q and %q", a, b)
		}
		kept := len(likeness.Marks(a))
		if n := likeness.Words(a); n > 60 && kept > n/2 {
			t.Errorf("%d kept of %d words", kept, n)
		}
	}
	if likeness.Marks("too few words here") != nil || len(likeness.Marks("a b c d e")) != 1 {
		t.Error("short texts")
	}
}

func TestPassagesSideBySide(t *testing.T) {
	a := "We will mend the north pier with stone from the old quarry, as before. Nobody else pays. The work takes nine weeks in all weather."
	b := "Our plan: the work takes NINE weeks in all weather; and then we will mend the north pier with stone from the old quarry."
	list := likeness.Passages(a, b, 5)
	if len(list) != 2 || list[0].Words != 12 || list[1].Words != 8 {
		t.Fatalf("%+v", list)
	}
	if got := a[list[0].A.From:list[0].A.To]; got != "We will mend the north pier with stone from the old quarry" {
		t.Errorf("%q", got)
	}
	if got := b[list[1].B.From:list[1].B.To]; got != "the work takes NINE weeks in all weather" {
		t.Errorf("%q", got)
	}
	for side, whole := range []string{a, b} {
		joined := ""
		for _, p := range likeness.Cut(whole, list, side) {
			joined += p.Text
		}
		if joined != whole {
			t.Errorf("cut and joined: %q", joined)
		}
	}
}

// No word stands in two passages, each is really shared, and none is shorter than
// asked for.
func TestPassagesNeverOverlap(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	few := strings.Fields("a b c d e f")
	for range 300 {
		var a, b []string
		for range 5 + r.IntN(40) {
			a, b = append(a, few[r.IntN(len(few))]), append(b, few[r.IntN(len(few))])
		}
		x, y := strings.Join(a, " "), strings.Join(b, " ")
		taken := [2]map[int]bool{{}, {}}
		for _, p := range likeness.Passages(x, y, 5) {
			if x[p.A.From:p.A.To] != y[p.B.From:p.B.To] || p.Words < 5 || len(strings.Fields(x[p.A.From:p.A.To])) != p.Words {
				t.Fatalf("%q and %q: %+v", x, y, p)
			}
			for side, s := range []likeness.Span{p.A, p.B} {
				for i := s.From; i < s.To; i++ {
					if taken[side][i] {
						t.Fatalf("%q and %q: %d stands in two", x, y, i)
					}
					taken[side][i] = true
				}
			}
		}
	}
}

func TestEnough(t *testing.T) {
	for _, c := range []struct {
		contained float64
		words     int
		want      bool
	}{{.34, 25, true}, {.34, 24, false}, {.33, 60, false}, {.01, 100, true}, {.01, 99, false}} {
		if got := likeness.Enough(c.contained, c.words); got != c.want {
			t.Errorf("%+v", c)
		}
	}
	if !likeness.Short("Yes, as before.") ||
		likeness.Short(strings.Repeat("the stone pier of Tarl ", 10)) {
		t.Error("short texts")
	}
}

func FuzzPassages(f *testing.F) {
	f.Add("a b c d e f", "f a b c d e")
	f.Add("İ a b c d", "\xff a b c d")
	f.Fuzz(func(t *testing.T, a, b string) {
		list := likeness.Passages(a, b, 5)
		for side, whole := range []string{a, b} {
			joined := ""
			for _, p := range likeness.Cut(whole, list, side) {
				joined += p.Text
			}
			if joined != whole {
				t.Errorf("%q becomes %q", whole, joined)
			}
		}
	})
}
