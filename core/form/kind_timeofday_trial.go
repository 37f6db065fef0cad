//go:build trial

package form

import (
	"strings"
	"time"

	"ulvant/core/condition"
	"ulvant/core/control"
)

// A trial of what it takes to add a kind: this file, and the template block
// "input-timeofday" in internal/web/kit/field/testdata. The conformance tests pass
// with -tags trial; the program does not know it.
var _ = register(kind{
	key: "time-of-day", means: "Time of day", keeps: InText, typ: condition.TypeText, comparable: true, normal: true,
	read: func(_ *Form, _ *Question, raw string) (condition.Value, bool) {
		t, err := time.Parse("15:04", strings.ReplaceAll(strings.TrimSpace(raw), ".", ":"))
		return condition.Value{Text: t.Format("15:04")}, err == nil
	},
	how: says("Write it as 9:30 or 16.45."), words: asRead, note: keptAs, values: anyText, example: exampleText("09:30"),
	tenths: takes(5), surveys: true, weighed: true, control: drawn(control.As("timeofday")),
})
