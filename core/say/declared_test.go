package say_test

import (
	"testing"

	"ulvant/core/declared"
	"ulvant/core/say"
)

// How a declaration compares, as the office reads it.
func TestDeclared(t *testing.T) {
	f := grants(t)
	for _, c := range []struct {
		r    declared.Result
		says string
	}{
		{declared.Result{State: declared.Pending}, "HD-1 is there and not settled yet. It is asked for again every day."},
		{declared.Result{State: declared.Silent},
			"The service of declarations does not answer for HD-1. It is asked again every day."},
		{declared.Result{State: declared.Missing}, "Nothing was declared under HD-1. It is asked for again every day."},
		{declared.Result{State: declared.Differs, Years: []declared.Year{{Label: "2024", State: declared.Agrees, Here: 100,
			Theirs: 100},
			{Label: "2025", State: declared.Differs, Here: 300, Theirs: 100}, {Label: "2026", State: declared.Differs,
				Here: 100, Theirs: 300}, {Label: "2027", State: declared.Missing, Here: 500, Theirs: 0}}},
			"HD-1: 2024 agrees: €1; 2025 differs: here €3, declared €1, €2 more here; 2026 differs: here €1, declared €3, €2 " +
				"less here; 2027 was not declared; here it says €5."},
	} {
		if got := say.Declared(f, "HD-1", c.r); got != c.says {
			t.Errorf("%q, want %q", got, c.says)
		}
	}
}
