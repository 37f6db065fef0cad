package form

var _ = register(kind{
	key: Years, means: "People × years: a name and a sum for each year", keeps: InRows,
	members: []string{"options"}, limits: []string{"rowsLeast", "rowsMost"},
	compile: func(c *compiler, q *Question) { c.need(len(q.Options) > 0, "name the years") },
	columns: func(_ *Form, q *Question) []Question {
		out := []Question{{Key: "person", Kind: Short, Label: "Who", Nature: Chosen, Blank: Required, Seen: q.Seen}}
		for _, o := range q.Options {
			out = append(out, Question{Key: o.Key, Kind: Money, Label: o.Label, Nature: Chosen, Blank: MeansNo, Seen: q.Seen})
		}
		return out
	},
	check: checkRows, words: rowWords, complete: addExampleRow, tenths: takes(80), weighed: true, control: piecesDrawn,
})
