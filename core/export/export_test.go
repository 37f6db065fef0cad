package export

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

func ExampleSheet_CSV() {
	s := New(Column{Key: "label", Heading: "Award"}, Column{Key: "purse", Heading: "Purse, EUR"},
		Column{Key: "places", Heading: "Places"})
	s.Add(Text("Sail Loft, the large"), Decimal("1200.50"), Whole(2))
	s.Add(Text("=HYPERLINK(…)"), Cell{}, Whole(-1))
	fmt.Print(s.CSV())
	// Output:
	// Award,"Purse, EUR",Places
	// "Sail Loft, the large",1200.50,2
	// '=HYPERLINK(…),,-1
}

func ExampleSheet_JSON() {
	s := New(Column{Key: "label", Heading: "Award"}, Column{Key: "purse", Heading: "Purse, EUR"})
	s.Add(Text("Mast"), Decimal("40"))
	s.Add(Text("-"), Text(""))
	fmt.Print(string(s.JSON()))
	// Output:
	// [
	// {"label":"Mast","purse":40},
	// {"label":"-","purse":null}
	// ]
}

// What looks like a number is one only where it was given as one, and as JSON has
// it (RFC 8259, section 6).
func TestCells(t *testing.T) {
	for _, c := range []struct {
		cell      Cell
		csv, json string
	}{
		{Text("40"), "40", `"40"`},
		{Text("+40"), "'+40", `"+40"`},
		{Text("@here"), "'@here", `"@here"`},
		{Text("a\tb"), "a\tb", `"a\tb"`},
		{Text("\tb"), "'\tb", `"\tb"`},
		{Decimal("-40.25"), "-40.25", "-40.25"},
		{Decimal("0.5"), "0.5", "0.5"},
		{Decimal("040"), "040", `"040"`},
		{Decimal("1,200"), `"1,200"`, `"1,200"`},
		{Decimal("."), ".", `"."`},
		{Decimal(""), `""`, "null"},
		{Whole(-9_007_199_254_740_993), "-9007199254740993", "-9007199254740993"},
	} {
		s := New(Named("v")...)
		s.Add(c.cell)
		if got := strings.Split(s.CSV(), "\n")[1]; got != c.csv && !(c.csv == `""` && got == "") {
			t.Errorf("%+v as CSV: %q, want %q", c.cell, got, c.csv)
		}
		if got, want := string(s.JSON()), "[\n{\"v\":"+c.json+"}\n]\n"; got != want {
			t.Errorf("%+v as JSON: %s, want %s", c.cell, got, want)
		}
	}
}

func TestAWrongProgramFailsLoudly(t *testing.T) {
	for name, wrong := range map[string]func(){"two of one key": func() { New(Named("a", "a")...) },
		"a cell too few": func() { New(Named("a", "b")...).Add(Text("x")) }} {
		t.Run(name, func(t *testing.T) {
			defer func() {
				if recover() == nil {
					t.Error("it goes through")
				}
			}()
			wrong()
		})
	}
}

// Whatever is written reads back, as CSV and as JSON.
func FuzzSheet(f *testing.F) {
	for _, s := range []string{"", "a", "=1+1", "'=1", "'", "a,b\"c\"\nd", "–"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		text = strings.ReplaceAll(strings.ToValidUTF8(text, "?"), "\r", "")
		s := New(Column{Key: "k", Heading: "Heading"}, Column{Key: "n", Heading: "Number"})
		s.Add(Text(text), Whole(7))
		rows, err := csv.NewReader(strings.NewReader(s.CSV())).ReadAll()
		if err != nil || len(rows) != 2 {
			t.Fatalf("%q: %v %v", text, rows, err)
		}
		if back := Unguarded(rows[1][0]); back != text && !strings.HasPrefix(text, "'") {
			t.Errorf("%q reads back as %q", text, back)
		}
		var list []map[string]any
		if err := json.Unmarshal(s.JSON(), &list); err != nil || len(list) != 1 || text != "" && list[0]["k"] != text ||
			list[0]["n"] != 7.0 {
			t.Errorf("%q as JSON: %v %v", text, list, err)
		}
	})
}
