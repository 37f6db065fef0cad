package form

import (
	"ulvant/core/condition"
)

var _ = register(kind{
	key: StreamPick, means: "The stream of the round", keeps: InText, typ: condition.TypeText, comparable: true,
	supplies: condition.Stream,
	compile:  func(c *compiler, _ *Question) { c.need(len(c.f.Design.Streams) > 0, "the round has no streams") },
	read:     readOption, how: says(howChoosing), words: pickedLabel,
	options: func(f *Form, _ *Question) []Option {
		var out []Option
		for _, s := range f.Design.Streams {
			out = append(out, Option{s.Key, s.Label})
		}
		return out
	},
	values: oneOf, example: firstOption, tenths: takes(5), control: oneDrawn,
})
