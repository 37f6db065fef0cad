package people

import (
	"context"
	"database/sql"
	"errors"

	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// A second address lasts when the first one does not: a school's or an
// employer's ends with them. It is confirmed by a link of its own, is a way to a
// new password, and takes the mails that come back from the first. Nobody signs
// in with it, and several accounts may share one.

// Lasts reports a second address that was confirmed.
func (a Account) Lasts() bool { return a.Lasting != "" && a.LastingAt != nil }

// AskLasting begins with a second address, or ends with it when email is empty.
func (s *Store) AskLasting(ctx context.Context, tx *db.Tx, a Account, email string) error {
	email = Fold(email)
	if email == "" {
		if _, err := tx.ExecContext(ctx, `UPDATE account SET lasting = '', lasting_at = NULL WHERE id = $1`,
			a.ID); err != nil {
			return err
		}
		if err := s.Links.RevokeOpen(ctx, tx, a.ID, link.Lasting); err != nil {
			return err
		}
		return s.note(ctx, tx, a.ID, say.LastingEnded)
	}
	if err := CheckEmail(email); err != nil {
		return err
	}
	if email == a.Email {
		return refusal.In("lasting", "This is the address you have. Give another, one that lasts.")
	}
	if _, err := tx.ExecContext(ctx, `UPDATE account SET lasting = $2, lasting_at = NULL WHERE id = $1`, a.ID,
		email); err != nil {
		return err
	}
	if err := s.note(ctx, tx, a.ID, say.LastingAsked); err != nil {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Lasting, a.ID, s.ConfirmLife)
	if err != nil {
		return err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "lasting", Account: a.ID, To: email, ToName: a.Name, Link: l,
		Subject: "Confirm your second address", Body: "Dear " + a.Name +
			",\n\nyou gave this as a second address that lasts. " +
			"Press this link to confirm it:\n\n" + post.LinkMark + "\n\nIt works once, within " + say.Lasts(s.ConfirmLife) +
			". If it was not you, do nothing.\n"})
	return err
}

// ConfirmLasting uses the link that went to the second address; the first is told.
func (s *Store) ConfirmLasting(ctx context.Context, tx *db.Tx, l link.Link) (Account, error) {
	if err := s.Links.Use(ctx, tx, l.ID); err != nil {
		return Account{}, err
	}
	a, err := s.Find(ctx, tx, l.Subject)
	if err != nil {
		return a, err
	}
	if a.Lasting == "" {
		return a, link.ErrUsed
	}
	if _, err := tx.ExecContext(ctx, `UPDATE account SET lasting_at = $2 WHERE id = $1`, a.ID, tx.At); err != nil {
		return a, err
	}
	if err := s.note(ctx, tx, a.ID, say.LastingConfirmed); err != nil {
		return a, err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "lasting-confirmed", Account: a.ID, To: a.Email, ToName: a.Name,
		Subject: "You have a second address with us", Body: "Dear " + a.Name + ",\n\n" + a.Lasting +
			" is your second address from now on: a way to a new password, and where mails go that come back from here.\n\n" +
			"If it was not you, write to us at once.\n"})
	return a, err
}

// byLasting finds the account of a confirmed second address; sql.ErrNoRows when
// there is none, or more than one.
func byLasting(ctx context.Context, q db.Querier, email string) (Account, error) {
	var list []Account
	if err := q.SelectContext(ctx, &list,
		`SELECT `+Columns+` FROM account WHERE lasting = $1 AND lasting <> '' AND lasting_at IS NOT NULL LIMIT 2`,
		email); err != nil {
		return Account{}, err
	}
	if len(list) != 1 {
		return Account{}, sql.ErrNoRows
	}
	return list[0], nil
}

// Elsewhere sends a mail on that came back from an account's first address, where
// it has a second.
func (s *Store) Elsewhere(ctx context.Context, tx *db.Tx, b post.Returned) error {
	a, err := s.Find(ctx, tx, b.Account)
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	if err != nil || !a.Lasts() || b.To != a.Email {
		return err
	}
	return s.Post.SendOn(ctx, tx, b.ID, a.Lasting)
}
