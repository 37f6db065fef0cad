package material

import (
	"context"
	"time"

	"github.com/lib/pq"

	"ulvant/core/slot"
	"ulvant/internal/platform/db"
)

// abandoned is how long an upload in one piece, or an inspection, may stand still.
const abandoned = 10 * time.Minute

// Sweep looks again at files whose inspection was cut off, and gives up on
// uploads that never arrived: those in one piece after some minutes, those in
// several when their life is over.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	if err := s.sweepReplaced(ctx, at); err != nil {
		return err
	}
	if err := s.sweepErased(ctx); err != nil {
		return err
	}
	if err := s.sweepShelf(ctx, at); err != nil {
		return err
	}
	var list []File
	if err := s.DB.SelectContext(ctx, &list, `
		SELECT `+columns+` FROM material
		WHERE state IN ('uploading', 'inspecting') AND at < $1 AND removed_at IS NULL
		  AND (state = 'inspecting' OR upload = '' OR arrived_at < $2)`, at.Add(-abandoned), at.Add(-s.Life)); err != nil {
		return err
	}
	for _, f := range list {
		if f.State == slot.Inspecting {
			if err := s.lookAgain(ctx, at, f); err != nil {
				return err
			}
		} else if err := s.lapse(ctx, at, f); err != nil {
			return err
		}
	}
	if err := s.sweepUnscanned(ctx, at); err != nil {
		return err
	}
	return s.sweepParts(ctx)
}

// lapse gives up on a file that has not arrived, and says so beside its slot.
func (s *Store) lapse(ctx context.Context, at time.Time, f File) error {
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		if _, err := tx.ExecContext(ctx,
			`UPDATE material SET state = 'refused', finding = 'unfinished', hashing = NULL WHERE id = $1`, f.ID); err != nil ||
			f.EntryID == nil {
			return err
		}
		c, err := s.Cases.ByEntry(ctx, tx, *f.EntryID)
		if err == nil {
			_, err = s.Cases.Refresh(ctx, tx, c)
		}
		return err
	})
}

// sweepParts deletes parts of files that nobody waits for any more.
func (s *Store) sweepParts(ctx context.Context) error {
	names, err := s.Files.Parts()
	if err != nil || len(names) == 0 {
		return err
	}
	var gone []string
	if err := s.DB.SelectContext(ctx, &gone, `
		SELECT part FROM unnest($1::text[]) part WHERE NOT EXISTS (
		  SELECT FROM material m WHERE m.upload = part AND m.upload <> '' AND m.state = 'uploading' AND m.removed_at IS NULL)`,
		pq.StringArray(names)); err != nil {
		return err
	}
	for _, name := range gone {
		if err := s.Files.Drop(name); err != nil {
			return err
		}
	}
	return nil
}

// sweepErased deletes the bytes of erased files that nothing else holds.
func (s *Store) sweepErased(ctx context.Context) error {
	var sums []string
	if err := s.DB.SelectContext(ctx, &sums, `
		SELECT DISTINCT m.sha256 FROM material m WHERE m.name = '' AND m.removed_at IS NOT NULL AND m.sha256 <> ''
		  AND NOT EXISTS (SELECT FROM material o WHERE o.sha256 = m.sha256 AND o.name <> '')
		  AND NOT EXISTS (SELECT FROM shelved s WHERE s.sha256 = m.sha256)
		  AND NOT EXISTS (SELECT FROM guidance_version g WHERE m.sha256 IN (g.sha256, g.original))`); err != nil {
		return err
	}
	for _, sum := range sums {
		if err := s.Files.Remove(sum); err != nil {
			return err
		}
		if err := s.unmake(ctx, sum); err != nil {
			return err
		}
		if _, err := s.DB.ExecContext(ctx, `UPDATE material SET sha256 = '' WHERE sha256 = $1 AND name = ''`,
			sum); err != nil {
			return err
		}
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
