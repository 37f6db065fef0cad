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
		{declared.Result{State: declared.Differs, Years: []declared.Year{{"2024", declared.Agrees, 100, 100},
			{"2025", declared.Differs, 300, 100}, {"2026", declared.Differs, 100, 300}, {"2027", declared.Missing, 500, 0}}},
			"HD-1: 2024 agrees: €1; 2025 differs: here €3, declared €1, €2 more here; 2026 differs: here €1, declared €3, €2 " +
				"less here; 2027 was not declared; here it says €5."},
	} {
		if got := say.Declared(f, "HD-1", c.r); got != c.says {
			t.Errorf("%q, want %q", got, c.says)
		}
	}
}
