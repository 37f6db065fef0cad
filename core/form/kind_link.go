package form

import (
	"net/url"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
)

var _ = register(kind{
	key: Link, means: "Web address", keeps: InText, typ: condition.TypeText,
	read: readLink, how: says("Write the whole address, such as https://place.example/page."), words: asRead,
	example: exampleText("https://astley.example"), tenths: takes(10), control: drawn(control.Line),
})

func readLink(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	raw = strings.TrimSpace(raw)
	if !strings.Contains(raw, "://") {
		raw = "https://" + raw
	}
	u, err := url.Parse(raw)
	ok := err == nil && (u.Scheme == "https" || u.Scheme == "http") &&
		strings.Contains(strings.Trim(u.Hostname(), "."), ".") && !strings.ContainsAny(raw, " \n")
	return condition.Value{Text: raw}, ok
}
