package form_test

import (
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/pattern"
)

// A criterion with a condition applies to the cases that meet it, and to those of
// which nobody can tell.
func TestCriteriaThatApply(t *testing.T) {
	d := pattern.Grants(settings())
	d.Criteria = []form.Criterion{{Key: "gain", Label: "Gain", Weight: 60, Steps: []string{"none", "some"}},
		{Key: "water", Label: "Water", Weight: 40, Steps: []string{"no", "yes"}, Applies: condition.Cond{Test: &condition.Test{
			Of: condition.Ref{Answer: "repair-kind"}, Rel: condition.Is, Value: &condition.Value{Text: "peat"}}}}}
	f, faults := form.Compile(d)
	if f == nil {
		t.Fatal(faults)
	}
	for kind, want := range map[string]int{"peat": 2, "shore": 1, "": 2} {
		filled := &form.Filled{Answers: map[form.Place]form.Answer{}}
		if kind != "" {
			filled.Answers[form.Place{Question: "repair-kind"}] = form.Answer{Raw: kind}
		}
		if got := f.Criteria(f.Walk(filled)); len(got) != want {
			t.Errorf("%q: %d criteria", kind, len(got))
		}
	}
}
