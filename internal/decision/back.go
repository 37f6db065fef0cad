package decision

import (
	"context"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// lockRound makes acts of one round be made one after another: two at once never pass the
// fund.
func lockRound(ctx context.Context, tx *db.Tx, round int64) error {
	_, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(hashtext('decide'), $1::int)`, round)
	return err
}

// CameBack frees what a decision gave for others: one of its awards, or ("") its sum as a
// whole. The decision itself stays as it was recorded.
func (s *Store) CameBack(ctx context.Context, tx *db.Tx, act, entry int64, award form.Key) error {
	_, err := tx.ExecContext(ctx, `
		INSERT INTO came_back (act_id, entry_id, award, amount)
		SELECT act_id, entry_id, '', amount FROM decision WHERE act_id = $1 AND entry_id = $2 AND $3 = ''
		UNION ALL SELECT act_id, entry_id, award, amount FROM awarded WHERE act_id = $1 AND entry_id = $2 AND award = $3 AND $3 <> ''`, act, entry, award)
	return err
}

// TakeAgain gives once more what came back, where the money and the places are still
// there: it is held to all that a new decision is held to.
func (s *Store) TakeAgain(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, c application.Case, act int64,
	award form.Key) error {
	if err := lockRound(ctx, tx, r.ID); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM came_back WHERE act_id = $1 AND entry_id = $2 AND award = $3`, act,
		c.EntryID, award); err != nil {
		return err
	}
	again := deciding{Choice: Choice{EntryID: c.EntryID, Outcome: lifecycle.Awarded}, c: c}
	if err := tx.GetContext(ctx, &again.Amount,
		`SELECT left_of(act_id, entry_id, amount) FROM decision WHERE act_id = $1 AND entry_id = $2`, act,
		c.EntryID); err != nil {
		return err
	}
	if award == "" {
		if err := tx.SelectContext(ctx, &again.Gifts, `SELECT gift, units FROM given WHERE act_id = $1 AND entry_id = $2`,
			act, c.EntryID); err != nil {
			return err
		}
	}
	lines, err := s.LinesOf(ctx, tx, act, c.EntryID)
	if err != nil {
		return err
	}
	if again.Lines = lines; award != "" && lines == nil {
		return application.ErrNotFound
	}
	if err := s.fits(ctx, tx, r, f, []deciding{again}); err != nil {
		return err
	}
	if err := s.giftsFit(ctx, tx, r, f, []deciding{again}); err != nil {
		return err
	}
	return s.linesFit(ctx, tx, r, f, []deciding{again})
}
