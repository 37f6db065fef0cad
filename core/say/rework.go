package say

import (
	"strings"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
)

// outcomeWord is an outcome in the middle of a sentence.
func outcomeWord(o form.Outcome) string {
	switch o {
	case form.Holds:
		return "met"
	case form.Fails:
		return "not met"
	case form.Person:
		return "for a person"
	}
	return "not asked"
}

// Reruled says how a rule comes out anew.
func Reruled(rule string, was, is form.Outcome) string {
	return "“" + rule + "” was " + outcomeWord(was) + " and is " + outcomeWord(is)
}

// Reworked says what working the rules anew makes of a case.
func Reworked(changed []string, was, is lifecycle.State) string {
	if len(changed) == 0 {
		return "nothing changes for it"
	}
	out := strings.Join(changed, "; ")
	if was != is {
		return out + "; it would be " + string(is) + " instead of " + string(was)
	}
	return out + "; it stays " + string(is)
}
