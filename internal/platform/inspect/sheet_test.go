package inspect

import (
	"context"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"ulvant/internal/platform/limit"
)

// The first sheet as its maker sees it: sums with their form, formulas by their
// values; what is too much is cut and says so; what is none is told.
func TestSheet(t *testing.T) {
	f := excelize.NewFile()
	for cell, v := range map[string]any{"A1": "What", "B1": "Cost", "A2": "Reed", "B2": 1200.5, "A3": "All"} {
		if err := f.SetCellValue("Sheet1", cell, v); err != nil {
			t.Fatal(err)
		}
	}
	if err := f.SetCellFormula("Sheet1", "B3", "SUM(B2:B2)"); err != nil {
		t.Fatal(err)
	}
	if _, err := f.NewSheet("Second"); err != nil {
		t.Fatal(err)
	}
	f.SetCellValue("Second", "A1", "not shown")
	book := filepath.Join(t.TempDir(), "book.xlsx")
	if err := f.SaveAs(book); err != nil {
		t.Fatal(err)
	}
	put := func(body string) string {
		path := filepath.Join(t.TempDir(), "a.csv")
		if err := os.WriteFile(path, []byte(body), 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	b := Bench{Gate: make(limit.Gate, 1)}
	ods := func(rows string) string {
		return pkg(t, "mimetype", "application/vnd.oasis.opendocument.spreadsheet", "content.xml",
			`<o xmlns:t="t" xmlns:x="x"><t:table t:name="One">`+rows+`</t:table><t:table><t:table-row><t:table-cell><x:p>not shown</x:p></t:table-cell></t:table-row></t:table></o>`)
	}
	cell := func(s string) string { return "<t:table-cell><x:p>" + s + "</x:p></t:table-cell>" }
	for _, c := range []struct {
		what, path, want string
		more             bool
	}{
		{"a workbook", book, "What|Cost/Reed|1200.5/All|", false},
		{"an open one", ods("<t:table-row>" + cell("What") + cell("Co<x:span>st</x:span>") +
			"</t:table-row>\n<t:table-row>" + cell("Reed") + "</t:table-row>"),
			"What|Cost/Reed", false},
		{"cells and rows said once for many",
			ods(`<t:table-row t:number-rows-repeated="2"><t:table-cell t:number-columns-repeated="2"/>` + cell("x") +
				`<t:table-cell t:number-columns-repeated="16000"/></t:table-row>`), "||x/||x", false},
		{"empty rows between, and to the end",
			ods("<t:table-row>" + cell("a") +
				`</t:table-row><t:table-row t:number-rows-repeated="2"><t:table-cell/></t:table-row><t:table-row>` +
				cell("b") + `</t:table-row><t:table-row t:number-rows-repeated="1048572"><t:table-cell/></t:table-row>`), "a///b",
			false},
		{"lines, spaces and notes",
			ods("<t:table-row><t:table-cell><o:annotation xmlns:o='o'><x:p>a note</x:p></o:annotation><x:p>a<x:s x:c='2'/>b</x:p>\n <x:p>c</x:p></t:table-cell></t:table-row>"),
			"a  b\nc", false},
		{"too many open rows", ods(`<t:table-row t:number-rows-repeated="1000000">` + cell("x") + "</t:table-row>"),
			strings.Repeat("x/", MostRows-1) + "x", true},
		{"commas", put("\ufeffWhat,Cost\n\"Reed, cut\",1\n"), "What|Cost/Reed, cut|1", false},
		{"semicolons", put("What;Cost\nReed, cut;1,50\n"), "What|Cost/Reed, cut|1,50", false},
		{"rows of different length", put("a\nb,c,d\n"), "a/b|c|d", false},
		{"too many rows", put(strings.Repeat("x\n", MostRows+1)), strings.Repeat("x/", MostRows-1) + "x", true},
		{"too many columns", put(strings.Repeat("x,", MostColumns) + "y\n"),
			strings.Repeat("x|", MostColumns-1) + "x", true},
	} {
		got, err := b.Sheet(context.Background(), c.path)
		var rows []string
		for _, r := range got.Rows {
			rows = append(rows, strings.Join(r, "|"))
		}
		all := strings.Join(rows, "/")
		if err != nil || strings.TrimSuffix(all, "|") != strings.TrimSuffix(c.want, "|") || got.More != c.more {
			t.Errorf("%s: %.200q, more %v, %v", c.what, all, got.More, err)
		}
	}
	for what, body := range map[string]string{"bytes of no text": "\xff\xfe\x00",
		"a broken workbook": "PK\x03\x04broken"} {
		if _, err := b.Sheet(context.Background(), put(body)); !errors.Is(err, ErrKept) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// The same sheet as LibreOffice writes it: a writer of OpenDocument that is not ours.
func TestSheetThatLibreOfficeWrites(t *testing.T) {
	if testing.Short() {
		t.Skip("starts an office")
	}
	dir := t.TempDir()
	source := filepath.Join(dir, "book.csv")
	if err := os.WriteFile(source, []byte("What,Cost,Share\nReed beds,1200.50,=B2/2401\n,,\nAll,=SUM(B2:B2),\n"),
		0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("soffice", "-env:UserInstallation=file://"+dir+"/profile", "--headless",
		"--infilter=CSV:44,34,76,1,,0,false,true,false,false,false,-1,true", "--convert-to", "ods", "--outdir", dir,
		source).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
	got, err := Bench{}.Sheet(context.Background(), filepath.Join(dir, "book.ods"))
	var rows []string
	for _, r := range got.Rows {
		rows = append(rows, strings.Join(r, "|"))
	}
	if want := "What|Cost|Share/Reed beds|1200.5|0.5//All|1200.5"; err != nil || strings.Join(rows, "/") != want {
		t.Errorf("%q, %v, want %q", strings.Join(rows, "/"), err, want)
	}
}
