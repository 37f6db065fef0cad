package material

import (
	"context"

	"ulvant/internal/platform/db"
)

// OfReferee lists the pages of a letter, in their order.
func (s *Store) OfReferee(ctx context.Context, q db.Querier, referee int64) (out []File, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT `+columns+` FROM material
		WHERE referee_id = $1 AND removed_at IS NULL AND sha256 <> '' AND state <> 'refused' ORDER BY place, id`, referee)
	return out, err
}

// RemoveOf takes a page of a letter out; ErrNotFound when it is not one.
func (s *Store) RemoveOf(ctx context.Context, tx *db.Tx, referee, id int64) error {
	r, err := tx.ExecContext(ctx,
		`UPDATE material SET removed_at = $3 WHERE id = $2 AND referee_id = $1 AND removed_at IS NULL`, referee, id, tx.At)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return ErrNotFound
	}
	return nil
}

// CopyOf puts the pages of one letter into another in place of those there: the
// same bytes, known to be what they are.
func (s *Store) CopyOf(ctx context.Context, tx *db.Tx, from, to int64) error {
	if _, err := tx.ExecContext(ctx, `UPDATE material SET removed_at = $2 WHERE referee_id = $1 AND removed_at IS NULL`,
		to,
		tx.At); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO material (referee_id, slot, name, size, sha256, mime, arrived, state, finding, facts, scan, place, by_kind, by_id, at)
		SELECT $2, slot, name, size, sha256, mime, arrived, state, finding, facts, scan, place, $3, $4, $5 FROM material
		WHERE referee_id = $1 AND removed_at IS NULL AND sha256 <> '' AND state = 'ready'`, from, to, tx.By.Kind, tx.By.ID, tx.At)
	return err
}
