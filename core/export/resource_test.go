package export

import (
	"bytes"
	"encoding/json"
	"errors"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"
)

// Sources: testdata/tabular-data-resource.json and table-schema.json are the JSON
// Schemas that the Frictionless Standards 1.0 publish, as the packages datapackage
// 1.1.10 and tableschema 1.12.6 (MIT) carry them.
func published(t *testing.T, name string) *jsonschema.Schema {
	t.Helper()
	raw, err := os.ReadFile("testdata/" + name)
	if err != nil {
		t.Fatal(err)
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	c := jsonschema.NewCompiler()
	c.DefaultDraft(jsonschema.Draft4)
	if err := c.AddResource(name, doc); err != nil {
		t.Fatal(err)
	}
	s, err := c.Compile(name)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func resource(t *testing.T) []byte {
	t.Helper()
	zone := time.FixedZone("", 3600)
	s := New(Column{Key: "ref", Heading: "Number"}, Column{Key: "asked", Heading: "Asked", Type: Numbers},
		Column{Key: "born", Heading: "Born", Type: Days}, Column{Key: "sent", Heading: "Sent", Type: Moments})
	s.Add(Text("SPR-0001-A"), Decimal("1200.50"), Day("2001-02-28"), At(time.Date(2027, 3, 1, 0, 30, 0, 0, zone)))
	s.Add(Text("=2+2"), Cell{}, Cell{}, Cell{})
	var out bytes.Buffer
	if err := Resource(&out, "shore-2027", "Applications, all", s.Columns, s.Rows()); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// A resource is one by the published schemas, its table schema too; one that is
// spoilt is not, so that the check can fail.
func TestResourceIsOneByItsPublishedSchema(t *testing.T) {
	whole, table := published(t, "tabular-data-resource.json"), published(t, "table-schema.json")
	valid := func(s *jsonschema.Schema, raw []byte) error {
		v, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
		if err != nil {
			return err
		}
		return s.Validate(v)
	}
	raw := resource(t)
	if err := valid(whole, raw); err != nil {
		t.Errorf("%v\n%s", err, raw)
	}
	var doc struct{ Schema json.RawMessage }
	if err := json.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	if err := valid(table, doc.Schema); err != nil {
		t.Error(err)
	}
	for _, spoilt := range []string{`"fields"`, `"shore-2027"`} {
		if valid(whole, bytes.Replace(raw, []byte(spoilt), []byte(`"a B"`), 1)) == nil {
			t.Errorf("without %s it is still taken for one", spoilt)
		}
	}
}

// Numbers are numbers, days days, and instants in UTC, as a Table Schema has them.
func TestResourceRows(t *testing.T) {
	var doc struct{ Data []map[string]any }
	if err := json.Unmarshal(resource(t), &doc); err != nil {
		t.Fatal(err)
	}
	want := []map[string]any{{"ref": "SPR-0001-A", "asked": 1200.5, "born": "2001-02-28", "sent": "2027-02-28T23:30:00Z"},
		{"ref": "=2+2", "asked": nil, "born": nil, "sent": nil}}
	for i, row := range want {
		for key, v := range row {
			if doc.Data[i][key] != v {
				t.Errorf("row %d, %s: %v, want %v", i, key, doc.Data[i][key], v)
			}
		}
	}
	if len(doc.Data) != len(want) {
		t.Errorf("%d rows", len(doc.Data))
	}
}

// A row that cannot be read ends it with the error, whatever the format.
func TestAnErrorEndsTheRows(t *testing.T) {
	bad := errors.New("the line was lost")
	rows := func(yield func([]Cell, error) bool) {
		if yield([]Cell{Text("one")}, nil) {
			yield(nil, bad)
		}
	}
	var out strings.Builder
	if err := CSV(&out, Named("a"), rows); !errors.Is(err, bad) {
		t.Errorf("CSV: %v", err)
	}
	if err := Resource(&out, "a", "A", Named("a"), rows); !errors.Is(err, bad) {
		t.Errorf("JSON: %v", err)
	}
}
