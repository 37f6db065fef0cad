package workbook_test

import (
	"bytes"
	"encoding/csv"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"ulvant/core/export"
	"ulvant/internal/platform/workbook"
)

// listed is a sheet with a cell of every type, and one that a spreadsheet could
// take for a formula.
func listed() *export.Sheet {
	s := export.New(export.Column{Key: "title", Heading: "Title"}, export.Column{Key: "asked", Heading: "Asked",
		Type: export.Numbers},
		export.Column{Key: "born", Heading: "Born", Type: export.Days}, export.Column{Key: "sent", Heading: "Sent",
			Type: export.Moments})
	zone := time.FixedZone("", 3600)
	s.Add(export.Text("Ó Dálaigh’s wall"), export.Decimal("64000.50"), export.Day("2001-02-28"),
		export.At(time.Date(2027, 3, 1, 0, 30, 0, 0, zone)))
	s.Add(export.Text("=1+1"), export.Cell{}, export.Cell{}, export.Cell{})
	return s
}

// Numbers are numbers, an instant shows the hour it had in its zone, and words are
// never worked out.
func TestRowsAsAWorkbook(t *testing.T) {
	var out bytes.Buffer
	s := listed()
	if err := workbook.Write(&out, "Applications", s.Columns, s.Rows()); err != nil {
		t.Fatal(err)
	}
	f, err := excelize.OpenReader(&out)
	if err != nil {
		t.Fatal(err)
	}
	for cell, want := range map[string]string{"A1": "Title", "D1": "Sent", "A2": "Ó Dálaigh’s wall", "B2": "64000.5",
		"C2": "2001-02-28", "D2": "2027-03-01 00:30", "A3": "=1+1", "B3": ""} {
		if got, err := f.GetCellValue("Applications", cell); err != nil || got != want {
			t.Errorf("%s is %q, want %q, %v", cell, got, want, err)
		}
	}
	if formula, err := f.GetCellFormula("Applications", "A3"); err != nil || formula != "" {
		t.Errorf("words are a formula: %q %v", formula, err)
	}
	if kind, err := f.GetCellType("Applications", "B2"); err != nil || kind == excelize.CellTypeSharedString ||
		kind == excelize.CellTypeInlineString {
		t.Errorf("a sum is kept as words: %v %v", kind, err)
	}
	bad := errors.New("the line was lost")
	if err := workbook.Write(&out, "A", s.Columns, func(yield func([]export.Cell, error) bool) {
		yield(nil,
			bad)
	}); !errors.Is(err, bad) {
		t.Errorf("a row that cannot be read: %v", err)
	}
}

// LibreOffice (Debian's libreoffice-calc) opens it, and reads what was written.
func TestLibreOfficeOpensTheRows(t *testing.T) {
	office, err := exec.LookPath("soffice")
	if err != nil {
		t.Skip("LibreOffice is not installed here: ./run test installs it")
	}
	var out bytes.Buffer
	s := listed()
	if err := workbook.Write(&out, "Applications", s.Columns, s.Rows()); err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	path := filepath.Join(dir, "list.xlsx")
	if err := os.WriteFile(path, out.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command(office, "-env:UserInstallation=file://"+t.TempDir(), "--headless", "--convert-to",
		"csv:Text - txt - csv (StarCalc):44,34,76,1",
		"--outdir", dir, path)
	if says, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, says)
	}
	raw, err := os.ReadFile(filepath.Join(dir, "list.csv"))
	if err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(bytes.NewReader(raw)).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	want := "Title|Asked|Born|Sent\nÓ Dálaigh’s wall|64000.5|2001-02-28|2027-03-01 00:30\n=1+1|||"
	var lines []string
	for _, r := range rows {
		lines = append(lines, strings.Join(r, "|"))
	}
	if got := strings.Join(lines, "\n"); got != want {
		t.Errorf("LibreOffice reads\n%s, want\n%s", got, want)
	}
}
