package say

import (
	"fmt"
	"strings"

	"ulvant/core/declared"
	"ulvant/core/form"
	"ulvant/core/money"
)

// Declared says how a declaration made elsewhere compares, for the office.
func Declared(f *form.Form, reference string, r declared.Result) string {
	sum := func(n int64) string { return money.Format(n, f.Design.Currency) }
	switch {
	case r.State == declared.Pending:
		return reference + " is there and not settled yet. It is asked for again every day."
	case r.State == declared.Silent:
		return "The service of declarations does not answer for " + reference + ". It is asked again every day."
	case r.State == declared.Missing && len(r.Years) == 0:
		return "Nothing was declared under " + reference + ". It is asked for again every day."
	}
	var out []string
	for _, y := range r.Years {
		switch y.State {
		case declared.Agrees:
			out = append(out, fmt.Sprintf("%s agrees: %s", y.Label, sum(y.Here)))
		case declared.Missing:
			out = append(out, fmt.Sprintf("%s was not declared; here it says %s", y.Label, sum(y.Here)))
		default:
			more, off := "more", y.Here-y.Theirs
			if off < 0 {
				more, off = "less", -off
			}
			out = append(
				out,
				fmt.Sprintf("%s differs: here %s, declared %s, %s %s here", y.Label, sum(y.Here), sum(y.Theirs),
					sum(off), more),
			)
		}
	}
	return reference + ": " + strings.Join(out, "; ") + "."
}
