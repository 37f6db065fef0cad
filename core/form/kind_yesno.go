package form

import (
	"ulvant/core/condition"
	"ulvant/core/control"
)

var _ = register(kind{
	key: YesNo, means: "Yes or no", keeps: InText, typ: condition.TypeYes, comparable: true, members: []string{"profile"},
	read: readYesNo, how: says(howChoosing), values: func(*Form,
		*Question) Values {
		return Values{Of: Listed, Listed: yesOrNo()}
	},
	words: func(_ *Form, _ *Question, _ *Filled, s *QuestionState) string {
		return map[bool]string{true: "yes", false: "no"}[*s.Value.Yes]
	},
	example: exampleText("yes"), tenths: takes(5), surveys: true, weighed: true,
	control: func(*Form, *Question, *Filled, string) Control {
		return Control{As: control.Radio, Options: YesAndNo()}
	},
})

func readYesNo(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	yes := raw == "yes"
	return condition.Value{Yes: &yes}, yes || raw == "no"
}
