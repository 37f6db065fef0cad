package register

import (
	"bufio"
	"context"
	"io"
	"log/slog"
	"strings"
	"time"

	"ulvant/core/export"
	"ulvant/core/register"
	"ulvant/internal/desk"
	"ulvant/internal/platform/workbook"
	"ulvant/internal/web/kit/site"
)

// outTime is how long giving a register out may take.
const outTime = 5 * time.Minute

// Out gives the register out as a file, row by row as it is read: CSV, XLSX, or
// JSON with its table schema.
func Out(r *site.Request) error {
	l, err := read(r, query(r))
	if err != nil {
		return err
	}
	if chosen := query(r)["case"]; chosen != nil {
		l.Entries = entriesOf(chosen)
	}
	columns := []export.Column{{Key: "ref", Heading: "Number"}, {Key: "title", Heading: "Title"}}
	var shown []register.Column
	for _, key := range l.Shape.Columns {
		c, _ := l.Columns.Find(key)
		shown = append(shown, c)
		columns = append(columns, c.Exported())
	}
	name := "applications-" + today(l.Zone, r.At)
	if l.Round != 0 {
		name = r.Round.Key + "-" + name
	}
	title := l.Shape.Filter.Text(l.Columns, l.Currency)
	path := r.Path()
	kind := path[strings.LastIndexByte(path, '.')+1:]
	mime := map[string]string{"csv": "text/csv; charset=utf-8", "json": "application/json",
		"xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}[kind]
	reader, q := r.Desk, l.Sought
	return r.Stream(name+"."+kind, mime, func(to *bufio.Writer) {
		ctx, cancel := context.WithTimeout(context.Background(), outTime)
		defer cancel()
		rows := rowsOf(ctx, reader, q, shown, l)
		var err error
		switch kind {
		case "csv":
			err = export.CSV(to, columns, rows)
		case "json":
			err = export.Resource(to, strings.ToLower(name), title, columns, rows)
		default:
			err = workbook.Write(to, "Applications", columns, rows)
		}
		if err != nil { // the download ends early, which the browser says
			slog.Error("giving the register out", "kind", kind, "error", err)
			to.Reset(io.Discard)
		}
	})
}

// rowsOf reads the register row by row.
func rowsOf(ctx context.Context, d *desk.Desk, q desk.Sought, shown []register.Column, l listed) export.Rows {
	return func(yield func([]export.Cell, error) bool) {
		rows, err := d.RegisterRows(ctx, q)
		if err != nil {
			yield(nil, err)
			return
		}
		defer rows.Close()
		for rows.Next() {
			var x desk.Row
			if err := rows.StructScan(&x); err != nil {
				yield(nil, err)
				return
			}
			cells, err := desk.CellsOf(q, x)
			if err != nil {
				yield(nil, err)
				return
			}
			out := []export.Cell{export.Text(x.Ref), export.Text(x.Title)}
			for i, c := range shown {
				out = append(out, c.Export(cells[i], l.currencyOf(x), l.Zone))
			}
			if !yield(out, nil) {
				return
			}
		}
		if err := rows.Err(); err != nil {
			yield(nil, err)
		}
	}
}
