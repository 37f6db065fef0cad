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
		INSERT INTO care (round_id, place, account_id) SELECT $1, $2, id FROM account WHERE id = $3 AND office
		ON CONFLICT (round_id, place) DO UPDATE SET account_id = EXCLUDED.account_id`, roundID, place, account)
	return err
}
