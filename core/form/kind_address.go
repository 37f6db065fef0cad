package form

import (
	"strings"

	"ulvant/core/address"
)

var _ = register(kind{
	key: Address, means: "Address; box numbers are told from streets", keeps: InPieces, members: []string{"copyOf",
		"profile"},
	compile: func(c *compiler, q *Question) {
		if q.CopyOf != "" {
			from := c.f.Question(q.CopyOf)
			c.need(from != nil && from.Kind == Address && c.f.index[q.CopyOf] < c.walked,
				"it can be copied only from an address before it")
		}
	},
	// all but the second line are needed
	parts: func(*Form, *Question) []Part {
		return []Part{{Key: "street", Label: "Street and number, or the name of the site", Kind: Short},
			{Key: "more", Label: "More of it (may be left)", Kind: Short, May: true},
			{Key: "town", Label: "Town or village", Kind: Short}, {Key: "postcode", Label: "Postcode", Kind: Short}}
	},
	check: func(w *walk, q *question, s *QuestionState) {
		for _, p := range s.Parts {
			if address.IsBox(p.Raw) {
				w.obstacle(s, Obstacle{Code: CodeBoxNumber, Place: Place{Question: q.def.Key, Column: p.Key},
					Name: strings.TrimSpace(p.Raw)})
			}
		}
	},
	tells: tellsAddress, words: joined, complete: completePlainly, tenths: takes(20), control: piecesDrawn,
})
