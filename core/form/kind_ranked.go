package form

import (
	"ulvant/core/condition"
)

var _ = register(kind{
	key: Ranked, means: "Preferences in order", keeps: InPieces, typ: condition.TypeSet, comparable: true,
	members: []string{"options"}, limits: []string{"pickLeast", "pickMost"},
	parts: rankParts, options: own, compile: needOptions, words: rankedLines,
	check:  func(w *walk, q *question, s *QuestionState) { gatherRanked(w, q, s, nil) },
	values: someOf, possible: picksPossible, complete: completeRanked,
	tenths: takes(20), surveys: true, weighed: true, control: piecesDrawn,
})
