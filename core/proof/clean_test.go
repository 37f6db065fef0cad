package proof_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/core/proof"
)

func compiled(t testing.TB, d *form.Design) *form.Form {
	t.Helper()
	f, err := form.Compile(d)
	if err != nil {
		t.Fatalf("%s: %v", d.Name, err)
	}
	return f
}

func day(m time.Month, d int) calendar.Wall { return calendar.At(calendar.NewDate(2027, m, d), 16, 0) }

// clean are designs that nothing is wrong with: every pattern's. Those of the demo are
// proved where they are made.
func clean() (list []*form.Design) {
	for _, p := range pattern.All() {
		list = append(list, p.Make(pattern.Settings{Key: "r", Name: p.Kind, Programme: "P", Prefix: "PAT", About: "About.",
			Contact: "office@trust.example", Zone: "Europe/Dublin", Currency: "EUR",
			Fund: 10_000_000, Least: 100_000, Most: 1_000_000, MatchPercent: 10, ReadersEach: 2, HoldMinutes: 30,
			Opens: day(3, 1), Closes: day(4, 9), ChecksBy: day(4, 23), ReadingEnds: day(5, 7), AnswerOn: day(5,
				21), WorkFrom: calendar.NewDate(2027, 7, 1)}))
	}
	return list
}

// Crying wolf is a defect: a design that is right draws no finding at all, and
// leaves nothing undecided.
func TestCleanDesignsDrawNoFinding(t *testing.T) {
	for _, d := range clean() {
		r := proof.Run(context.Background(), compiled(t, d))
		for _, x := range r.Findings {
			if x.Code == proof.NotYetUsed { // a fact about the program, not about the design
				continue
			}
			t.Errorf("%s: %s at %s: %s", d.Name, x.Code, x.Path, x.Says)
		}
		r.Open = slices.DeleteFunc(r.Open, func(o proof.Open) bool {
			return strings.HasPrefix(o.Says,
				"This hangs on the rows of")
		})
		if len(r.Open)+len(r.Unseen) > 0 || !r.Opens() {
			t.Errorf("%s: undecided %v, not looked at %v", d.Name, r.Open, r.Unseen)
		}
	}
}

// BenchmarkProof of 200 questions from nothing, and of the patterns' designs. The
// lower bound is one walk of the same form.
func BenchmarkProof(b *testing.B) {
	for _, d := range append([]*form.Design{proof.Wide()}, clean()...) {
		f := compiled(b, d)
		b.Run(d.Name, func(b *testing.B) {
			for b.Loop() {
				if r := proof.Run(context.Background(), f); len(r.Unseen) > 0 {
					b.Fatal(r.Unseen)
				}
			}
		})
	}
}
