package people

import (
	"context"
	"time"

	"ulvant/core/say"
	"ulvant/internal/platform/db"
)

// keptFor is how long events about the safety of accounts are kept.
const keptFor = 400 * 24 * time.Hour

// Event is something that touched the safety of an account.
type Event struct {
	Account int64 `db:"account_id"`
	Name    string
	Email   string
	At      time.Time
	What    say.Security
	Client  string // network address it came from, "" when it was nobody's request
}

// note keeps an event in the transaction of what caused it.
func (s *Store) note(ctx context.Context, tx *db.Tx, account int64, what say.Security) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO security_event (account_id, at, what, client) VALUES ($1, $2, $3, $4)`,
		account, tx.At, what, tx.By.From)
	return err
}

// Note keeps an event that has no transaction of its own, such as a wrong
// password; account 0 is nobody's and keeps nothing.
func (s *Store) Note(ctx context.Context, by db.Actor, at time.Time, account int64, what say.Security) error {
	if account == 0 {
		return nil
	}
	return s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error { return s.note(ctx, tx, account, what) })
}

// Events lists the latest of one account, or of all when account is 0.
func (s *Store) Events(ctx context.Context, account int64, most int) (out []Event, err error) {
	err = s.DB.SelectContext(ctx, &out, `
		SELECT e.account_id, a.name, a.email, e.at, e.what, e.client FROM security_event e JOIN account a ON a.id = e.account_id
		WHERE $1 = 0 OR e.account_id = $1 ORDER BY e.id DESC LIMIT $2`, account, most)
	return out, err
}

// SweepEvents forgets events that are older than they are kept.
func (s *Store) SweepEvents(ctx context.Context, at time.Time) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM security_event WHERE at < $1`, at.Add(-keptFor))
	return err
}
