package round

import (
	"context"

	"ulvant/internal/platform/db"
)

// LooksAfter says who of the office looks after the cases of a round that are
// listed under a place or field; "" stands for all that have nobody of their
// own. account 0: nobody.
func (s *Store) LooksAfter(ctx context.Context, tx *db.Tx, roundID int64, place string, account int64) error {
	if account == 0 {
		_, err := tx.ExecContext(ctx, `DELETE FROM care WHERE round_id = $1 AND place = $2`, roundID, place)
		return err
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO care (round_id, place, account_id) SELECT $1, $2, $3 WHERE EXISTS (SELECT FROM account_role WHERE account_id = $3 AND ended_at IS NULL AND (until IS NULL OR until > $4))
		ON CONFLICT (round_id, place) DO UPDATE SET account_id = EXCLUDED.account_id`, roundID, place, account, tx.At)
	return err
}
