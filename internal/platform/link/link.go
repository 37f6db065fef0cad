// Package link makes personal links. A token is derived again whenever a mail
// is made, HMAC-SHA-256(server key, purpose:id:generation), and never stored;
// only its hash is looked up. Raising the generation revokes it.
package link

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"database/sql"
	"encoding/base64"
	"errors"
	"fmt"
	"time"

	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
)

// Purpose of a link; also the first part of its address.
type Purpose string

// The purposes.
const (
	Confirm Purpose = "confirm" // subject: account
	Referee Purpose = "letter"  // subject: referee
	Reader  Purpose = "reader"  // subject: account
	Reset   Purpose = "reset"   // subject: account
	Address Purpose = "address" // subject: account
	Lasting Purpose = "lasting" // subject: account, whose second address it went to
	Texts   Purpose = "texts"   // subject: account, whose number it went to
	Officer Purpose = "officer" // subject: officer of a profile
	Sponsor Purpose = "sponsor" // subject: what a sponsoring body was asked
	Enter   Purpose = "enter"   // subject: account that was held out
	Payer   Purpose = "pay"     // subject: somebody asked to pay a fee
	Role    Purpose = "role"    // subject: invitation to a role at the office
	Team    Purpose = "team"    // subject: invitation to a part in an application
)

// Link is a link that was looked up.
type Link struct {
	ID         int64
	Purpose    Purpose
	Subject    int64
	Generation int
	ExpiresAt  time.Time  `db:"expires_at"`
	UsedAt     *time.Time `db:"used_at"`
	Next       string     // where its use leads on to, an address of this site; "" for the usual place
}

const columns = `id, purpose, subject, generation, expires_at, used_at, next`

// ErrUnknown: no such link, or a revoked one; ErrExpired: its time is over;
// ErrUsed: it works once and was used.
var (
	ErrUnknown = refusal.Missing("this link is not one of ours, or a newer one has taken its place").But("look for the latest mail")
	ErrExpired = refusal.Over("this link has run out").But("sign in, or ask for a new one")
	ErrUsed    = refusal.Over("this link was used already").But("sign in, or ask for a new one")
)

// Maker derives tokens from the server's key.
type Maker struct{ Key []byte }

func (m Maker) token(p Purpose, id int64, generation int) string {
	h := hmac.New(sha256.New, m.Key)
	fmt.Fprintf(h, "link:%s:%d:%d", p, id, generation)
	return base64.RawURLEncoding.EncodeToString(h.Sum(nil)[:24])
}

func hash(token string) []byte {
	h := sha256.Sum256([]byte(token))
	return h[:]
}

// Issue makes the subject's link, or replaces it by a new generation: earlier
// ones no longer work.
func (m Maker) Issue(ctx context.Context, tx *db.Tx, p Purpose, subject int64, life time.Duration) (id int64,
	err error) {
	return m.IssueOn(ctx, tx, p, subject, life, "")
}

// IssueOn is Issue for a link whose use leads on to next, an address of this site.
func (m Maker) IssueOn(ctx context.Context, tx *db.Tx, p Purpose, subject int64, life time.Duration,
	next string) (id int64, err error) {
	var gen int
	err = tx.QueryRowxContext(ctx, `
		INSERT INTO link (purpose, subject, token_hash, created_at, expires_at, next) VALUES (@purpose, @subject, @token_hash, @created_at, @expires_at, @next)
		ON CONFLICT (purpose, subject) DO UPDATE SET generation = link.generation + 1, created_at = @created_at, expires_at = @expires_at, used_at = NULL, next = @next
		RETURNING id, generation`, db.Named{"purpose": p, "subject": subject, "token_hash": hash(fmt.Sprintf("%s:%d:%d", p, subject, tx.At.UnixNano())), "created_at": tx.At, "expires_at": tx.At.Add(life),
		"next": next}).Scan(&id, &gen)
	if err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx, `UPDATE link SET token_hash = $2 WHERE id = $1`, id, hash(m.token(p, id, gen)))
	return id, err
}

// PathOf is the address of a link whose row is at hand.
func (m Maker) PathOf(p Purpose, id int64, generation int) string {
	return "/" + string(p) + "/" + m.token(p, id, generation)
}

// Path derives the address of a link again.
func (m Maker) Path(ctx context.Context, q db.Querier, id int64) (string, error) {
	var l Link
	if err := q.GetContext(ctx, &l,
		`SELECT `+columns+` FROM link WHERE id = $1`, id); err != nil {
		return "", err
	}
	return m.PathOf(l.Purpose, l.ID, l.Generation), nil
}

// Find looks a token up.
func (m Maker) Find(ctx context.Context, q db.Querier, p Purpose, token string, at time.Time) (Link, error) {
	var l Link
	err := q.GetContext(ctx, &l,
		`SELECT `+columns+` FROM link WHERE token_hash = $1 AND purpose = $2`, hash(token), p)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return l, ErrUnknown
	case err != nil:
		return l, err
	case !at.Before(l.ExpiresAt):
		return l, ErrExpired
	}
	return l, nil
}

// Use marks a link used; ErrUsed when it was before.
func (m Maker) Use(ctx context.Context, tx *db.Tx, id int64) error {
	r, err := tx.ExecContext(ctx, `UPDATE link SET used_at = $2 WHERE id = $1 AND used_at IS NULL`, id, tx.At)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return ErrUsed
	}
	return nil
}

// Revoke ends the links of a subject: they are ones we do not know from then on.
func (m Maker) Revoke(ctx context.Context, tx *db.Tx, subject int64, purposes ...Purpose) error {
	for _, p := range purposes {
		if _, err := tx.ExecContext(ctx, `DELETE FROM link WHERE purpose = $1 AND subject = $2`, p, subject); err != nil {
			return err
		}
	}
	return nil
}

// RevokeOpen ends the links of a subject that were not used; a used one goes on
// saying that it was.
func (m Maker) RevokeOpen(ctx context.Context, tx *db.Tx, subject int64, purposes ...Purpose) error {
	for _, p := range purposes {
		if _, err := tx.ExecContext(ctx, `DELETE FROM link WHERE purpose = $1 AND subject = $2 AND used_at IS NULL`, p,
			subject); err != nil {
			return err
		}
	}
	return nil
}

// Of finds the id of a subject's link; 0 when it has none.
func (m Maker) Of(ctx context.Context, q db.Querier, p Purpose, subject int64) (id int64, err error) {
	err = q.GetContext(ctx, &id, `SELECT id FROM link WHERE purpose = $1 AND subject = $2`, p, subject)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, nil
	}
	return id, err
}
