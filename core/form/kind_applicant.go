package form

import (
	"ulvant/core/condition"
)

var _ = register(kind{
	key: ApplicantIs, means: "The kind of applicant", keeps: InText, typ: condition.TypeText, comparable: true,
	supplies: condition.Applicant,
	compile: func(c *compiler, _ *Question) {
		c.need(len(c.f.Design.Applicants) > 0, "the round names no kinds of applicant")
	},
	read: readOption, how: says(howChoosing), words: pickedLabel,
	options: func(f *Form, _ *Question) []Option { return f.Design.Applicants },
	values:  oneOf, example: firstOption, tenths: takes(5), control: oneDrawn,
})
