package form

import (
	"slices"

	"ulvant/core/condition"
)

// AfterSending stands for a stage in the sections of a survey: asked of those
// who have sent, kept apart from the case, never in the way of anything.
const AfterSending Key = "after-sending"

// Survey lists the sections that are asked after sending; nil when the round
// has no survey.
func (f *Form) Survey() []*Section {
	var out []*Section
	for i := range f.sections {
		if f.sections[i].def.Stage == AfterSending {
			out = append(out, f.sections[i].def)
		}
	}
	return out
}

// Surveyed is what a walk reads of one answered survey: its conditions may
// also read what was sent.
func Surveyed(answers map[Place]Answer, sent *Filled) *Filled {
	return &Filled{Answers: answers, Lead: sent.Lead, Today: sent.Today, Others: sent.Others, Results: sent.Results,
		Stage: AfterSending, Earlier: sent}
}

// Wants reports an answered survey worth keeping: something in it is answered,
// and nothing that is cannot be read.
func (p *Path) Wants() bool {
	return slices.ContainsFunc(p.Questions, func(q QuestionState) bool {
		return q.Asked == condition.Yes && (q.Presence == condition.Given || q.Presence == condition.Declared)
	})
}
