package material

import (
	"context"
	"strconv"
	"time"

	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/platform/db"
)

// room sees to it that a file fits into the quotas of its slot, its application
// and the person, and holds them until the transaction ends, so that files sent
// at once do not fit one by one. What was replaced or taken out counts until it
// is swept.
func (s *Store) room(ctx context.Context, tx *db.Tx, o Owner, by db.Actor, size int64) error {
	if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(hashtext('material'), hashtext($1))`,
		by.Kind+":"+strconv.FormatInt(by.ID, 10)); err != nil {
		return err
	}
	var have struct{ Slot, Application, Person int64 }
	if err := tx.GetContext(ctx, &have, `
		SELECT COALESCE((SELECT sum(size) FROM material WHERE entry_id = $1 AND slot = $2 AND name <> ''), 0)
		     + COALESCE((SELECT sum(size) FROM material WHERE referee_id = $3 AND name <> ''), 0) AS slot,
		       COALESCE((SELECT sum(m.size) FROM material m JOIN entry e ON e.id = m.entry_id
		                 WHERE e.application_id = (SELECT application_id FROM entry WHERE id = $1) AND m.name <> ''), 0) AS application,
		       COALESCE((SELECT sum(size) FROM material WHERE by_kind = $4 AND by_id = $5 AND name <> ''), 0) AS person`,
		o.Entry, o.Slot, o.Referee, by.Kind, by.ID); err != nil {
		return err
	}
	if q, full := slot.Full(have.Slot, have.Application, have.Person, size); full {
		return refusal.New(say.NoRoom(q))
	}
	return nil
}

// keptReplaced is how long a file that was replaced or taken out can still be
// brought back, where it was never sent.
const keptReplaced = 24 * time.Hour

// sweepReplaced erases files that were replaced or taken out of an application
// that was never sent; what was sent stays with its seal.
func (s *Store) sweepReplaced(ctx context.Context, at time.Time) error {
	_, err := s.DB.ExecContext(ctx, `
		UPDATE material m SET name = '' FROM entry e WHERE e.id = m.entry_id AND e.seal_id IS NULL AND m.removed_at < $1 AND m.name <> ''`, at.Add(-keptReplaced))
	return err
}
