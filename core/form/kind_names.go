package form

var _ = register(kind{
	key: Names, means: "A person's names: legal, working, short", keeps: InPieces,
	parts: func(*Form, *Question) []Part {
		return []Part{{Key: "legal", Label: "Legal name", Kind: Short},
			{Key: "working", Label: "Working name, where it differs", Kind: Short, May: true},
			{Key: "short", Label: "Short name for lists, where it differs", Kind: Short, May: true}}
	},
	names: namedInPieces("legal"), words: joined, complete: completePlainly, tenths: takes(10), identifies: always,
	control: piecesDrawn,
})
