// Package fundline says where the money stops: going down an order, each case
// takes what it asks until the next does not fit; there the fund ends.
package fundline

import (
	"slices"
	"ulvant/core/mark"
)

// Row is one case of the order with its running total.
type Row struct {
	mark.Place
	Asked   int64 // minor units
	Running int64 // asked by this and all above it
	Within  bool  // above the line
	Scored  bool  // there is a score
}

// Moved is a case that goes so many places up, or down where Places is below 0.
type Moved struct {
	Index  int // as in Row.Index
	Places int
}

// Move takes cases to other places of an order, one after another, and draws the line
// anew; ranks stay what the scores say.
func (l Line) Move(moves []Moved, fund int64) Line {
	rows := slices.Clone(l.Rows)
	for _, m := range moves {
		at := slices.IndexFunc(rows, func(r Row) bool { return r.Index == m.Index })
		if at < 0 {
			continue
		}
		to := max(0, min(len(rows)-1, at-m.Places))
		row := rows[at]
		rows = slices.Insert(slices.Delete(rows, at, at+1), to, row)
	}
	out := Line{SplitsTie: l.SplitsTie && len(moves) == 0}
	stopped := false
	for i := range rows {
		r := &rows[i]
		r.Running = r.Asked
		if i > 0 {
			r.Running += rows[i-1].Running
		}
		r.Within = !stopped && r.Running <= fund && r.Scored
		if r.Within {
			out.Placed, out.Funded = r.Running, out.Funded+1
		} else {
			stopped = true
		}
	}
	out.Rows, out.Left = rows, fund-out.Placed
	return out
}

// Line is the result of going down the order.
type Line struct {
	Rows   []Row
	Placed int64 // money given above the line
	Left   int64
	Funded int
	// SplitsTie says that the fund ends between cases of equal score: the
	// order alone does not decide, people must.
	SplitsTie bool
}

// Draw goes down the order and stops at the first case that does not fit; first are
// those that stand before all others, then settles equal scores, as mark.Order takes them.
func Draw(scores []mark.Score, first []bool, then []mark.Score, asked []int64, fund int64) Line {
	var l Line
	stopped := false
	for _, p := range mark.Order(scores, first, then) {
		r := Row{Place: p, Asked: asked[p.Index], Scored: scores[p.Index].Known()}
		if n := len(l.Rows); n > 0 {
			r.Running = l.Rows[n-1].Running
		}
		r.Running += r.Asked
		r.Within = !stopped && r.Running <= fund && scores[p.Index].Known()
		if r.Within {
			l.Placed, l.Funded = r.Running, l.Funded+1
		} else if !stopped {
			stopped = true
			if n := len(l.Rows); n > 0 && l.Rows[n-1].Rank == r.Rank {
				l.SplitsTie = true
			}
		}
		l.Rows = append(l.Rows, r)
	}
	l.Left = fund - l.Placed
	return l
}
