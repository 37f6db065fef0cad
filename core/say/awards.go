package say

import (
	"fmt"
	"slices"
	"strings"

	"ulvant/core/form"
)

// many is how many names are read rather than counted.
const many = 6

// Fitting says to which awards somebody comes who asked for every one that
// fits: by name when they are few, by those left out when these are few, else
// by number. considered holds the keys of the awards.
func Fitting(awards []form.Award, considered []string) string {
	var in, out []string
	for _, a := range awards {
		if slices.Contains(considered, string(a.Key)) {
			in = append(in, a.Label)
		} else {
			out = append(out, a.Label)
		}
	}
	switch {
	case len(in) == 0:
		return "None is known to fit yet."
	case len(out) == 0:
		return fmt.Sprintf("All %d awards fit what you have answered.", len(awards))
	case len(in) <= many:
		return "What you have answered fits: " + strings.Join(in, ", ") + "."
	case len(out) <= many:
		return fmt.Sprintf("%d of %d awards fit what you have answered; not %s.", len(in), len(awards), strings.Join(out, ", "))
	}
	return fmt.Sprintf("%d of %d awards fit what you have answered.", len(in), len(awards))
}
