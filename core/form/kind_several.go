package form

import (
	"ulvant/core/condition"
)

var _ = register(kind{
	key: Several, means: "Pick several", keeps: InText, typ: condition.TypeSet, comparable: true,
	members: []string{"options"}, limits: []string{"pickLeast", "pickMost"},
	read: readSeveral, options: own, compile: needOptions, check: checkPicked, how: says(howChoosing), words: pickedLabels,
	values: someOf, possible: picksPossible, example: firstPicks, tenths: takes(10), surveys: true, weighed: true,
	control: someDrawn,
})
