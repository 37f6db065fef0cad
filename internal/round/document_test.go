package round_test

import (
	"encoding/json"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/round"
)

// What is refused, and in which words.
func TestDecodeRefuses(t *testing.T) {
	for _, c := range []struct{ raw, says string }{
		{"", "this is not JSON"},
		{`{"schema":1`, "this is not JSON"},
		{`{"schema":1} {}`, "something follows the design document"},
		{`[1]`, "this is not a design document"},
		{`{"schema":2}`, "the design is of schema 2; this program reads up to 1"},
		{`{"schema":2,"later":true}`, "the design is of schema 2; this program reads up to 1"},
		{`{"schema":1,"colour":"green"}`, `unknown field "colour"`},
		{strings.Repeat("[", 61), "nested more than 60 deep"},
		{`{"name":"` + strings.Repeat("x", round.MostBytes) + `"}`, "at most 4194304 are taken"},
		{`{"schema":1,"name":"[[[[ \" {{{{"}`, ""},
	} {
		_, err := round.Decode([]byte(c.raw))
		if (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%.40q: %v, want %q", c.raw, err, c.says)
		}
	}
}

// Whatever comes in, reading it gives a design or a sentence; and a design that
// was read and written again is read as the same.
func FuzzDecode(f *testing.F) {
	f.Add([]byte(`{"schema":1,"sections":[{"key":"a","questions":[{"key":"b","kind":"rows","columns":[{"kind":"rows"}]}]}]}`))
	f.Add([]byte(`{"schema":1,"calendar":[{"key":"closes","at":"2027-04-09T16:00:00"}],"rules":[{"key":"r","holds":{"any":[{"test":{"of":{"answer":"b"},"rel":"is","value":{"yes":true}}}]}}]}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		d, err := round.Decode(raw)
		if err != nil {
			return
		}
		form.Draft(d) // never fails on what was read
		once, err := json.Marshal(d)
		if err != nil {
			t.Fatal(err)
		}
		again, err := round.Decode(once)
		if err != nil {
			t.Fatalf("%v\n%s", err, once)
		}
		if twice, _ := json.Marshal(again); string(once) != string(twice) {
			t.Errorf("%s\n%s", once, twice)
		}
	})
}
