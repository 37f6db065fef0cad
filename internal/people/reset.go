package people

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// resetLife is how long a link for a new password works.
const resetLife = time.Hour

// Forgot sends a link for a new password to the owner of an address. To an
// address without an account nothing goes, and whoever asked learns neither.
func (s *Store) Forgot(ctx context.Context, tx *db.Tx, email string) error {
	a, err := byEmail(ctx, tx, Fold(email))
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	if err != nil {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Reset, a.ID, resetLife)
	if err != nil {
		return err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "reset", Account: a.ID, To: a.Email, ToName: a.Name, Link: l,
		Subject: "A new password", Body: "Dear " + a.Name + ",\n\nsomebody, probably you, asked for a new password. Press this link to choose one:\n\n" + post.LinkMark +
			"\n\nIt works once, within " + life(resetLife) + ". If it was not you, do nothing: your password stays as it is.\n"})
	return err
}

// Reset gives an account a new password by its link, and ends every session it
// has: whoever knew the old one is out. The link has reached the address, so
// the address is confirmed by it.
func (s *Store) Reset(ctx context.Context, tx *db.Tx, l link.Link, hash string) (Account, error) {
	if err := s.Links.Use(ctx, tx, l.ID); err != nil {
		return Account{}, err
	}
	if err := s.change(ctx, tx, l.Subject, hash); err != nil {
		return Account{}, err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM session WHERE account_id = $1`, l.Subject); err != nil {
		return Account{}, err
	}
	return s.Find(ctx, tx, l.Subject)
}

// ChangePassword gives an account a new password and ends its other sessions.
func (s *Store) ChangePassword(ctx context.Context, tx *db.Tx, account int64, hash, token string) error {
	if err := s.change(ctx, tx, account, hash); err != nil {
		return err
	}
	return s.EndOthers(ctx, tx, account, token)
}

func (s *Store) change(ctx context.Context, tx *db.Tx, account int64, hash string) error {
	_, err := tx.ExecContext(ctx, `UPDATE account SET password_hash = $2, confirmed_at = COALESCE(confirmed_at, $3) WHERE id = $1`, account, hash, tx.At)
	return err
}

// EndOthers ends every session of an account but the one of a token.
func (s *Store) EndOthers(ctx context.Context, tx *db.Tx, account int64, token string) error {
	_, err := tx.ExecContext(ctx, `DELETE FROM session WHERE account_id = $1 AND token_hash <> $2`, account, hash(token))
	return err
}

// Signed is one session of an account.
type Signed struct {
	Since   time.Time `db:"created_at"`
	Until   time.Time `db:"expires_at"`
	Current bool
}

// Sessions lists those of an account, the latest first.
func (s *Store) Sessions(ctx context.Context, account int64, token string, at time.Time) (out []Signed, err error) {
	err = s.DB.SelectContext(ctx, &out, `
		SELECT created_at, expires_at, token_hash = $2 AS current FROM session WHERE account_id = $1 AND expires_at > $3 ORDER BY created_at DESC`, account, hash(token), at)
	return out, err
}
