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
		{Key: "water", Label: "Water", Weight: 40, Steps: []string{"no", "yes"},
			Applies: condition.Cond{Test: &condition.Test{
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
		if got := f.Criteria(f.Walk(filled), ""); len(got) != want {
			t.Errorf("%q: %d criteria", kind, len(got))
		}
	}
}

// What is judged at an interview is not asked of readers, and what they weigh together
// is the whole.
func TestCriteriaAtAnInterview(t *testing.T) {
	d := pattern.Grants(settings())
	steps := []string{"no", "yes"}
	d.Criteria = []form.Criterion{{Key: "gain", Label: "Gain", Weight: 60, Steps: steps},
		{Key: "talk", Label: "In person", Weight: 40, Steps: steps, At: "met"}}
	if f, faults := form.Compile(d); f != nil {
		t.Errorf("marked at an interview that is not there: %v", faults)
	}
	at := 0
	for i, s := range d.Stages {
		if s.Does == form.Read {
			at = i + 1
		}
	}
	d.Stages = append(d.Stages[:at:at], append([]form.Stage{{Key: "met", Label: "Interviews", Does: form.Interview,
		From: form.ReadingEnd,
		To:   form.AnswerOn}}, d.Stages[at:]...)...)
	f, faults := form.Compile(d)
	if f == nil {
		t.Fatal(faults)
	}
	path := f.Walk(&form.Filled{Answers: map[form.Place]form.Answer{}})
	for place, want := range map[form.Key]string{"": "gain", "met": "talk", "elsewhere": ""} {
		got := ""
		for _, c := range f.Criteria(path, place) {
			got += string(c.Key)
		}
		if got != want || len(d.Judged(place)) != min(len(want), 1) {
			t.Errorf("at %q: %s, want %s", place, got, want)
		}
	}
	if d.Weighs("") != 60 || d.Weighs("met") != 40 {
		t.Errorf("they weigh %d and %d", d.Weighs(""), d.Weighs("met"))
	}
	if s := f.Interviews(f.FirstStage()); s == nil || s.Key != "met" || !f.Meets() {
		t.Errorf("people who apply are met in %v", s)
	}
	if s := f.Interviews("checks"); s == nil { // any stage before it
		t.Error("the interview does not come after the checks")
	}
	if s := f.Interviews("deciding"); s != nil {
		t.Errorf("after the decision they are met in %v", s)
	}
}
