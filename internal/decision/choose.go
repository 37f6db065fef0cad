package decision

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/work"
	"ulvant/internal/round"
)

// Choose keeps what the panel has chosen for cases, before it is recorded: the
// order is longer than a page, and more than one person may sit at it. An empty
// outcome leaves a case out of the next act.
func (s *Store) Choose(ctx context.Context, tx *db.Tx, r round.Round, choices []Choice) error {
	for _, ch := range choices {
		res, err := tx.ExecContext(ctx, `
			INSERT INTO choice (entry_id, outcome, amount, by_id, at)
			SELECT e.id, $3, $4, $5, $6 FROM entry e JOIN application a ON a.id = e.application_id WHERE e.id = $1 AND a.round_id = $2
			ON CONFLICT (entry_id) DO UPDATE SET outcome = $3, amount = $4, by_id = $5, at = $6`, ch.EntryID, r.ID, ch.Outcome, max(ch.Amount, 0), tx.By.ID, tx.At)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return application.ErrNotFound
		}
	}
	return nil
}

// Chosen is all that would be recorded now: what is chosen, and what the order
// offers where nobody has chosen.
func (t Table) Chosen() (out []Choice) {
	for i, c := range t.Cases() {
		if c.Chosen == "" || c.State.Decided() && c.Chosen == c.State && (!c.State.Is(lifecycle.Gives) || c.Amount == c.Recorded) {
			continue
		}
		out = append(out, Choice{t.Rows[i].EntryID, t.Rows[i].Version, c.Chosen, c.Amount})
	}
	return out
}

// Seen is a fingerprint of what would be recorded now: somebody records what
// they have seen, on however many pages.
func (t Table) Seen() string {
	h := sha256.New()
	fmt.Fprint(h, t.Chosen())
	return hex.EncodeToString(h.Sum(nil)[:8])
}

// later is the job that records many decisions.
type later struct {
	round.Long
	Stage   form.Key `json:"stage"`
	Note    string   `json:"note"`
	Reason  string   `json:"reason"`
	Choices []Choice `json:"choices"`
}

// Kind names the job.
func (later) Kind() string { return "long.decide" }

// RecordLater records many decisions by a job; id is that of the work.
func (s *Store) RecordLater(ctx context.Context, tx *db.Tx, r round.Round, sit Sitting) (id int64, err error) {
	l, err := s.Later.Begin(ctx, tx, work.Deciding, r, len(sit.Choices))
	if err != nil {
		return 0, err
	}
	return l.Work, s.Jobs.Enqueue(ctx, tx, later{l, sit.Stage, sit.Note, sit.Reason, sit.Choices}, tx.At)
}

// Register takes up the job.
func (s *Store) Register() {
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, l later) error {
		return s.Later.Do(ctx, at, l.Long, func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, reached func(int)) (string, error) {
			_, err := s.Record(ctx, tx, r, f, Sitting{l.Stage, l.Choices, l.Note, l.Reason, reached})
			return fmt.Sprintf("%d decisions are recorded.", len(l.Choices)), err
		})
	})
}
