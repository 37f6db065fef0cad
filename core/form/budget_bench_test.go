package form_test

import (
	"fmt"
	"testing"

	"ulvant/core/budget"
	"ulvant/core/form"
)

// long is a draft with a budget of 300 lines.
func long(b *testing.B) (*form.Form, *form.Question, *form.Filled) {
	b.Helper()
	f, q := shore(b, nil)
	var lines []string
	for n := range 300 {
		lines = append(lines, fmt.Sprintf("%s|Line %d|%d|day|1,400.50|14000|200", []string{"people", "plant", "stock"}[n%3],
			n, n))
	}
	return f, q, typeLines(f, q, lines...)
}

// A budget of 300 lines, read, added up and checked, as at every save.
func BenchmarkBudgetOf300Lines(b *testing.B) {
	f, _, x := long(b)
	for b.Loop() {
		f.Walk(x)
	}
}

// The bare lower bound: the sums of 300 lines that are read already.
func BenchmarkBareSumOf300Lines(b *testing.B) {
	f, q, x := long(b)
	lines := form.Lined(f.BudgetLines(x, q.Key))
	for b.Loop() {
		budget.Sum(lines, budget.Rules{})
	}
}
