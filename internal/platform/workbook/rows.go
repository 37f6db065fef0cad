package workbook

import (
	"io"
	"strconv"
	"time"

	"github.com/xuri/excelize/v2"

	"ulvant/core/export"
)

// Write writes rows as they come as a workbook of one sheet, its heads frozen and
// with a filter. What does not fit in memory waits in a file of the system's own
// folder for such, so that however many rows take the same memory.
func Write(to io.Writer, name string, columns []export.Column, rows export.Rows) error {
	f := excelize.NewFile()
	defer f.Close()
	if err := f.SetSheetName("Sheet1", name); err != nil {
		return err
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	moment := "yyyy-mm-dd hh:mm"
	dated, err := f.NewStyle(&excelize.Style{CustomNumFmt: &moment})
	if err != nil {
		return err
	}
	s, err := f.NewStreamWriter(name)
	if err != nil {
		return err
	}
	if err := s.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2",
		ActivePane: "bottomLeft"}); err != nil {
		return err
	}
	if err := s.SetColWidth(1, max(len(columns), 1), 20); err != nil {
		return err
	}
	line := make([]any, len(columns))
	for i, c := range columns {
		line[i] = excelize.Cell{StyleID: bold, Value: c.Heading}
	}
	n := 1
	if err := s.SetRow("A1", line); err != nil {
		return err
	}
	for row, err := range rows {
		if err != nil {
			return err
		}
		n++
		for i, c := range row {
			line[i] = value(c, dated)
		}
		if err := s.SetRow("A"+strconv.Itoa(n), line); err != nil {
			return err
		}
	}
	if err := s.Flush(); err != nil {
		return err
	}
	_, err = f.WriteTo(to)
	return err
}

// value of a cell: numbers are numbers, instants are dates, and words are never a
// formula, since a workbook says what is one.
func value(c export.Cell, dated int) any {
	switch {
	case c.Text() == "":
		return nil
	case !c.Instant().IsZero():
		at := c.Instant() // a workbook knows no zones: it shows the hour it had there
		y, m, d := at.Date()
		return excelize.Cell{StyleID: dated,
			Value: time.Date(y, m, d, at.Hour(), at.Minute(), at.Second(), 0, time.UTC)}
	case c.Number():
		if n, err := strconv.ParseFloat(c.Text(), 64); err == nil {
			return n
		}
	}
	return c.Text()
}
