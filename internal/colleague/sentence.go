package colleague

import (
	"context"
	"strings"

	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
)

// Of what a kept sentence is: why a rule is met or not, or what an applicant is asked.
const (
	OfSettling = "settle"
	OfQuery    = "query"
)

// MostSentence is how long a kept sentence may be, in bytes.
const MostSentence = 1000

// Sentence of the office’s own, kept to be used again.
type Sentence struct {
	ID   int64
	Kind string
	Text string
	By   string
	Used int
}

// Sentences of a kind, those used most first.
func (s *Store) Sentences(ctx context.Context, q db.Querier, kind string) (out []Sentence, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT s.id, s.kind, s.text, s.used, p.name AS by FROM sentence s JOIN account p ON p.id = s.by_id
		WHERE s.kind = $1 AND s.ended_at IS NULL ORDER BY s.used DESC, s.id LIMIT 60`, kind)
	return out, err
}

// UseSentence counts a use of a text, and keeps it where keep says so and it is not
// kept yet.
func (s *Store) UseSentence(ctx context.Context, tx *db.Tx, kind, text string, keep bool) error {
	text = strings.TrimSpace(text)
	if text == "" {
		return nil
	}
	if keep {
		if len(text) > MostSentence {
			return refusal.In("keep", "It is too long to be kept as a sentence; up to 1,000 characters are.")
		}
		_, err := tx.ExecContext(ctx, `
			INSERT INTO sentence (kind, text, by_id, at, used) VALUES ($1, $2, $3, $4, 1)
			ON CONFLICT (kind, text) WHERE ended_at IS NULL DO UPDATE SET used = sentence.used + 1`, kind, text, tx.By.ID, tx.At)
		return err
	}
	_, err := tx.ExecContext(ctx,
		`UPDATE sentence SET used = used + 1 WHERE kind = $1 AND text = $2 AND ended_at IS NULL`, kind, text)
	return err
}

// DropSentence takes one out of the stock; what was written with it stays.
func (s *Store) DropSentence(ctx context.Context, tx *db.Tx, id int64) error {
	_, err := tx.ExecContext(ctx, `UPDATE sentence SET ended_at = $2 WHERE id = $1 AND ended_at IS NULL`, id, tx.At)
	return err
}
