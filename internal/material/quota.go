package material

import (
	"context"
	"strconv"

	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/platform/db"
)

// room sees to it that a file fits into the quotas of its slot, its application
// and the person, and holds them until the transaction ends, so that files sent
// at once do not fit one by one. In a person's, what was replaced or taken out
// counts until it is swept.
func (s *Store) room(ctx context.Context, tx *db.Tx, o Owner, by db.Actor, size int64) error {
	if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(hashtext('material'), hashtext($1))`,
		by.Kind+":"+strconv.FormatInt(by.ID, 10)); err != nil {
		return err
	}
	var have struct{ Slot, Application, Person int64 }
	if err := tx.GetContext(ctx, &have, `
		SELECT COALESCE((SELECT sum(size) FROM material WHERE entry_id = @entry AND slot = @slot AND removed_at IS NULL AND NOT @instead), 0)
		     + COALESCE((SELECT sum(size) FROM material WHERE referee_id = @referee AND name <> ''), 0) AS slot,
		       COALESCE((SELECT sum(m.size) FROM material m JOIN entry e ON e.id = m.entry_id
		                 WHERE e.application_id = (SELECT application_id FROM entry WHERE id = @entry) AND m.removed_at IS NULL
		                   AND NOT (@instead AND m.entry_id = @entry AND m.slot = @slot AND m.state <> 'uploading')), 0) AS application,
		       COALESCE((SELECT sum(size) FROM material WHERE by_kind = @by_kind AND by_id = @by_id AND name <> ''), 0)
		     + COALESCE((SELECT sum(size) FROM shelved WHERE @by_kind = 'account' AND by_id = @by_id AND sha256 <> ''), 0) AS person`,
		db.Named{"entry": o.Entry, "slot": o.Slot, "referee": o.Referee, "instead": o.Instead, "by_kind": by.Kind,
			"by_id": by.ID}); err != nil {
		return err
	}
	if q, full := slot.Full(have.Slot, have.Application, have.Person, size); full {
		return refusal.New(say.NoRoom(q))
	}
	return nil
}
