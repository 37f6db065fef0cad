package material

import (
	"context"
	"log/slog"
	"time"

	"ulvant/core/slot"
	"ulvant/internal/platform/db"
)

// scan has a file looked through for viruses, where somebody does that. While the
// scanner does not answer it waits: it counts, and is shown to nobody else.
func (s *Store) scan(ctx context.Context, f File) slot.Scan {
	if !s.Scans.On() {
		return slot.NotScanned
	}
	found, err := s.Scans.File(ctx, s.Files.Path(f.SHA256))
	switch {
	case err != nil:
		slog.Warn("a file waits for the scanner", "file", f.ID, "error", err)
		return slot.ToScan
	case found != "":
		slog.Warn("a virus was found", "file", f.ID, "virus", found)
		return slot.Infected
	}
	return slot.Scanned
}

// sweepUnscanned has those looked through that waited for it, oldest first, until the
// scanner does not answer once more.
func (s *Store) sweepUnscanned(ctx context.Context, at time.Time) error {
	var list []File
	if err := s.DB.SelectContext(ctx, &list,
		`SELECT `+columns+` FROM material WHERE scan = 'waiting' AND sha256 <> '' ORDER BY id LIMIT 500`); err != nil {
		return err
	}
	for _, f := range list {
		looked := s.scan(ctx, f)
		if looked == slot.ToScan {
			return nil
		}
		err := s.DB.Do(ctx, db.Actor{Kind: f.ByKind, ID: f.ByID}, at, func(ctx context.Context, tx *db.Tx) error {
			if looked == slot.Infected {
				f.State, f.Finding = slot.Refused, slot.Virus
			}
			if _, err := tx.ExecContext(ctx, `UPDATE material SET scan = $2, state = $3, finding = $4 WHERE id = $1`, f.ID,
				looked, f.State, f.Finding); err != nil || looked != slot.Infected || f.EntryID == nil {
				return err
			}
			c, err := s.Cases.ByEntry(ctx, tx, *f.EntryID)
			if err != nil {
				return err
			}
			return s.tell(ctx, tx, c, f)
		})
		if err != nil {
			return err
		}
	}
	return nil
}
