package form

import (
	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/phrase"
)

// A text takes a minute for every fifteen words it may hold, and two minutes at
// least (common practice, no source).
const (
	wordsAMinute = 15
	leastForText = 20
)

var _ = register(kind{
	key: Long, means: "Long text: paragraphs", keeps: InText, typ: condition.TypeText,
	members: []string{"media"}, limits: []string{"words", "leastWords", "characters", "slot"},
	prose: true, read: readText, check: checkText, possible: wordsFit, example: wordsEnough,
	limitsSay: func(_ *Question, l Limits) string {
		if l.Characters > 0 {
			return "Up to " + phrase.Count(int64(l.Characters), "character", "characters") + "."
		}
		return ""
	},
	ready: func(q *Question, l Limits, _ string) string {
		s := "“" + q.Label + "”"
		if l.Words > 0 {
			s += " in " + upToWords(l.Words)
		}
		return s + "."
	},
	tenths:  func(_ *Question, l Limits) int { return max(leastForText, l.Words*10/wordsAMinute) },
	surveys: true, weighed: true, control: drawn(control.Sheet),
})
