// Package workbook writes workbooks as the files of ISO/IEC 29500 (XLSX), by
// excelize. Cells that are worked out or say what stands where are locked, so
// that a slip of the hand elsewhere does not change them; the lock has no
// password. What is read back comes through package inspect, in a child.
package workbook

import (
	"bytes"
	"fmt"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"ulvant/core/costbook"
)

// XLSX writes a book. decimals is how many the sums of its currency have.
func XLSX(b costbook.Book, decimals int) ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	styles := map[costbook.Look]int{}
	for _, look := range []costbook.Look{costbook.Open, costbook.Heading, costbook.Fixed, costbook.Sum, costbook.OpenSum,
		costbook.Note} {
		id, err := f.NewStyle(style(look, decimals))
		if err != nil {
			return nil, err
		}
		styles[look] = id
	}
	for i, s := range b.Sheets {
		if i == 0 {
			if err := f.SetSheetName("Sheet1", s.Name); err != nil {
				return nil, err
			}
		} else if _, err := f.NewSheet(s.Name); err != nil {
			return nil, err
		}
		if err := sheet(f, s, styles); err != nil {
			return nil, err
		}
	}
	var out bytes.Buffer
	if err := f.Write(&out); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

func style(look costbook.Look, decimals int) *excelize.Style {
	s := &excelize.Style{Protection: &excelize.Protection{Locked: true}}
	places := "#,##0"
	if decimals > 0 {
		places += "." + "000000"[:decimals]
	}
	switch look {
	case costbook.Open:
		s.Protection.Locked = false
	case costbook.OpenSum:
		s.Protection.Locked, s.CustomNumFmt = false, &places
	case costbook.Heading:
		s.Font = &excelize.Font{Bold: true}
		s.Border = []excelize.Border{{Type: "bottom", Style: 1, Color: "55615D"}}
		s.Fill = excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{"EFEADD"}}
	case costbook.Sum:
		s.CustomNumFmt = &places
		s.Font = &excelize.Font{Color: "55615D"}
	case costbook.Fixed, costbook.Note:
		s.Font = &excelize.Font{Color: "55615D", Italic: look == costbook.Note}
	}
	return s
}

func sheet(f *excelize.File, s costbook.Sheet, styles map[costbook.Look]int) error {
	widths := map[int]int{}
	for r, row := range s.Rows {
		for c, cell := range row {
			at := costbook.Name(c, r)
			if err := set(f, s.Name, at, cell); err != nil {
				return fmt.Errorf("%s %s: %w", s.Name, at, err)
			}
			if err := f.SetCellStyle(s.Name, at, at, styles[cell.Look]); err != nil {
				return err
			}
			widths[c] = max(widths[c], min(utf8.RuneCountInString(cell.Text), 44))
		}
	}
	for c, n := range widths {
		name := costbook.Name(c, 0)
		name = name[:len(name)-1]
		if err := f.SetColWidth(s.Name, name, name, float64(max(n+3, 9))); err != nil {
			return err
		}
	}
	if len(s.Rows) > 2 && s.Rows[0][0].Look == costbook.Heading {
		if err := f.SetPanes(s.Name, &excelize.Panes{Freeze: true, YSplit: 2, TopLeftCell: "A3",
			ActivePane: "bottomLeft"}); err != nil {
			return err
		}
	}
	return f.ProtectSheet(
		s.Name,
		&excelize.SheetProtectionOptions{FormatColumns: true, FormatRows: true, InsertRows: true,
			DeleteRows: true, SelectLockedCells: true, SelectUnlockedCells: true},
	)
}

func set(f *excelize.File, sheet, at string, c costbook.Cell) error {
	switch {
	case c.Formula != "":
		return f.SetCellFormula(sheet, at, c.Formula)
	case c.Text == "":
		return nil
	case c.Number: // the digits as they are, through no double
		return f.SetCellDefault(sheet, at, c.Text)
	}
	return f.SetCellStr(sheet, at, c.Text)
}
