package fundline

import (
	"cmp"
	"slices"

	"ulvant/core/lifecycle"
)

// Case is one of an order with what was recorded for it and what is chosen now.
type Case struct {
	Within   bool            // above the line of what is asked (Draw)
	Known    bool            // somebody has marked it
	State    lifecycle.State // as it stands
	Asked    int64           // minor units
	Recorded int64           // sum awarded, of an awarded one
	Chosen   lifecycle.State // outcome chosen now; "" for none
	Amount   int64           // sum chosen, of an award
	Place    string          // the group it is counted in
}

// reserves is how many after the line are offered a place in reserve.
const reserves = 3

// Offer is the outcome that the order offers for each case that is not decided;
// "" where it is decided or nobody marked it.
func Offer(cases []Case, last bool) []lifecycle.State {
	out := make([]lifecycle.State, len(cases))
	after := 0
	for i, c := range cases {
		if !c.Within && c.Known {
			after++
		}
		switch {
		case c.State.Decided() || !c.Known:
		case c.Within:
			out[i] = lifecycle.Outcomes(last)[0]
		case after <= reserves:
			out[i] = lifecycle.Reserve
		default:
			out[i] = lifecycle.NotAwarded
		}
	}
	return out
}

// Outcome is what a case comes to when what is chosen is recorded; "" while
// nothing is chosen or recorded.
func (c Case) Outcome() lifecycle.State {
	if c.Chosen != "" {
		return c.Chosen
	}
	if c.State.Decided() {
		return c.State
	}
	return ""
}

// Given is the money it takes: the sum of an award, what is asked by somebody
// who goes on to the next stage.
func (c Case) Given() int64 {
	switch outcome := c.Outcome(); {
	case outcome.Is(lifecycle.Gives) && c.Chosen != "":
		return c.Amount
	case outcome.Is(lifecycle.Gives):
		return c.Recorded
	case outcome.Is(lifecycle.GoesOn):
		return c.Asked
	}
	return 0
}

// Outlook is what an order comes to with what is chosen and recorded.
type Outlook struct {
	Placed  int64
	Left    int64   // of the fund; less than nothing when more is chosen than there is
	Running []int64 // money taken by each case and all before it, in the order
	Ends    int     // the fund ends before this case; -1 when it does not
	Next    int     // who is next in line, -1 for nobody: the first in reserve, else the first below the line that is not decided
	Shares  []Share // of the money, by place, in the order in which places come up
	ToDo    int     // cases that are not decided
}

// Share of the money that one place gets; percents add up to 100.
type Share struct {
	Place   string
	Sum     int64
	Percent int
}

// Look adds up. The line is drawn under the last case that gets money, as soon
// as anything is given; where nobody has marked anything there is none.
func Look(cases []Case, fund int64) Outlook {
	o := Outlook{Ends: -1, Next: -1, Running: make([]int64, len(cases))}
	last, known, sums := -1, false, map[string]int64{}
	for i, c := range cases {
		given := c.Given()
		o.Placed += given
		o.Running[i] = o.Placed
		if given > 0 {
			last = i
		}
		known = known || c.Known
		if _, ok := sums[c.Place]; !ok {
			o.Shares = append(o.Shares, Share{Place: c.Place})
		}
		sums[c.Place] += given
		if !c.State.Decided() {
			o.ToDo++
		}
		if o.Next < 0 && c.Outcome().Is(lifecycle.Waits) {
			o.Next = i
		}
	}
	o.Left = fund - o.Placed
	if known && last+1 < len(cases) && slices.ContainsFunc(cases, func(c Case) bool { return c.Asked > 0 }) {
		o.Ends = last + 1
		if o.Next < 0 && !cases[o.Ends].State.Decided() {
			o.Next = o.Ends
		}
	}
	all := make([]int64, len(o.Shares))
	for i := range o.Shares {
		o.Shares[i].Sum = sums[o.Shares[i].Place]
		all[i] = o.Shares[i].Sum
	}
	for i, p := range Percents(all) {
		o.Shares[i].Percent = p
	}
	return o
}

// Percents of a whole that add up to 100, by the greatest remainders; the
// earlier of two that are alike gets the point. Nothing of nothing is 0.
func Percents(sums []int64) []int {
	var all int64
	for _, s := range sums {
		all += s
	}
	out := make([]int, len(sums))
	if all <= 0 {
		return out
	}
	left, order := 100, make([]int, len(sums))
	for i, s := range sums {
		out[i], order[i] = int(s*100/all), i
		left -= out[i]
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(sums[b]*100%all, sums[a]*100%all) })
	for i := 0; i < left; i++ {
		out[order[i%len(order)]]++
	}
	return out
}
