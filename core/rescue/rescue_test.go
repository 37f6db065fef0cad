package rescue

import (
	"slices"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
)

var (
	ready    = Draft{Done: 20, Required: 20, Left: time.Hour}
	uploaded = Draft{Done: 19, Required: 20, Left: time.Hour, Letter: form.Uploaded,
		Obstacles: []form.Code{form.CodeLetterNotSent}}
	awaited = Draft{Done: 19, Required: 20, Left: time.Hour, Letter: form.Asked,
		Obstacles: []form.Code{form.CodeRefereeAsked}}
	twoLeft = Draft{Done: 18, Required: 20, Left: time.Hour, Obstacles: []form.Code{form.CodeBlank, form.CodeBlank}}
	both    = Draft{Done: 18, Required: 20, Left: time.Hour,
		Obstacles: []form.Code{form.CodeBlank, form.CodeRefereeAsked}}
	far = Draft{Done: 12, Required: 20, Left: time.Hour,
		Obstacles: []form.Code{form.CodeBlank, form.CodeBlank, form.CodeBlank, form.CodeBlank, form.CodeBlank,
			form.CodeBudgetRequest}}
	begun = Draft{Done: 2, Required: 20, Left: time.Hour, Obstacles: []form.Code{form.CodeBlank}}
	over  = Draft{Done: 20, Required: 20}
)

func TestWhomToWriteTo(t *testing.T) {
	for _, c := range []struct {
		what  string
		draft Draft
		whom  lifecycle.Move
		worth bool
	}{
		{"all but pressed Send", ready, lifecycle.Applicant, true},
		{"a letter uploaded, not sent", uploaded, lifecycle.Third, true},
		{"a letter not written", awaited, lifecycle.Third, true},
		{"two answers", twoLeft, lifecycle.Applicant, true},
		{"an answer and a letter: the applicant first", both, lifecycle.Applicant, true},
		{"half a form", far, lifecycle.Applicant, false},
		{"hardly begun", begun, lifecycle.Applicant, false},
		{"just half of it answered", Draft{Done: 10, Required: 20, Left: time.Hour, Obstacles: []form.Code{form.CodeBlank}},
			lifecycle.Applicant, true},
		{"not quite half", Draft{Done: 9, Required: 20, Left: time.Hour, Obstacles: []form.Code{form.CodeBlank}},
			lifecycle.Applicant, false},
		{"as many steps as are worth it", Draft{Done: 15, Required: 20, Left: time.Hour,
			Obstacles: slices.Repeat([]form.Code{form.CodeBlank}, mostSteps-1)}, lifecycle.Applicant, true},
		{"one more", Draft{Done: 15, Required: 20, Left: time.Hour,
			Obstacles: slices.Repeat([]form.Code{form.CodeBlank}, mostSteps)}, lifecycle.Applicant, false},
		{"closing this very moment", Draft{Done: 20, Required: 20, Left: 0}, lifecycle.Applicant, false},
		{"nothing is asked", Draft{Left: time.Hour}, lifecycle.Applicant, false},
		{"closed", over, lifecycle.Applicant, false},
	} {
		if got := Look(c.draft); got.Whom != c.whom || Worth(c.draft) != c.worth {
			t.Errorf("%s: %+v, worth %v", c.what, got, Worth(c.draft))
		}
	}
}

// The closest come first; of equals the letter that only has to be sent, then
// what closes sooner, then who has been silent longer.
func TestOrder(t *testing.T) {
	sooner, silent := awaited, awaited
	sooner.Left = time.Minute
	silent.Silent = 24 * time.Hour
	want := []Draft{ready, uploaded, sooner, silent, awaited, both, far}
	got := []Draft{far, awaited, silent, both, uploaded, sooner, ready}
	slices.SortStableFunc(got, Compare)
	for i := range want {
		if Compare(got[i], want[i]) != 0 {
			t.Errorf("in place %d: %+v", i+1, got[i])
		}
	}
}
