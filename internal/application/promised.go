package application

import (
	"context"
	"encoding/json"
	"slices"
	"time"

	"ulvant/core/form"
	"ulvant/core/seal"
	"ulvant/internal/platform/db"
)

// Promised is an answer that was to follow after sending, and what came of it.
type Promised struct {
	EntryID  int64 `db:"entry_id"`
	Question form.Key
	DueAt    time.Time  `db:"due_at"`
	CameAt   *time.Time `db:"came_at"`
	Answers  *json.RawMessage
	Files    *json.RawMessage
	LapsedAt *time.Time `db:"lapsed_at"`
}

// Open reports a promise that is neither kept nor over at a moment.
func (p Promised) Open(at time.Time) bool { return p.CameAt == nil && at.Before(p.DueAt) }

// Came are the answers that came, in the order of their places; nil for none.
func (p Promised) Came() (out []seal.Answer) {
	if p.Answers != nil && json.Unmarshal(*p.Answers, &out) == nil {
		return out
	}
	return nil
}

// CameFiles are the files that came; nil for none.
func (p Promised) CameFiles() (out []seal.File) {
	if p.Files != nil && json.Unmarshal(*p.Files, &out) == nil {
		return out
	}
	return nil
}

const promisedColumns = `entry_id, question, due_at, came_at, answers, files, lapsed_at`

// Promised lists what was promised of an entry, by its date.
func (s *Store) Promised(ctx context.Context, q db.Querier, entry int64) (out []Promised, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT `+promisedColumns+` FROM promised WHERE entry_id = $1 ORDER BY due_at, question`, entry)
	return out, err
}

// Promise keeps what was promised when an entry was sent; sent anew, what is no
// longer promised goes, and what came before stays.
func (s *Store) Promise(ctx context.Context, tx *db.Tx, entry int64, list []form.Promise) error {
	keys := make([]string, len(list))
	for i, p := range list {
		keys[i] = string(p.Question)
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO promised (entry_id, question, due_at) VALUES ($1, $2, $3)
			ON CONFLICT (entry_id, question) DO UPDATE SET due_at = $3`, entry, p.Question, p.Due); err != nil {
			return err
		}
	}
	_, err := tx.ExecContext(ctx, `DELETE FROM promised WHERE entry_id = $1 AND NOT question = ANY($2)`, entry, keys)
	return err
}

// Kept records that what was promised has come.
func (s *Store) Kept(ctx context.Context, tx *db.Tx, entry int64, question form.Key, answers []seal.Answer,
	files []seal.File) error {
	raw, err := json.Marshal(answers)
	if err != nil {
		return err
	}
	papers, err := json.Marshal(files)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		UPDATE promised SET came_at = @at, answers = @answers, files = @files, by_id = @by, lapsed_at = NULL WHERE entry_id = @entry AND question = @question`,
		db.Named{"entry": entry, "question": question, "answers": string(raw), "files": string(papers), "at": tx.At,
			"by": tx.By.ID})
	return err
}

// Now is a case's seal as it is read now: what came of what was promised stands
// in place of the promise. The sealed document itself stays as it was signed.
func (s *Store) Now(ctx context.Context, q db.Querier, id int64) (Seal, error) {
	out, err := s.Sealed(ctx, q, id)
	if err != nil {
		return out, err
	}
	list, err := s.Promised(ctx, q, out.EntryID)
	if err != nil {
		return out, err
	}
	for _, p := range list {
		if p.CameAt != nil {
			d := &out.Decoded
			d.Answers = slices.DeleteFunc(d.Answers, func(a seal.Answer) bool { return a.Question == p.Question })
			d.Answers = append(d.Answers, p.Came()...)
			d.Files = append(d.Files, p.CameFiles()...)
		}
	}
	return out, nil
}

// TellPromised records that somebody is told that a promise is nearly due, or
// over; first is false when they were told, or it came, before.
func (s *Store) TellPromised(ctx context.Context, tx *db.Tx, p Promised, over bool) (first bool, err error) {
	mark := `UPDATE promised SET reminded_at = $3 WHERE entry_id = $1 AND question = $2 AND came_at IS NULL AND reminded_at IS NULL`
	if over {
		mark = `UPDATE promised SET lapsed_at = $3 WHERE entry_id = $1 AND question = $2 AND came_at IS NULL AND lapsed_at IS NULL`
	}
	r, err := tx.ExecContext(ctx, mark, p.EntryID, p.Question, tx.At)
	if err != nil {
		return false, err
	}
	n, err := r.RowsAffected()
	return n == 1, err
}
