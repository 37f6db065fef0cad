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

// AskAddress begins a change of address: a link goes to the new one, and the
// old one stays until it is pressed. An address that has an account gets a
// mail that says so, and whoever asked learns nothing of it.
func (s *Store) AskAddress(ctx context.Context, tx *db.Tx, a Account, email string) error {
	email = Fold(email)
	if err := CheckEmail(email); err != nil {
		return err
	}
	if email == a.Email {
		return refusal.In("email", "This is your address already.")
	}
	other, err := byEmail(ctx, tx, email)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return err
	}
	if err == nil {
		_, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "have-account", Account: other.ID, To: email, ToName: other.Name,
			Subject: "You have an account with us already",
			Body:    "Somebody, probably you, wants to use this address for another account. It has an account already, so that cannot be.\n\nIf it was not you, nothing has changed and nothing needs doing.\n"})
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE account SET new_email = $2 WHERE id = $1`, a.ID, email); err != nil {
		return err
	}
	if err := s.note(ctx, tx, a.ID, say.AddressAsked); err != nil {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Address, a.ID, s.ConfirmLife)
	if err != nil {
		return err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "address", Account: a.ID, To: email, ToName: a.Name, Link: l,
		Subject: "Confirm your new address", Body: "Dear " + a.Name +
			",\n\npress this link to use this address from now on:\n\n" + post.LinkMark +
			"\n\nIt works once, within " + say.Lasts(s.ConfirmLife) + ". If you did not ask for it, do nothing.\n"})
	return err
}

// ChangeAddress uses the link that went to the new address. The old one is told.
func (s *Store) ChangeAddress(ctx context.Context, tx *db.Tx, l link.Link) (Account, error) {
	if err := s.Links.Use(ctx, tx, l.ID); err != nil {
		return Account{}, err
	}
	a, err := s.Find(ctx, tx, l.Subject)
	if err != nil {
		return a, err
	}
	if a.NewEmail == "" {
		return a, link.ErrUsed
	}
	if _, err := byEmail(ctx, tx, a.NewEmail); !errors.Is(err, sql.ErrNoRows) {
		if err == nil {
			err = refusal.In("email", "This address has an account of its own by now; it cannot be used for yours.")
		}
		return a, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE account SET email = new_email, new_email = '' WHERE id = $1`,
		a.ID); err != nil {
		return a, err
	}
	// what went to the old address opens nothing any more
	if err := s.Links.RevokeOpen(ctx, tx, a.ID, link.Reset, link.Confirm, link.Enter); err != nil {
		return a, err
	}
	if err := s.note(ctx, tx, a.ID, say.AddressChanged); err != nil {
		return a, err
	}
	if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "address-changed", Account: a.ID, To: a.Email, ToName: a.Name,
		Subject: "Your address was changed", Body: "Dear " + a.Name +
			",\n\nyour account uses another address from now on: " + a.NewEmail +
			". Mails no longer go here.\n\nIf it was not you, write to us at once.\n"}); err != nil {
		return a, err
	}
	return s.Find(ctx, tx, a.ID)
}

// Leave empties an account: no address, no name, no password, no session. What
// it sent stays with those it was sent to, as it was sealed.
func (s *Store) Leave(ctx context.Context, tx *db.Tx, account int64) error {
	if _, err := tx.ExecContext(ctx, `
		UPDATE account SET email = 'left-' || id, name = 'somebody who left', password_hash = '', new_email = '', lasting = '', lasting_at = NULL, texts = '', texts_at = NULL, second_secret = NULL, second_at = NULL,
		  demo_note = '', confirmed_at = NULL, left_at = $2 WHERE id = $1`, account, tx.At); err != nil {
		return err
	}
	for _, sql := range []string{
		`DELETE FROM session WHERE account_id = $1`,
		`DELETE FROM recovery_code WHERE account_id = $1`,
		`DELETE FROM security_event WHERE account_id = $1`,
	} {
		if _, err := tx.ExecContext(ctx, sql, account); err != nil {
			return err
		}
	}
	return s.Links.Revoke(ctx, tx, account, link.Confirm, link.Reset, link.Address, link.Reader, link.Enter,
		link.Lasting)
}
