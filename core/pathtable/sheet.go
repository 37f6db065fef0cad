package pathtable

import (
	"strconv"
	"strings"

	"ulvant/core/export"
	"ulvant/core/money"
)

// Sheet gives the table out: a row for each section and question, then what it
// comes to for each kind of applicant. Fees are in the currency, at the most.
func (t *Table) Sheet(currency string) *export.Sheet {
	columns := export.Named("section", "question")
	for i, c := range t.Columns {
		columns = append(columns, export.Column{Key: "path " + strconv.Itoa(i+1), Heading: c.Name})
	}
	out := export.New(columns...)
	section := ""
	for _, row := range t.Rows {
		line := []export.Cell{export.Text(section), export.Text(row.Label)}
		if row.Section {
			section = row.Label
			line = []export.Cell{export.Text(row.Label), {}}
		}
		for _, c := range row.Cells {
			line = append(line, export.Text(strings.TrimSpace(string(c.State)+" "+c.Limit)))
		}
		out.Add(line...)
	}
	sum := func(what string, of func(Column) export.Cell) {
		line := []export.Cell{{}, export.Text(what)}
		for _, c := range t.Columns {
			line = append(line, of(c))
		}
		out.Add(line...)
	}
	count := func(of func(Column) int) func(Column) export.Cell {
		return func(c Column) export.Cell { return export.Whole(int64(of(c))) }
	}
	sum("questions that must be answered", count(func(c Column) int { return c.Questions }))
	sum("files", count(func(c Column) int { return c.Papers }))
	sum("letters", count(func(c Column) int { return c.Letters }))
	sum("confirmations", count(func(c Column) int { return c.Confirmations }))
	sum("fee, "+currency+" at the most", func(c Column) export.Cell {
		return export.Decimal(money.Plain(c.FeeMost,
			currency))
	})
	sum("minutes, about", count(func(c Column) int { return c.Minutes }))
	return out
}
