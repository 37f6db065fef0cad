package form

import (
	"ulvant/core/condition"
)

// A shared mailbox will do only where the question says so; it is a contact
// without a name.
var _ = register(kind{
	key: Contact, means: "Person to write to, or a shared mailbox", keeps: InPieces, members: []string{"shared", "region"},
	parts: func(_ *Form, q *Question) []Part {
		return []Part{{Key: "name", Label: "Name", Kind: Short, May: q.Shared},
			{Key: "role", Label: "What they do there", Kind: Short, May: true},
			{Key: "mail", Label: "Mail address", Kind: Mail}, {Key: "phone", Label: "Phone", Kind: Phone, May: true}}
	},
	check: func(_ *walk, _ *question, s *QuestionState) {
		if mail := &s.Parts[2]; mail.Presence == condition.Given {
			s.Value.Text = mail.Value.Text
		}
	},
	names: namedInPieces("name"), words: joined, complete: completePlainly, tenths: takes(20), identifies: always,
	control: piecesDrawn,
})
