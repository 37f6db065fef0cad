package application

import (
	"context"
	"encoding/json"

	"ulvant/internal/platform/db"
)

// Sealed reads a seal. The office and readers read seals, never live answers.
func (s *Store) Sealed(ctx context.Context, q db.Querier, id int64) (Seal, error) {
	var out Seal
	if err := q.GetContext(ctx, &out, `SELECT id, entry_id, at, document, sha256, signature FROM seal WHERE id = $1`,
		id); err != nil {
		return out, err
	}
	return out, json.Unmarshal(out.Document, &out.Decoded)
}
