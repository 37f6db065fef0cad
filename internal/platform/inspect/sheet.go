package inspect

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"io"
	"os"
	"unicode/utf8"

	"github.com/gabriel-vasile/mimetype"
	"github.com/xuri/excelize/v2"
)

// How much of a sheet is shown.
const (
	MostRows    = 300
	MostColumns = 40
	mostCell    = 500 // characters
)

// Table is the first sheet of a workbook as it is read: the values as the program that
// made it shows them.
type Table struct {
	Name string     `json:"name"` // of the sheet; "" for CSV
	Rows [][]string `json:"rows"`
	More bool       `json:"more,omitempty"` // there are more rows or columns than are shown
}

// Sheet reads the first sheet of the workbook or CSV at path; ErrKept when it cannot be read.
func (b Bench) Sheet(ctx context.Context, path string) (t Table, err error) {
	out, _, err := b.run(ctx, tabling, path, 16<<20)
	if errors.Is(err, errChild) || err == nil && json.Unmarshal(out, &t) != nil {
		return Table{}, ErrKept
	}
	return t, err
}

// sheet prints the first sheet.
func sheet(file *os.File, w io.Writer) (err error) {
	defer func() {
		if recover() != nil {
			err = errNotDrawn
		}
	}()
	kind, err := mimetype.DetectReader(file)
	if err != nil {
		return err
	}
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	var t Table
	if kind.Is("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet") {
		t, err = workbook(file)
	} else if kind.Is("application/vnd.oasis.opendocument.spreadsheet") {
		t, err = openSheet(file)
	} else if kind.Is("text/csv") || kind.Is("text/plain") {
		t, err = commaSeparated(file)
	} else {
		err = errNotDrawn
	}
	if err != nil {
		return err
	}
	return json.NewEncoder(w).Encode(t)
}

func workbook(file *os.File) (t Table, err error) {
	f, err := excelize.OpenReader(file, excelize.Options{UnzipSizeLimit: 200 << 20, UnzipXMLSizeLimit: 32 << 20})
	if err != nil {
		return t, err
	}
	defer f.Close()
	t.Name = f.GetSheetName(0)
	rows, err := f.Rows(t.Name)
	if err != nil {
		return t, err
	}
	for rows.Next() {
		cells, err := rows.Columns()
		if err != nil {
			return t, err
		}
		if !t.add(cells) {
			break
		}
	}
	return t, rows.Error()
}

func commaSeparated(file *os.File) (t Table, err error) {
	b, err := io.ReadAll(io.LimitReader(file, 8<<20))
	if err != nil {
		return t, err
	}
	if !utf8.Valid(b) {
		return t, errNotDrawn
	}
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(b, []byte("\ufeff"))))
	r.FieldsPerRecord, r.LazyQuotes = -1, true
	if line, _, _ := bytes.Cut(b, []byte("\n")); bytes.Count(line, []byte(";")) > bytes.Count(line, []byte(",")) {
		r.Comma = ';'
	}
	for {
		cells, err := r.Read()
		if err == io.EOF {
			return t, nil
		}
		if err != nil {
			return t, err
		}
		if !t.add(cells) {
			return t, nil
		}
	}
}

// add a row; false when no more are shown.
func (t *Table) add(cells []string) bool {
	if len(t.Rows) == MostRows {
		t.More = true
		return false
	}
	if len(cells) > MostColumns {
		cells, t.More = cells[:MostColumns], true
	}
	row := make([]string, len(cells))
	for i, c := range cells {
		if runes := []rune(c); len(runes) > mostCell {
			c = string(runes[:mostCell]) + "…"
		}
		row[i] = c
	}
	t.Rows = append(t.Rows, row)
	return true
}
