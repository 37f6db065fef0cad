// Package export gives rows out: one source of rows under named, typed columns,
// and a writer for each open format. CSV is that of RFC 4180, with a cell that a
// spreadsheet would take for a formula kept from being one (OWASP, CSV injection);
// JSON is that of RFC 8259, a list of objects; a Resource carries its columns with
// it, as a Tabular Data Resource with a Table Schema (Frictionless Standards, 1.0).
package export

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"iter"
	"strconv"
	"strings"
	"time"
)

// Column of a sheet. Its Key names it in JSON and must be the only one of its
// name; its Heading stands above it in CSV.
type Column struct {
	Key, Heading string
	Type         Type
}

// Type of what stands in a column, for formats that say it; "" is any.
type Type string

// The types. A Moment is an instant, a Day a date of the calendar.
const (
	Numbers Type = "number"
	Days    Type = "date"
	Moments Type = "datetime"
)

// Named makes columns whose heading is their key.
func Named(names ...string) []Column {
	out := make([]Column, len(names))
	for i, n := range names {
		out[i] = Column{Key: n, Heading: n}
	}
	return out
}

// Cell is one typed value; the zero Cell is blank.
type Cell struct {
	text   string
	number bool // text is a number as JSON writes it
	at     time.Time
}

// At is an instant, written in its zone where people read it.
func At(t time.Time) Cell { return Cell{text: t.Format("2006-01-02 15:04:05"), at: t} }

// Day is a date as 2026-05-14.
func Day(iso string) Cell { return Text(iso) }

// Text of the cell, as CSV has it.
func (c Cell) Text() string { return c.text }

// Number reports a cell that is a number.
func (c Cell) Number() bool { return c.number }

// Instant of a cell; zero when it is none.
func (c Cell) Instant() time.Time { return c.at }

// Text is words, as they are; none is a blank cell.
func Text(s string) Cell { return Cell{text: s} }

// Whole is a whole number.
func Whole(n int64) Cell { return Cell{text: strconv.FormatInt(n, 10), number: true} }

// Decimal is a number in plain digits with a point, such as money.Plain writes;
// anything else is taken as words.
func Decimal(plain string) Cell {
	var n json.Number
	if json.Unmarshal([]byte(plain), &n) != nil || n.String() != plain {
		return Text(plain)
	}
	return Cell{text: plain, number: true}
}

// Sheet is columns with rows of as many cells.
type Sheet struct {
	Columns []Column
	rows    [][]Cell
}

// New sheet without rows. It panics on two columns of one key: a program that
// names columns twice is wrong.
func New(columns ...Column) *Sheet {
	seen := map[string]bool{}
	for _, c := range columns {
		if seen[c.Key] {
			panic(fmt.Sprintf("two columns are called %q", c.Key))
		}
		seen[c.Key] = true
	}
	return &Sheet{Columns: columns}
}

// Add a row; it panics when it has not a cell for each column.
func (s *Sheet) Add(cells ...Cell) {
	if len(cells) != len(s.Columns) {
		panic(fmt.Sprintf("%d cells for %d columns", len(cells), len(s.Columns)))
	}
	s.rows = append(s.rows, cells)
}

// formula are the characters by which a spreadsheet knows a formula.
const formula = "=+-@\t\r"

// Rows are given out one after another; the first error ends them.
type Rows = iter.Seq2[[]Cell, error]

// Rows of the sheet.
func (s *Sheet) Rows() Rows {
	return func(yield func([]Cell, error) bool) {
		for _, row := range s.rows {
			if !yield(row, nil) {
				return
			}
		}
	}
}

// CSV writes it, the headings first.
func (s *Sheet) CSV() string {
	var out strings.Builder
	_ = CSV(&out, s.Columns, s.Rows()) // a Builder takes everything
	return out.String()
}

// CSV writes rows as they come, the headings first.
func CSV(to io.Writer, columns []Column, rows Rows) error {
	w := csv.NewWriter(to)
	line := make([]string, len(columns))
	for i, c := range columns {
		line[i] = guard(c.Heading)
	}
	_ = w.Write(line) // said by Error below
	for row, err := range rows {
		if err != nil {
			return err
		}
		for i, c := range row {
			if line[i] = c.text; !c.number {
				line[i] = guard(c.text)
			}
		}
		_ = w.Write(line)
	}
	w.Flush()
	return w.Error()
}

