package form

import (
	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/identifier"
	"ulvant/core/phrase"
)

// exampleNumbers has registered numbers with right check digits, by scheme.
// Source: the examples in shared/check-values.md.
var exampleNumbers = map[string]string{"iban": "GB29NWBK60161331926819", "lei": "213800KUD8LAJWSQ9D15",
	"orcid": "0000-0002-1825-0097", "gb-vat": "980780684", "ie-vat": "6433435F", "de-vat": "136695976",
	"be-vat": "0428759497",
	"fr-vat": "40303265045", "au-abn": "83914571673", "us-ein": "91-1144442", "gb-company": "01234567",
	"nl-vat": "NL002455799B11",
	"es-vat": "ESB58378431", "it-vat": "IT00743110157", "pl-vat": "PL8567346215", "at-vat": "ATU13585627",
	"au-acn": "004 085 616",
	"luhn":   "4539578763621486"}

var _ = register(kind{
	key: Identifier, means: "Registered number, with its check digits", keeps: InText, typ: condition.TypeText,
	comparable: true, normal: true, tells: tellsNumber,
	members: []string{"scheme", "profile"},
	compile: func(c *compiler, q *Question) {
		_, ok := identifier.Find(q.Scheme)
		c.need(ok, "say which number it is")
	},
	read: readIdentifier, words: asRead, note: keptAs,
	how: func(q *Question) string {
		if s, ok := identifier.Find(q.Scheme); ok {
			return "Check it against the paper: it is not a whole " + phrase.LowerInitial(s.Label) + ", or a sign is wrong."
		}
		return "Write it again."
	},
	ready:   func(q *Question, _ Limits, _ string) string { return q.Label + "." },
	values:  anyText,
	example: func(_ *Form, q *Question, _ Limits) string { return exampleNumbers[q.Scheme] },
	tenths:  takes(20), identifies: always,
	control: func(_ *Form, q *Question, _ *Filled, _ string) Control {
		c := Control{As: control.Line}
		if s, ok := identifier.Find(q.Scheme); ok && q.Example == "" {
			c.Hint = s.Label
		}
		return c
	},
})

func readIdentifier(_ *Form, q *Question, raw string) (condition.Value, bool) {
	s, ok := identifier.Find(q.Scheme)
	if !ok {
		return condition.Value{}, false
	}
	n, ok := s.Normal(raw)
	return condition.Value{Text: n}, ok
}
