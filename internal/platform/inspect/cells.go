package inspect

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"io"
	"os"
	"regexp"
	"strings"

	"github.com/gabriel-vasile/mimetype"
	"github.com/xuri/excelize/v2"

	"ulvant/core/costbook"
	"ulvant/core/refusal"
)

// Why a workbook is not read.
var (
	ErrMacros = refusal.New("this workbook holds macros").But("save it as .xlsx without them, and bring that in")
	ErrLocked = refusal.New("this workbook is locked with a password").
			But("take the password off, and bring it in again")
	ErrWorkbook = refusal.New("this is no workbook that can be read").But("bring in an .xlsx file, or CSV")
)

// How much of a workbook is read.
const (
	mostSheets   = 40
	mostFormulas = 4_000
)

// read is what the child prints of a workbook.
type read struct {
	Book  costbook.Book
	Fault string // macros, locked, unread
}

// Cells reads every cell of the workbook at path, with its formulas and what they
// come to. Of each sheet costbook.MostLines rows and costbook.Columns columns are read.
func (b Bench) Cells(ctx context.Context, path string) (costbook.Book, error) {
	out, _, err := b.run(ctx, celling, path, 32<<20)
	var r read
	switch {
	case errors.Is(err, errChild) || err == nil && json.Unmarshal(out, &r) != nil:
		return costbook.Book{}, ErrWorkbook
	case err != nil:
		return costbook.Book{}, err
	}
	switch r.Fault {
	case "macros":
		return r.Book, ErrMacros
	case "locked":
		return r.Book, ErrLocked
	case "unread":
		return r.Book, ErrWorkbook
	}
	return r.Book, nil
}

// cells prints the workbook.
func cells(file *os.File, w io.Writer) (err error) {
	r := read{}
	func() {
		defer func() {
			if recover() != nil {
				r = read{Fault: "unread"}
			}
		}()
		r.Book, r.Fault = readBook(file)
	}()
	return json.NewEncoder(w).Encode(r)
}

func readBook(file *os.File) (b costbook.Book, fault string) {
	info, err := file.Stat()
	if err != nil {
		return b, "unread"
	}
	kind, err := mimetype.DetectReader(file)
	switch {
	case err != nil:
		return b, "unread"
	case kind.Is("application/x-ole-storage"): // a workbook with a password is kept in one (MS-OFFCRYPTO)
		return b, "locked"
	}
	z, err := zip.NewReader(file, info.Size())
	if err != nil {
		return b, "unread"
	}
	for _, part := range z.File {
		if strings.HasSuffix(strings.ToLower(part.Name), "vbaproject.bin") {
			return b, "macros"
		}
	}
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return b, "unread"
	}
	f, err := excelize.OpenReader(file, excelize.Options{UnzipSizeLimit: 200 << 20, UnzipXMLSizeLimit: 64 << 20,
		RawCellValue: true})
	if err != nil {
		return b, "unread"
	}
	defer f.Close()
	formulas := 0
	for i, name := range f.GetSheetList() {
		if i == mostSheets {
			break
		}
		s, err := readSheet(f, name, &formulas)
		if err != nil {
			return b, "unread"
		}
		b.Sheets = append(b.Sheets, s)
	}
	return b, ""
}

func readSheet(f *excelize.File, name string, formulas *int) (costbook.Sheet, error) {
	s := costbook.Sheet{Name: name}
	rows, err := f.Rows(name)
	if err != nil {
		return s, err
	}
	defer rows.Close()
	last := 0 // rows with something in them
	for n := 0; rows.Next(); n++ {
		texts, err := rows.Columns()
		if err != nil {
			return s, err
		}
		some := false
		for _, t := range texts {
			some = some || t != ""
		}
		if n >= costbook.MostLines {
			s.More = s.More || some
			if s.More || n > 20*costbook.MostLines {
				break
			}
			continue
		}
		if len(texts) > costbook.Columns {
			texts, s.More = texts[:costbook.Columns], true
		}
		row := make([]costbook.Cell, len(texts))
		for c, t := range texts {
			if row[c], err = readCell(f, name, costbook.Name(c, n), t, formulas); err != nil {
				return s, err
			}
			some = some || row[c].Formula != ""
		}
		if some {
			last = n + 1
		}
		s.Rows = append(s.Rows, row)
	}
	s.Rows = s.Rows[:min(last, len(s.Rows))]
	return s, rows.Error()
}

func readCell(f *excelize.File, sheet, at, text string, formulas *int) (c costbook.Cell, err error) {
	c.Text = text
	if c.Formula, err = f.GetCellFormula(sheet, at); err != nil {
		return c, err
	}
	if c.Formula != "" {
		if *formulas++; *formulas <= mostFormulas {
			if v, err := f.CalcCellValue(sheet, at, excelize.Options{RawCellValue: true}); err == nil {
				c.Calc = v
			}
		}
	}
	kind, err := f.GetCellType(sheet, at)
	if err != nil || text == "" && c.Formula == "" {
		return c, err
	}
	switch kind {
	case excelize.CellTypeUnset, excelize.CellTypeNumber, excelize.CellTypeFormula, excelize.CellTypeDate:
		c.Number = number.MatchString(text) || text == "" && number.MatchString(c.Calc)
	}
	if !c.Number {
		return c, nil
	}
	id, err := f.GetCellStyle(sheet, at)
	if err != nil || id == 0 {
		return c, err
	}
	style, err := f.GetStyle(id)
	if err != nil {
		return c, nil // of a style that is not there the number still is one
	}
	format := ""
	if style.CustomNumFmt != nil {
		format = *style.CustomNumFmt
	}
	c.Date, c.Sign = isDate(style.NumFmt, format), signOf(format)
	return c, nil
}

var (
	number  = regexp.MustCompile(`^-?[0-9]+(\.[0-9]+)?([eE][-+]?[0-9]+)?$`)
	literal = regexp.MustCompile(`"[^"]*"|\\.|\[[^\]]*\]`)
	tagged  = regexp.MustCompile(`\[\$([^\]-]+)(-[0-9A-Fa-f]+)?\]`)
	signs   = regexp.MustCompile(`[$£¥₣₤₩₹₽€]|\b[A-Z]{3}\b`)
)

// isDate reports a number format of dates (ISO/IEC 29500-1, 18.8.30).
func isDate(id int, format string) bool {
	if format != "" {
		return strings.ContainsAny(literal.ReplaceAllString(strings.ToLower(format), ""), "ymdh")
	}
	return id >= 14 && id <= 22 || id >= 27 && id <= 36 || id >= 45 && id <= 47 || id >= 50 && id <= 58
}

// signOf is the currency that a number format shows; "" for none.
func signOf(format string) string {
	if m := tagged.FindStringSubmatch(format); m != nil {
		return m[1]
	}
	return signs.FindString(strings.NewReplacer("General", "", `"`, " ").Replace(format))
}
