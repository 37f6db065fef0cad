package decision

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
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
	entries, outcomes, amounts := make([]int64, len(choices)), make([]string, len(choices)), make([]int64, len(choices))
	gifts := make([]string, len(choices))
	for i, ch := range choices {
		entries[i], outcomes[i], amounts[i] = ch.EntryID, string(ch.Outcome), max(ch.Amount, 0)
		if ch.Gifts != nil {
			raw, err := json.Marshal(ch.Gifts)
			if err != nil {
				return err
			}
			gifts[i] = string(raw)
		}
	}
	res, err := tx.ExecContext(ctx, `
		INSERT INTO choice (entry_id, outcome, amount, gifts, by_id, at)
		SELECT e.id, n.outcome, n.amount, NULLIF(n.gifts, '')::jsonb, @by_id, @at
		FROM unnest(@entries::bigint[], @outcomes::text[], @amounts::bigint[], @gifts::text[]) AS n(entry, outcome, amount, gifts)
		JOIN entry e ON e.id = n.entry JOIN application a ON a.id = e.application_id AND a.round_id = @round
		ON CONFLICT (entry_id) DO UPDATE SET outcome = excluded.outcome, amount = excluded.amount, gifts = excluded.gifts, by_id = excluded.by_id, at = excluded.at`,
		db.Named{"by_id": tx.By.ID, "at": tx.At, "entries": entries, "outcomes": outcomes, "amounts": amounts, "gifts": gifts,
			"round": r.ID})
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); int(n) != len(choices) {
		return application.ErrNotFound
	}
	return nil
}

// Chosen is all that would be recorded now: what is chosen, and what the order
// offers where nobody has chosen.
func (t Table) Chosen() (out []Choice) {
	gifts := t.givenTo()
	for i, c := range t.Cases() {
		if c.Chosen == "" || c.State.Decided() && c.Chosen == c.State.Outcome() && !c.State.Back() &&
			(!c.State.Is(lifecycle.Gives) || c.Amount == c.Recorded && slices.Equal(gifts[i], t.recorded(t.Rows[i]))) {
			continue
		}
		out = append(out, Choice{EntryID: t.Rows[i].EntryID, Version: t.Rows[i].Version, Outcome: c.Chosen,
			Amount: c.Amount, Gifts: gifts[i]})
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
	Stage   form.Key  `json:"stage"`
	Note    string    `json:"note"`
	Reason  string    `json:"reason"`
	Choices []Choice  `json:"choices"`
	At      time.Time `json:"letters_at,omitzero"`
	Batch   int       `json:"batch,omitempty"`
}

// Kind names the job.
func (later) Kind() string { return "long.decide" }

// RecordLater records many decisions by a job; id is that of the work.
func (s *Store) RecordLater(ctx context.Context, tx *db.Tx, r round.Round, sit Sitting) (id int64, err error) {
	l, err := s.Later.Begin(ctx, tx, work.Deciding, r, len(sit.Choices))
	if err != nil {
		return 0, err
	}
	return l.Work, s.Jobs.Enqueue(ctx, tx, later{l, sit.Stage, sit.Note, sit.Reason, sit.Choices, sit.LettersAt,
		sit.Batch}, tx.At)
}

// Register takes up the job.
func (s *Store) Register() {
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, l later) error {
		return s.Later.Do(ctx, at, l.Long, func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form,
			reached func(int)) (string, error) {
			_, err := s.Record(ctx, tx, r, f, Sitting{l.Stage, l.Choices, l.Note, l.Reason, l.At, l.Batch, reached})
			return fmt.Sprintf("%d decisions are recorded.", len(l.Choices)), err
		})
	})
}
