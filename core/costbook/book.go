// Package costbook is a budget as a workbook and as CSV: out with live
// formulas, one sheet for each year, and back in. Coming back is the identity:
// what was not touched elsewhere changes nothing, not even how it was typed.
// Nothing is taken unless all of it can be; what cannot is named by sheet and
// cell. A workbook here is neutral: what writes and reads the files of ISO/IEC
// 29500 stands elsewhere, CSV is that of RFC 4180.
package costbook

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"ulvant/core/form"
)

// Book is a workbook.
type Book struct{ Sheets []Sheet }

// Sheet of a book; rows may be of different lengths.
type Sheet struct {
	Name string
	Rows [][]Cell
	More bool // there is more than was read
}

// Cell of a sheet; the zero Cell is empty.
type Cell struct {
	Text    string // what stands there; of a number, its digits with a point
	Number  bool
	Date    bool   // of a number: it is shown as a date, and counts days since the end of 1899
	Sign    string // of a number: the sign of a currency it is shown with
	Formula string // without the equals sign
	Calc    string // when read: what the formula comes to; "" where that cannot be worked out
	Look    Look   // when written
}

// Look says how a cell is drawn, and whether it may be written in.
type Look string

// The looks: only Open cells may be written in.
const (
	Open    Look = ""
	Heading Look = "heading"
	Fixed   Look = "fixed"
	Sum     Look = "sum"     // worked out, two decimals or as many as the currency has
	OpenSum Look = "openSum" // a sum that is typed
	Note    Look = "note"
)

// Summary is the name of the sheet that adds up; it is not read.
const Summary = "What it comes to"

// MostLines is how many lines are read of one sheet.
const MostLines = form.MostRows

// Columns is how many columns are read.
const Columns = 30

// Name of a cell, as spreadsheets say it: column and row count from 0.
func Name(column, row int) string {
	name := ""
	for n := column + 1; n > 0; n = (n - 1) / 26 {
		name = string(rune('A'+(n-1)%26)) + name
	}
	return fmt.Sprintf("%s%d", name, row+1)
}

// column of the sheets of a budget.
type column struct {
	key     form.Key
	label   string
	as      as
	options []form.Option
}

type as int

const (
	text as = iota
	sum
	quantity
	choice
	date
	worked // out: it is written, checked, and not taken
	number // of the line
)

// heads are the first rows of a sheet: the headings, and what they add up to.
const heads = 2

// colLine says which line of the draft a row is.
const colLine form.Key = "line"

// columns of a budget's sheets; year asks for one that says the year.
func columns(f *form.Form, q *form.Question, year bool) []column {
	x := q.Costing
	if x == nil {
		x = &form.Costing{}
	}
	out := []column{{colLine, "Line", number, nil}}
	if year {
		out = append(out, column{form.ColPeriod, "Year", choice, x.Periods})
	}
	for _, c := range form.BudgetColumns(q) {
		col := column{key: c.Key, label: c.Label}
		switch c.Key {
		case form.ColQuotes, form.ColPeriod: // the one stays with the draft, the other is the sheet's name
			continue
		case form.ColHeading:
			col.as, col.options = choice, q.Options
		case form.ColPartner:
			col.as, col.options = choice, x.Partners
		case form.ColUnit:
			if len(x.Units) > 0 {
				col.as, col.options = choice, x.Units
			}
		case form.ColGives:
			col.as, col.options = choice, f.Gifts(q)[1:]
		case form.ColPayer:
			col.as, col.options = choice, form.PayerOptions()
		case form.ColQuantity:
			col.as = quantity
		case form.ColEach, form.ColCost, form.ColUs:
			col.as = sum
		case form.ColWhen:
			col.as = date
		}
		for _, s := range form.SourceColumns {
			if s.Key == c.Key {
				col.as = sum
			}
		}
		out = append(out, col)
		if c.Key == form.ColEach {
			out = append(out, column{form.ColCost, "Cost", worked, nil})
		}
	}
	return out
}

// period is one sheet: the year it is for, "" for a budget without years.
type period struct {
	key  form.Key
	name string
}

// periods are the sheets of a budget, each under a name that a workbook takes.
func periods(q *form.Question) []period {
	if q.Costing == nil || len(q.Costing.Periods) == 0 {
		return []period{{"", "Budget"}}
	}
	taken := map[string]bool{strings.ToLower(Summary): true, strings.ToLower(noYear.name): true}
	var out []period
	for _, p := range q.Costing.Periods {
		name := sheetName(p.Label)
		for n := 2; taken[strings.ToLower(name)]; n++ {
			name = fmt.Sprintf("%s (%d)", cut(sheetName(p.Label), 24), n)
		}
		taken[strings.ToLower(name)] = true
		out = append(out, period{p.Key, name})
	}
	return out
}

// noYear is the sheet of lines without a year of the budget; there is one only
// where a draft has such lines.
var noYear = period{"", "No year"}

// sheetName leaves out what a sheet's name cannot hold (ISO/IEC 29500-1, 18.2.19).
func sheetName(label string) string {
	name := strings.Map(func(r rune) rune {
		if strings.ContainsRune(`:\/?*[]`, r) || r < ' ' {
			return ' '
		}
		return r
	}, label)
	name = strings.Trim(strings.Join(strings.Fields(name), " "), "'")
	if name == "" {
		name = "Year"
	}
	if len(name) < 3 { // “1” alone says little
		name = "Year " + name
	}
	return cut(name, 31)
}

func cut(s string, most int) string {
	for utf8.RuneCountInString(s) > most {
		_, n := utf8.DecodeLastRuneInString(s)
		s = s[:len(s)-n]
	}
	return strings.TrimSpace(s)
}
