package people

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"ulvant/core/say"
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
	to := a.Email
	if errors.Is(err, sql.ErrNoRows) { // the first may be gone
		a, err = byLasting(ctx, tx, Fold(email))
		to = a.Lasting
	}
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
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "reset", Account: a.ID, To: to, ToName: a.Name, Link: l,
		Subject: "A new password", Body: "Dear " + a.Name +
			",\n\nsomebody, probably you, asked for a new password. Press this link to choose one:\n\n" + post.LinkMark +
			"\n\nIt works once, within " + say.Lasts(resetLife) + ". If it was not you, do nothing: your password stays as it is.\n"})
	return err
}

// Reset gives an account a new password by its link, and ends every session it
// has: whoever knew the old one is out. The link has reached the address, so
// the address is confirmed by it.
func (s *Store) Reset(ctx context.Context, tx *db.Tx, l link.Link, hash string) (Account, error) {
	if err := s.Links.Use(ctx, tx, l.ID); err != nil {
		return Account{}, err
	}
	if err := s.change(ctx, tx, l.Subject, hash, say.PasswordReset); err != nil {
		return Account{}, err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM session WHERE account_id = $1`, l.Subject); err != nil {
		return Account{}, err
	}
	return s.Find(ctx, tx, l.Subject)
}

// ChangePassword gives an account a new password and ends its other sessions.
func (s *Store) ChangePassword(ctx context.Context, tx *db.Tx, account int64, hash, token string) error {
	if err := s.change(ctx, tx, account, hash, say.PasswordChanged); err != nil {
		return err
	}
	return s.endOthers(ctx, tx, account, token)
}

// change sets a password and ends whatever somebody who knew the old one may
// have begun: a change of address, a confirmation, a reset, a link to sign in.
func (s *Store) change(ctx context.Context, tx *db.Tx, account int64, hash string, what say.Security) error {
	if _, err := tx.ExecContext(ctx,
		`UPDATE account SET password_hash = $2, new_email = '', confirmed_at = COALESCE(confirmed_at, $3) WHERE id = $1`,
		account, hash, tx.At); err != nil {
		return err
	}
	if err := s.Links.RevokeOpen(ctx, tx, account, link.Address, link.Confirm, link.Reset, link.Enter,
		link.Lasting); err != nil {
		return err
	}
	return s.note(ctx, tx, account, what)
}

// EndOthers ends every session of an account but the one of a token.
func (s *Store) EndOthers(ctx context.Context, tx *db.Tx, account int64, token string) error {
	if err := s.endOthers(ctx, tx, account, token); err != nil {
		return err
	}
	return s.note(ctx, tx, account, say.SessionsEnded)
}

func (s *Store) endOthers(ctx context.Context, tx *db.Tx, account int64, token string) error {
	_, err := tx.ExecContext(ctx, `DELETE FROM session WHERE account_id = $1 AND token_hash <> $2`, account, hash(token))
	return err
}

// Signed is one session of an account.
type Signed struct {
	Since   time.Time `db:"created_at"`
	Seen    time.Time `db:"seen_at"` // when it was last used, to the minute
	Until   time.Time `db:"expires_at"`
	Current bool
}

// Sessions lists those of an account, the latest first.
func (s *Store) Sessions(ctx context.Context, account int64, token string, at time.Time) (out []Signed, err error) {
	err = s.DB.SelectContext(ctx, &out, `
		SELECT created_at, seen_at, expires_at, token_hash = $2 AS current FROM session
		WHERE account_id = $1 AND expires_at > $3 AND seen_at > $4 ORDER BY created_at DESC`, account, hash(token), at, at.Add(-s.SessionIdle))
	return out, err
}

// enterLife is how long a link to sign in works.
const enterLife = 30 * time.Minute

// SendEnter sends a link to sign in to somebody who is held out by too many
// wrong tries. To an address without a confirmed account nothing goes.
func (s *Store) SendEnter(ctx context.Context, tx *db.Tx, email string) error {
	a, err := byEmail(ctx, tx, Fold(email))
	if errors.Is(err, sql.ErrNoRows) || err == nil && a.ConfirmedAt == nil {
		return nil
	}
	if err != nil {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Enter, a.ID, enterLife)
	if err != nil {
		return err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "enter", Account: a.ID, To: a.Email, ToName: a.Name, Link: l,
		Subject: "A link to sign in", Body: "Dear " + a.Name +
			",\n\nsomebody, probably you, was held out after too many wrong passwords and asked for a link to sign in. Press it:\n\n" + post.LinkMark +
			"\n\nIt works once, within " + say.Lasts(enterLife) + ". If it was not you, do nothing; nobody gets in without it.\n"})
	return err
}

// Enter uses a link to sign in. The second factor is asked for after it.
func (s *Store) Enter(ctx context.Context, tx *db.Tx, l link.Link) (Account, error) {
	if err := s.Links.Use(ctx, tx, l.ID); err != nil {
		return Account{}, err
	}
	if err := s.note(ctx, tx, l.Subject, say.EnteredByMail); err != nil {
		return Account{}, err
	}
	return s.Find(ctx, tx, l.Subject)
}
