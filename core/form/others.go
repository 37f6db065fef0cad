package form

import (
	"slices"

	"ulvant/core/calendar"
)

// Full lists the rules that refuse one more application because of how many the
// applicant has sent already, whatever else would be answered; nil when none
// does. It is asked before one is begun, and by the whole walk again at sending.
func (f *Form) Full(answers map[Place]Answer, others Others, today calendar.Date) []RuleState {
	if !f.counted {
		return nil
	}
	alone := f.Judge(&Filled{Answers: answers, Today: today})
	return slices.DeleteFunc(f.Judge(&Filled{Answers: answers, Today: today, Others: others}).Rules,
		func(r RuleState) bool {
			return r.Outcome != Fails || slices.ContainsFunc(alone.Rules,
				func(a RuleState) bool { return a.Key == r.Key && a.Outcome == Fails })
		})
}
