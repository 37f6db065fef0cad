package design_test

import (
	"bytes"
	"encoding/json"
	"os"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"ulvant/core/calendar"
	"ulvant/core/design"
	"ulvant/core/pattern"
)

const published = "../../docs/design.schema.json"

// docs/design.schema.json is what JSONSchema makes; UPDATE=1 writes it.
func TestPublishedSchemaIsCurrent(t *testing.T) {
	want, err := design.JSONSchema()
	if err != nil {
		t.Fatal(err)
	}
	want = append(want, '\n')
	if os.Getenv("UPDATE") != "" {
		if err := os.WriteFile(published, want, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	got, err := os.ReadFile(published)
	if err != nil || !bytes.Equal(got, want) {
		t.Errorf("docs/design.schema.json is not what the types say; run UPDATE=1 go test ./core/design (%v)", err)
	}
}

// A general validator (github.com/santhosh-tekuri/jsonschema) finds the schema
// itself right against JSON Schema's own meta-schema (2020-12), accepts the
// patterns, and refuses what is not a design.
func TestAgainstAGeneralValidator(t *testing.T) {
	c := jsonschema.NewCompiler()
	c.DefaultDraft(jsonschema.Draft2020)
	schema, err := c.Compile(published) // compiling checks it against the meta-schema
	if err != nil {
		t.Fatal(err)
	}
	valid := func(doc string) error {
		v, err := jsonschema.UnmarshalJSON(bytes.NewReader([]byte(doc)))
		if err != nil {
			t.Fatal(err)
		}
		return schema.Validate(v)
	}
	for _, p := range pattern.All() {
		raw, err := json.Marshal(p.Make(settings()))
		if err != nil {
			t.Fatal(err)
		}
		if err := valid(string(raw)); err != nil {
			t.Errorf("the pattern for %s is refused: %v", p.Kind, err)
		}
	}
	raw, _ := json.Marshal(pattern.Grants(settings()))
	for what, from := range map[string][2]string{
		"a later schema":           {`"schema":1`, `"schema":2`},
		"a kind that is none":      {`"kind":"yesno"`, `"kind":"maybe"`},
		"a key with a blank":       {`"key":"body-name"`, `"key":"body name"`},
		"a member that is unknown": {`"readersEach"`, `"readersEvery"`},
		"a date that is none":      {`"at":"2027-03-01T09:00"`, `"at":"1 March"`},
	} {
		doc := bytes.Replace(raw, []byte(from[0]), []byte(from[1]), 1)
		if bytes.Equal(doc, raw) {
			t.Fatalf("%s: nothing to change", what)
		}
		if valid(string(doc)) == nil {
			t.Errorf("%s was accepted", what)
		}
	}
}

func settings() pattern.Settings {
	day := func(m, d, h int) calendar.Wall {
		return calendar.At(calendar.NewDate(2027, 1, 1).AddMonths(m-1).AddDays(d-1), h, 0)
	}
	return pattern.Settings{Key: "shore-2027", Name: "Shore repair", Programme: "Shore repair", Prefix: "SPR",
		Contact: "a@b.example", Zone: "Europe/Dublin", Currency: "EUR",
		Fund: 20_000_000, Least: 200_000, Most: 8_000_000, MatchPercent: 15, ReadersEach: 2, HoldMinutes: 30,
		Opens: day(3, 1, 9), Closes: day(4, 9, 16), ChecksBy: day(4, 20, 17), ReadingEnds: day(5, 7, 17), AnswerOn: day(5,
			21, 12), WorkFrom: calendar.NewDate(2027, 7, 1)}
}
