package say

import (
	"strconv"

	"ulvant/core/fallout"
)

// FallsOut says in a sentence each where one group loses otherwise than the others
// by more than chance; that it does is no reason yet.
func FallsOut(rows []fallout.Row, steps []string) (out []string) {
	for _, r := range rows {
		for _, s := range r.Apart {
			before, now := r.Cells[s-1].N, r.Cells[s].N
			out = append(out, "Of those with “"+r.Label+"”, "+strconv.Itoa(now)+" of "+strconv.Itoa(before)+" who came to “"+
				steps[s-1]+
				"” came to “"+steps[s]+"”: more or fewer than of the others by more than chance explains. Why, the figures do not say.")
		}
	}
	return out
}
