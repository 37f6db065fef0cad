package costbook

import (
	"bytes"
	"encoding/csv"
	"io"
	"strings"
	"unicode/utf8"

	"ulvant/core/export"
	"ulvant/core/form"
)

// CSV writes the budget of a draft as one table, with the year of each line.
func CSV(f *form.Form, q *form.Question, filled *form.Filled) *export.Sheet {
	cols := columns(f, q, q.Costing != nil && len(q.Costing.Periods) > 0)
	w := &writer{f: f, q: q, filled: filled, cols: cols, cur: f.Design.Currency}
	var heads []export.Column
	for _, c := range cols {
		if c.as != worked {
			heads = append(heads, export.Column{Key: string(c.key), Heading: c.label})
		}
	}
	out := export.New(heads...)
	for _, row := range filled.Rows(q.Key) {
		if !w.holds(row) {
			continue
		}
		var cells []export.Cell
		for _, c := range cols {
			if c.as == worked {
				continue
			}
			cell := w.cell(c, row, 0)
			if cell.Number {
				cells = append(cells, export.Decimal(cell.Text))
			} else {
				cells = append(cells, export.Text(cell.Text))
			}
		}
		out.Add(cells...)
	}
	return out
}

// FromCSV reads such a table back, parted by commas, semicolons or tabs.
func FromCSV(f *form.Form, q *form.Question, filled *form.Filled, raw []byte) (Taken, []Fault) {
	cols := columns(f, q, q.Costing != nil && len(q.Costing.Periods) > 0)
	for i := 0; i < len(cols); i++ {
		if cols[i].as == worked {
			cols = append(cols[:i], cols[i+1:]...)
			i--
		}
	}
	r := newReader(f, q, filled, cols)
	raw = bytes.TrimPrefix(raw, []byte("\ufeff"))
	if !utf8.Valid(raw) {
		return Taken{}, []Fault{{"", "", "the file is not in UTF-8; save it so and bring it in again"}}
	}
	c := csv.NewReader(bytes.NewReader(raw))
	c.FieldsPerRecord = -1
	first, _, _ := bytes.Cut(raw, []byte("\n"))
	for _, mark := range []rune{';', '\t'} {
		if bytes.Count(first, []byte(string(mark))) > bytes.Count(first, []byte(string(c.Comma))) {
			c.Comma = mark
		}
	}
	var s Sheet
	for len(s.Rows) <= MostLines {
		record, err := c.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			return Taken{}, []Fault{{"", "", "the file cannot be read as CSV: " + err.Error()}}
		}
		row := make([]Cell, len(record))
		for i, v := range record {
			row[i] = Cell{Text: unguarded(v)}
		}
		s.Rows = append(s.Rows, row)
	}
	s.More = len(s.Rows) > MostLines
	r.sheet(s, "")
	return r.taken()
}

// unguarded takes off the mark that keeps a spreadsheet from taking words for a formula.
func unguarded(v string) string {
	if rest, ok := strings.CutPrefix(v, "'"); ok && rest != "" && strings.ContainsAny(rest[:1], "=+-@\t\r") {
		return rest
	}
	return v
}
