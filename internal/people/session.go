package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"errors"
	"time"

	"ulvant/core/say"
	"ulvant/internal/platform/db"
)

// A session ends when its life is over, when nobody has used it for SessionIdle,
// or when it is ended. Its use is noted once a minute at most, so that a page
// that saves every second writes nothing more.
const seenEvery = time.Minute

// Begin a session and end the one it replaces; the token goes into a cookie,
// its hash into the table. sign marks a token as the server's own.
func (s *Store) Begin(ctx context.Context, tx *db.Tx, account int64, replaces string,
	sign func(string) string) (token string, expires time.Time, err error) {
	if err := s.End(ctx, tx, replaces); err != nil {
		return "", expires, err
	}
	token, expires = sign(rand.Text()+rand.Text()), tx.At.Add(s.SessionLife)
	if _, err = tx.ExecContext(ctx,
		`INSERT INTO session (token_hash, account_id, created_at, seen_at, expires_at) VALUES ($1, $2, $3, $3, $4)`,
		hash(token), account, tx.At, expires); err != nil {
		return token, expires, err
	}
	return token, expires, s.note(ctx, tx, account, say.SignedIn)
}

// End a session.
func (s *Store) End(ctx context.Context, tx *db.Tx, token string) error {
	_, err := tx.ExecContext(ctx, `DELETE FROM session WHERE token_hash = $1`, hash(token))
	return err
}

// Held is a session that a visitor holds at a moment: the arguments $1, $4 and
// $5 of Sessions. ($2 and $3 are left to who joins it.)
type Held struct {
	Hash          []byte
	At, IdleSince time.Time
}

// Held is what a token stands for at a time.
func (s *Store) Held(token string, at time.Time) Held {
	return Held{hash(token), at, at.Add(-s.SessionIdle)}
}

// Sessions are those that hold, as s, for a look-up that finds more at once.
const Sessions = `(SELECT account_id, seen_at FROM session WHERE token_hash = $1 AND expires_at > $4 AND seen_at > $5) s`

// Session finds whose session a token is; ok is false when it is nobody's.
func (s *Store) Session(ctx context.Context, token string, at time.Time) (a Account, ok bool, err error) {
	var row struct {
		Account
		SeenAt time.Time `db:"seen_at"`
	}
	held := s.Held(token, at)
	err = s.DB.GetContext(ctx, &row, `
		SELECT `+Columns+`, s.seen_at FROM session s JOIN account a ON a.id = s.account_id
		WHERE s.token_hash = $1 AND s.expires_at > $2 AND s.seen_at > $3`, held.Hash, held.At, held.IdleSince)
	if errors.Is(err, sql.ErrNoRows) {
		return a, false, nil
	}
	if err == nil {
		err = s.Seen(ctx, token, row.SeenAt, at)
	}
	return row.Account, err == nil, err
}

// Seen notes the use of a session that was last noted at a time.
func (s *Store) Seen(ctx context.Context, token string, before, at time.Time) (err error) {
	if at.Sub(before) >= seenEvery {
		_, err = s.DB.ExecContext(ctx, `UPDATE session SET seen_at = $2 WHERE token_hash = $1 AND seen_at < $2`, hash(token),
			at)
	}
	return err
}

// Goes reports whether a session still goes on, without noting a use of it: an
// event stream asks, and must not keep its own session alive.
func (s *Store) Goes(ctx context.Context, token string, at time.Time) (ok bool, err error) {
	err = s.DB.GetContext(ctx, &ok,
		`SELECT EXISTS (SELECT FROM session WHERE token_hash = $1 AND expires_at > $2 AND seen_at > $3)`, hash(token), at,
		at.Add(-s.SessionIdle))
	return ok, err
}

// Sweep forgets sessions that have run out.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM session WHERE expires_at <= $1 OR seen_at <= $2`, at,
		at.Add(-s.SessionIdle))
	return err
}

func hash(token string) []byte {
	h := sha256.Sum256([]byte(token))
	return h[:]
}
