package form

var _ = register(kind{
	key: Rows, means: "Table with columns of your own; applicants add rows", keeps: InRows,
	members: []string{"columns", "parties"}, limits: []string{"rowsLeast", "rowsMost"},
	compile: func(c *compiler, q *Question) {
		c.need(len(q.Columns) > 0, "give the table columns")
		c.need(q.Parties == NamesNobody || q.Parties == NamesPeople || q.Parties == NamesPaid,
			"say whom its rows name: people, paid, or leave it")
	},
	columns: func(_ *Form, q *Question) []Question { return q.Columns },
	names:   namedInRows,
	check:   checkRows, words: rowWords, complete: addExampleRow, tenths: takes(80), weighed: true, control: piecesDrawn,
})
