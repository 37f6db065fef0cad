package intake

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"fmt"

	"ulvant/core/costbook"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
)

// BudgetMark tells what a budget holds by one short text, which changes with
// whatever is typed in it.
func BudgetMark(f *form.Form, filled *form.Filled, q *form.Question) string {
	h := sha256.New()
	for _, row := range filled.Rows(q.Key) {
		for _, c := range f.Cells(q) {
			fmt.Fprintf(
				h,
				"%s\x00%s\x00%s\x00",
				row,
				c,
				filled.Answers[form.Place{Question: q.Key, Row: row, Column: c}].Raw,
			)
		}
	}
	return hex.EncodeToString(h.Sum(nil)[:12])
}

// ErrBudgetMoved: it is no longer what was compared with.
var ErrBudgetMoved = refusal.New("the budget was changed meanwhile").
	But("bring the file in again to see what it would change now")

// BringIn keeps changes of a budget that were worked out for one with this mark:
// all of them, or none.
func (s *Store) BringIn(ctx context.Context, tx *db.Tx, c application.Case, q form.Key, mark string,
	changes []costbook.Change) error {
	w, err := s.Cases.OpenWhole(ctx, tx, c)
	if err != nil {
		return err
	}
	def := w.Form.Question(q)
	if def == nil || BudgetMark(w.Form, w.Filled, def) != mark {
		return ErrBudgetMoved
	}
	edits := make([]Edit, len(changes))
	for i, x := range changes {
		edits[i] = Edit{Place: x.Place, EditID: rand.Text(), Value: x.Value}
		if old := w.Answer(x.Place); old != nil {
			edits[i].Version = old.Version
		}
	}
	for len(edits) > 0 {
		n := min(len(edits), MostEdits)
		results, _, err := s.Save(ctx, tx, c, edits[:n])
		if err != nil {
			return err
		}
		for _, r := range results {
			if r.Fault != "" {
				return refusal.New(r.Fault)
			}
		}
		edits = edits[n:]
	}
	return nil
}
