package people

import (
	"context"
	"database/sql"
	"errors"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Text messages come to those who chose them, beside the mail that they tell of.
// The number counts once the link that was sent to it is pressed, so that nobody
// has them sent to somebody else.

// HasTexts reports a number that was confirmed.
func (a Account) HasTexts() bool { return a.Texts != "" && a.TextsAt != nil }

// AskTexts begins with text messages, or ends with them when number is empty.
func (s *Store) AskTexts(ctx context.Context, tx *db.Tx, a Account, number string) error {
	if number == "" {
		if _, err := tx.ExecContext(ctx, `UPDATE account SET texts = '', texts_at = NULL WHERE id = $1`, a.ID); err != nil {
			return err
		}
		if err := s.Links.RevokeOpen(ctx, tx, a.ID, link.Texts); err != nil {
			return err
		}
		return s.note(ctx, tx, a.ID, say.TextsEnded)
	}
	e164, ok := form.PhoneNumber(number, "")
	if !ok {
		return refusal.In("texts", "Write the whole number, beginning with + and the country’s code.")
	}
	if s.Post.TextDomain == "" {
		return refusal.In("texts", "We cannot send text messages at present. Your mails come as before.")
	}
	if _, err := tx.ExecContext(ctx, `UPDATE account SET texts = $2, texts_at = NULL WHERE id = $1`, a.ID,
		e164); err != nil {
		return err
	}
	if err := s.note(ctx, tx, a.ID, say.TextsAsked); err != nil {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Texts, a.ID, s.ConfirmLife)
	if err != nil {
		return err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: post.TextConfirm, Account: a.ID, To: s.Post.TextAddress(e164),
		ToName: a.Name, Link: l, Subject: "Confirm this number",
		Body: s.Post.Name() + ": press this to get text messages here. If it was not you, do nothing. " + post.LinkMark})
	return err
}

// ConfirmTexts uses the link that went to the number.
func (s *Store) ConfirmTexts(ctx context.Context, tx *db.Tx, l link.Link) error {
	if err := s.Links.Use(ctx, tx, l.ID); err != nil {
		return err
	}
	r, err := tx.ExecContext(ctx, `UPDATE account SET texts_at = $2 WHERE id = $1 AND texts <> ''`, l.Subject, tx.At)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return link.ErrUsed
	}
	return s.note(ctx, tx, l.Subject, say.TextsConfirmed)
}

// TextsTo is the confirmed number of an account, "" for none.
func (s *Store) TextsTo(ctx context.Context, q db.Querier, account int64) (number string, err error) {
	err = q.GetContext(ctx, &number, `SELECT texts FROM account WHERE id = $1 AND texts_at IS NOT NULL`, account)
	if errors.Is(err, sql.ErrNoRows) {
		err = nil
	}
	return number, err
}
