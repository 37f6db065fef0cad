package form

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
)

// A statement is agreed to by a tick, or by the lead's initials: whatever is
// typed agrees to it then, and checkAgreed looks whose initials they are.
var _ = register(kind{
	key: Declaration, means: "Statement to agree to; optional when a blank means no", keeps: InText,
	typ: condition.TypeYes, comparable: true, members: []string{"initials"}, anew: true,
	read: readAgreed, check: checkAgreed, words: agreedWords, how: says("Tick it, or leave it."),
	blank: func(q *Question) (what, remedy string) {
		if q.Initials {
			return "To agree: " + q.Label, "Read it, and type your initials if you agree."
		}
		return "To agree: " + q.Label, "Read it and tick it."
	},
	values: func(_ *Form, q *Question) Values {
		v := Values{Of: Listed, Listed: yesOrNo(), FirstIfMust: true}
		if q.Initials { // whoever does not agree leaves it
			v.Listed = v.Listed[:1]
		}
		return v
	},
	example: func(_ *Form, q *Question, _ Limits) string {
		if q.Initials {
			return Initials(ExampleLead)
		}
		return "yes"
	},
	typed: func(_ *Form, q *Question, v condition.Value) string {
		switch {
		case q.Initials:
			return Initials(ExampleLead)
		case *v.Yes:
			return "yes"
		}
		return "no"
	},
	tenths: takes(5),
	control: func(_ *Form, q *Question, _ *Filled, _ string) Control {
		if q.Initials {
			return Control{As: control.Initials}
		}
		return Control{As: control.Tick}
	},
})

func readAgreed(f *Form, q *Question, raw string) (condition.Value, bool) {
	if !q.Initials {
		return readYesNo(f, q, raw)
	}
	yes := true
	return condition.Value{Yes: &yes}, true
}

// checkAgreed wants a tick, or the lead's initials.
func checkAgreed(w *walk, q *question, s *QuestionState) {
	switch {
	case q.def.Initials && !IsInitials(s.Raw, w.filled.Lead):
		w.obstacle(s, Obstacle{Code: CodeInitials, Name: w.filled.Lead, Detail: strings.TrimSpace(s.Raw)})
	case s.Must != condition.No && !*s.Value.Yes:
		w.obstacle(s, Obstacle{Code: CodeNotAgreed})
	}
}

func agreedWords(_ *Form, q *Question, _ *Filled, s *QuestionState) string {
	switch {
	case q.Initials:
		return "agreed: " + strings.TrimSpace(s.Raw)
	case *s.Value.Yes:
		return "agreed"
	}
	return "not agreed"
}
