package form

import (
	"ulvant/core/phrase"
)

var _ = register(kind{
	key: Signatory, means: "Somebody who confirms one thing by mail, or on paper", keeps: AsPeople, anew: true,
	confirms: true,
	members:  []string{"ask", "theirs"}, limits: []string{"referees"}, begin: beginAsking, compile: needAsk,
	check: checkReferee,
	ready: func(q *Question, l Limits, _ string) string {
		return q.Label + ": " + phrase.Count(int64(l.Referees), "person", "people") +
			" to confirm it, by name and mail address."
	},
	tenths: askingTakes,
})
