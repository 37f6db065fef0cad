package desk

import (
	"context"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
)

// CostCell is one cell of a budget of a case that is in.
type CostCell struct {
	EntryID int64 `db:"entry_id"`
	Ref     string
	Title   string
	Row     string   `db:"row_key"`
	Column  form.Key `db:"column_key"`
	Value   string
}

// CostCells hands on every cell of a budget question, of the cases of a round
// that are in and not handed back, case by case and line by line: a draft, and
// what is being changed while a query is open, are nobody's but the applicant's.
func (d *Desk) CostCells(ctx context.Context, round int64, question form.Key, each func(CostCell)) error {
	rows, err := d.DB.QueryxContext(ctx, `
		WITH latest AS ( -- of a case that answers it again in a later stage, the later entry
		  SELECT DISTINCT ON (a.id) e.id, a.ref, a.title
		  FROM application a JOIN entry e ON e.application_id = a.id
		  WHERE a.round_id = $1 AND e.seal_id IS NOT NULL AND e.state = ANY($3) AND NOT e.state = ANY($4)
		    AND EXISTS (SELECT FROM answer n WHERE n.entry_id = e.id AND n.question = $2)
		  ORDER BY a.id, e.id DESC)
		SELECT n.entry_id, l.ref, l.title, n.row_key, n.column_key, n.value
		FROM latest l JOIN answer n ON n.entry_id = l.id AND n.question = $2 AND n.value <> ''
		ORDER BY n.entry_id, n.row_key`, round, question, lifecycle.With(lifecycle.In), lifecycle.With(lifecycle.Open))
	if err != nil {
		return err
	}
	defer rows.Close()
	var c CostCell
	for rows.Next() {
		if err := rows.Scan(&c.EntryID, &c.Ref, &c.Title, &c.Row, &c.Column, &c.Value); err != nil {
			return err
		}
		each(c)
	}
	return rows.Err()
}
