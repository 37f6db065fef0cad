package form

import (
	"ulvant/core/condition"
)

var _ = register(kind{
	key: Choice, means: "Pick one", keeps: InText, typ: condition.TypeText, comparable: true, members: []string{"options"},
	read: readOption, options: own, compile: needOptions, how: says(howChoosing), words: pickedLabel,
	values: oneOf, example: firstOption, tenths: takes(5), surveys: true, weighed: true, control: oneDrawn,
})
