package inspect

import (
	"context"
	"errors"
	"os"
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
	for _, c := range []struct {
		what, path, want string
		more             bool
	}{
		{"a workbook", book, "What|Cost/Reed|1200.5/All|", false},
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
	for what, body := range map[string]string{"bytes of no text": "\xff\xfe\x00", "a broken workbook": "PK\x03\x04broken"} {
		if _, err := b.Sheet(context.Background(), put(body)); !errors.Is(err, ErrKept) {
			t.Errorf("%s: %v", what, err)
		}
	}
}
