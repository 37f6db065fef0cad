// Package export gives rows out: one source of rows under named, typed columns,
// and a writer for each open format. CSV is that of RFC 4180, with a cell that a
// spreadsheet would take for a formula kept from being one (OWASP, CSV injection);
// JSON is that of RFC 8259, a list of objects.
package export

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
)

// Column of a sheet. Its Key names it in JSON and must be the only one of its
// name; its Heading stands above it in CSV.
type Column struct{ Key, Heading string }

// Named makes columns whose heading is their key.
func Named(names ...string) []Column {
	out := make([]Column, len(names))
	for i, n := range names {
		out[i] = Column{n, n}
	}
	return out
}

// Cell is one typed value; the zero Cell is blank.
type Cell struct {
	text   string
	number bool // text is a number as JSON writes it
}

// Text is words, as they are; none is a blank cell.
func Text(s string) Cell { return Cell{text: s} }

// Whole is a whole number.
func Whole(n int64) Cell { return Cell{strconv.FormatInt(n, 10), true} }

// Decimal is a number in plain digits with a point, such as money.Plain writes;
// anything else is taken as words.
func Decimal(plain string) Cell {
	var n json.Number
	if json.Unmarshal([]byte(plain), &n) != nil || n.String() != plain {
		return Text(plain)
	}
	return Cell{plain, true}
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

// CSV writes it, the headings first.
func (s *Sheet) CSV() string {
	var out strings.Builder
	w := csv.NewWriter(&out)
	line := make([]string, len(s.Columns))
	for i, c := range s.Columns {
		line[i] = guard(c.Heading)
	}
	_ = w.Write(line) // a Builder takes everything
	for _, row := range s.rows {
		for i, c := range row {
			if line[i] = c.text; !c.number {
				line[i] = guard(c.text)
			}
		}
		_ = w.Write(line)
	}
	w.Flush()
	return out.String()
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
	out.WriteByte('[')
	for n, row := range s.rows {
		if n > 0 {
			out.WriteByte(',')
		}
		out.WriteString("\n{")
		for i, c := range row {
			if i > 0 {
				out.WriteByte(',')
			}
			key, _ := json.Marshal(s.Columns[i].Key) // a string is always taken
			out.Write(key)
			out.WriteByte(':')
			switch {
			case c.text == "":
				out.WriteString("null")
			case c.number:
				out.WriteString(c.text)
			default:
				text, _ := json.Marshal(c.text)
				out.Write(text)
			}
		}
		out.WriteByte('}')
	}
	out.WriteString("\n]\n")
	return out.Bytes()
}
