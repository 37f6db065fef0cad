package form

import (
	"net/mail"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
)

var _ = register(kind{
	key: Mail, means: "Mail address", keeps: InText, typ: condition.TypeText, members: []string{"profile"},
	tells: tellsMail, read: readMail, how: says("Write it as name@place.example."), words: asRead,
	example: exampleText("wenna@astley.example"), tenths: takes(5), identifies: always, control: drawn(control.Line),
})

func readMail(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	raw = strings.TrimSpace(raw)
	a, err := mail.ParseAddress(raw)
	ok := err == nil && a.Address == raw && len(raw) <= 200 && strings.Contains(raw[strings.LastIndexByte(raw, '@'):], ".")
	return condition.Value{Text: strings.ToLower(raw)}, ok
}
