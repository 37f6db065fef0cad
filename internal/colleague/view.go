package colleague

import (
	"context"
	"database/sql"
	"errors"
	"strings"

	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
)

// View is a shape of the register that was kept.
type View struct {
	ID      int64
	Round   int64 // 0: of all rounds
	ByID    int64 `db:"by_id"`
	By      string
	Name    string
	Shared  bool
	Address string // core/register.Shape
}

const viewColumns = `v.id, COALESCE(v.round_id, 0) AS round, v.by_id, p.name AS by, v.name, v.shared, v.address`

// View finds one that an account sees; one that is another's and not shared is
// said to be so, since whoever sent its address may share it.
func (s *Store) View(ctx context.Context, q db.Querier, id, account int64) (v View, err error) {
	err = q.GetContext(ctx, &v,
		`SELECT `+viewColumns+` FROM kept_view v JOIN account p ON p.id = v.by_id WHERE v.id = $1 AND v.ended_at IS NULL`,
		id)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return v, refusal.Missing("this view is not there any more")
	case err == nil && v.ByID != account && !v.Shared:
		return v, refusal.Missing("this view is not shared with colleagues").But("ask whoever sent it to share it")
	}
	return v, err
}

// MostViews that one person keeps of one register.
const MostViews = 40

// Views of a register that an account sees: its own and those shared, by name.
func (s *Store) Views(ctx context.Context, q db.Querier, round, account int64) (out []View, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT `+viewColumns+` FROM kept_view v JOIN account p ON p.id = v.by_id
		WHERE COALESCE(v.round_id, 0) = $1 AND v.ended_at IS NULL AND (v.by_id = $2 OR v.shared) ORDER BY v.by_id <> $2, v.name, v.id LIMIT 100`, round, account)
	return out, err
}

// KeepView keeps a shape under a name; one's own of the same name takes it on.
func (s *Store) KeepView(ctx context.Context, tx *db.Tx, v View) (id int64, err error) {
	v.Name = strings.Join(strings.Fields(v.Name), " ")
	switch {
	case v.Name == "" || len(v.Name) > 60:
		return 0, refusal.In("name", "Give the view a name of up to 60 characters.")
	case len(v.Address) > 8000:
		return 0, refusal.In("name", "This view is too long to be kept").But("leave some conditions or columns away")
	}
	var n int
	if err := tx.GetContext(ctx, &n,
		`SELECT count(*) FROM kept_view WHERE by_id = $1 AND COALESCE(round_id, 0) = $2 AND ended_at IS NULL AND name <> $3`,
		tx.By.ID, v.Round, v.Name); err != nil {
		return 0, err
	}
	if n >= MostViews {
		return 0, refusal.In("name", "You keep 40 views here already").But("take one away first")
	}
	err = tx.GetContext(ctx, &id, `
		INSERT INTO kept_view (round_id, by_id, name, shared, address, kept_at) VALUES (NULLIF(@round, 0), @by, @name, @shared, @address, @at)
		ON CONFLICT (COALESCE(round_id, 0), by_id, name) WHERE ended_at IS NULL DO UPDATE SET shared = @shared, address = @address, kept_at = @at RETURNING id`,
		db.Named{"round": v.Round, "by": tx.By.ID, "name": v.Name, "shared": v.Shared, "address": v.Address, "at": tx.At})
	return id, err
}

// DropView takes a view of one's own away.
func (s *Store) DropView(ctx context.Context, tx *db.Tx, id int64) error {
	return one(tx.ExecContext(ctx, `UPDATE kept_view SET ended_at = $3 WHERE id = $1 AND by_id = $2 AND ended_at IS NULL`,
		id,
		tx.By.ID, tx.At))
}

// BringViewBack undoes DropView.
func (s *Store) BringViewBack(ctx context.Context, tx *db.Tx, id int64) error {
	return one(tx.ExecContext(ctx, `
		UPDATE kept_view v SET ended_at = NULL WHERE id = $1 AND by_id = $2 AND ended_at IS NOT NULL
		  AND NOT EXISTS (SELECT FROM kept_view o WHERE o.by_id = v.by_id AND o.name = v.name AND COALESCE(o.round_id, 0) = COALESCE(v.round_id, 0) AND o.ended_at IS NULL)`,
		id, tx.By.ID))
}
