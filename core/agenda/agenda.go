// Package agenda lays out what a panel talks about, and for how long: first what is too
// close to call, then what readers disagree on, then the rest of the order, which is
// taken together. Common practice, no source: time goes where a talk can change
// something.
package agenda

import (
	"cmp"
	"math"
	"slices"

	"ulvant/core/calibrate"
)

// Case of an order, by its place in it.
type Case struct {
	Known  bool    // somebody has marked it
	Chance float64 // of standing above the line; NaN where nobody can tell
	Apart  bool    // its readers' marks are far apart
	Above  bool    // the money reaches it
	Near   int     // places to the line, 0 for the two beside it
}

// Why a case is talked about.
type Why int

// The reasons, in the order of the agenda.
const (
	Close    Why = iota // too close to call
	Disputed            // its marks are far apart
	AtLine              // beside the line
	ByOrder             // as the order has it
	Unmarked            // nobody has marked it
)

// Item of an agenda.
type Item struct {
	Case    int // place in the order
	Why     Why
	Minutes int
}

// Shares of time: how much more one reason takes than another.
var share = map[Why]int{Close: 6, Disputed: 5, AtLine: 4, ByOrder: 1, Unmarked: 2}

// atLine is how many places from the line a case still stands beside it.
const atLine = 2

// Of an order: its items, and how the minutes of a meeting are spread over them. Every
// item has one at least, so that a meeting that is too short for its cases says so by
// the sum.
func Of(cases []Case, minutes int) []Item {
	out := make([]Item, len(cases))
	total := 0
	for i, c := range cases {
		w := ByOrder
		switch {
		case !c.Known:
			w = Unmarked
		case !math.IsNaN(c.Chance) && calibrate.Close(c.Chance):
			w = Close
		case c.Apart:
			w = Disputed
		case c.Near < atLine:
			w = AtLine
		}
		out[i] = Item{Case: i, Why: w}
		total += share[w]
	}
	slices.SortStableFunc(out, func(a, b Item) int {
		if a.Why != b.Why {
			return cmp.Compare(a.Why, b.Why)
		}
		if a.Why == Close {
			return cmp.Compare(math.Abs(cases[a.Case].Chance-0.5), math.Abs(cases[b.Case].Chance-0.5))
		}
		return 0
	})
	for i := range out {
		out[i].Minutes = max(1, minutes*share[out[i].Why]/max(total, 1))
	}
	return out
}
