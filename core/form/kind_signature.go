package form

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
)

var _ = register(kind{
	key: Signature, means: "Typed name, as it stands on file", keeps: InText, typ: condition.TypeText, anew: true,
	read: readText, how: says("Write your name as it stands on file."), example: exampleText(ExampleLead),
	tenths: takes(5), identifies: always,
	check: func(w *walk, _ *question, s *QuestionState) {
		fold := func(n string) string { return strings.ToLower(strings.Join(strings.Fields(n), " ")) }
		if fold(s.Raw) != fold(w.filled.Lead) {
			w.obstacle(s, Obstacle{Code: CodeNameDiffers, Name: w.filled.Lead})
		}
	},
	control: drawn(control.Line),
})