// Bare writes the rows alone, as they are: for a box on a page, which no
// spreadsheet opens.
func (s *Sheet) Bare() string {
	var out strings.Builder
	w := csv.NewWriter(&out)
	for _, row := range s.rows {
		line := make([]string, len(row))
		for i, c := range row {
			line[i] = c.text
		}
		_ = w.Write(line)
	}
	w.Flush()
	return out.String()
}

func guard(text string) string {
	if text != "" && strings.ContainsRune(formula, rune(text[0])) {
		return "'" + text
	}
	return text
}

// Unguarded is a cell of a CSV as it was before CSV kept it from being a formula.
func Unguarded(cell string) string {
	if len(cell) > 1 && cell[0] == '\'' && strings.ContainsRune(formula, rune(cell[1])) {
		return cell[1:]
	}
	return cell
}

// JSON writes it as a list of objects, their members in the order of the columns;
// blank cells are null.
func (s *Sheet) JSON() []byte {
	var out bytes.Buffer
	_ = objects(&out, s.Columns, s.Rows()) // a Buffer takes everything, and no row of a sheet fails
	out.WriteByte('\n')
	return out.Bytes()
}

func objects(to io.Writer, columns []Column, rows Rows) error {
	var line bytes.Buffer
	line.WriteByte('[')
	first := true
	for row, err := range rows {
		if err != nil {
			return err
		}
		if !first {
			line.WriteByte(',')
		}
		first = false
		line.WriteString("\n{")
		for i, c := range row {
			if i > 0 {
				line.WriteByte(',')
			}
			key, _ := json.Marshal(columns[i].Key) // a string is always taken
			line.Write(key)
			line.WriteByte(':')
			switch {
			case c.text == "":
				line.WriteString("null")
			case c.number:
				line.WriteString(c.text)
			default:
				said := c.text
				if !c.at.IsZero() {
					said = c.at.UTC().Format("2006-01-02T15:04:05Z")
				}
				text, _ := json.Marshal(said)
				line.Write(text)
			}
		}
		line.WriteByte('}')
		if _, err := to.Write(line.Bytes()); err != nil {
			return err
		}
		line.Reset()
	}
	line.WriteString("\n]")
	_, err := to.Write(line.Bytes())
	return err
}

// Field of a Table Schema.
type Field struct {
	Name   string `json:"name"`
	Title  string `json:"title"`
	Type   string `json:"type"`
	Format string `json:"format,omitempty"`
}

// Schema of columns, as a Table Schema (Frictionless Standards, 1.0).
type Schema struct {
	Fields        []Field  `json:"fields"`
	MissingValues []string `json:"missingValues"`
}

// SchemaOf describes columns.
func SchemaOf(columns []Column) Schema {
	out := Schema{MissingValues: []string{""}}
	for _, c := range columns {
		f := Field{Name: c.Key, Title: c.Heading, Type: string(c.Type)}
		if f.Type == "" {
			f.Type = "string"
		}
		out.Fields = append(out.Fields, f)
	}
	return out
}

// Resource writes rows as they come, as a Tabular Data Resource: their schema,
// then their data. name is of lower-case letters, figures, points and strokes.
func Resource(to io.Writer, name, title string, columns []Column, rows Rows) error {
	head, err := json.MarshalIndent(struct {
		Profile string `json:"profile"`
		Name    string `json:"name"`
		Title   string `json:"title"`
		Schema  Schema `json:"schema"`
	}{"tabular-data-resource", name, title, SchemaOf(columns)}, "", " ")
	if err != nil {
		return err
	}
	if _, err := to.Write(append(bytes.TrimSuffix(head, []byte("\n}")), ",\n \"data\": "...)); err != nil {
		return err
	}
	if err := objects(to, columns, rows); err != nil {
		return err
	}
	_, err = io.WriteString(to, "\n}\n")
	return err
}
