package form

import (
	"regexp"

	"ulvant/core/condition"
	"ulvant/core/control"
)

var _ = register(kind{
	key: Short, means: "Short text: a line", keeps: InText, typ: condition.TypeText, comparable: true,
	members: []string{"profile"}, limits: []string{"words", "characters"},
	tells: tellsName, read: readText, check: checkText, values: anyText, possible: wordsFit, example: wordsEnough,
	tenths: takes(10), surveys: true, weighed: true, control: drawn(control.Line),
	identifies: func(q *Question) bool { return asksName.MatchString(q.Label) },
})

// asksName is how people ask for the name of whoever applies.
var asksName = regexp.MustCompile(`(?i)\b(your|their|whose|full|legal|family|first|last)\s+names?\b|\bname of (the )?(applicant|entrant|lead)\b|^names?\b`)
