// Package people keeps accounts and sessions. Passwords are hashed with
// argon2id, outside of transactions. Nothing here tells a stranger which
// addresses have accounts.
package people

import (
	"context"
	"database/sql"
	"errors"
	"net/mail"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"

	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/limit"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Account of a person.
type Account struct {
	ID           int64
	Email        string
	Name         string
	PasswordHash string     `db:"password_hash"`
	DemoNote     string     `db:"demo_note"`
	ConfirmedAt  *time.Time `db:"confirmed_at"`
	SecondSecret []byte     `db:"second_secret"` // sealed; nil when there is none
	SecondAt     *time.Time `db:"second_at"`     // when the second factor was switched on; nil: off
	SecondStep   int64      `db:"second_step"`   // the time step of the code last used
	NewEmail     string     `db:"new_email"`     // waits to be confirmed; "" for none
	Lasting      string     // a second address; "" for none
	LastingAt    *time.Time `db:"lasting_at"` // when it was confirmed; nil: not yet
	Texts        string     // number for text messages, E.164; "" for none
	TextsAt      *time.Time `db:"texts_at"` // when it was confirmed; nil: not yet
}

// Columns of an account.
const Columns = `id, email, name, password_hash, demo_note, confirmed_at, second_secret, second_at, second_step, new_email, lasting, lasting_at, texts, texts_at`

// Store of people.
type Store struct {
	DB          *db.DB
	Links       link.Maker
	Post        *post.Office
	ConfirmLife time.Duration
	SessionLife time.Duration    // of a session, whatever is done with it
	SessionIdle time.Duration    // after which one that nobody uses ends
	Heavy       limit.Gate       // where hashing waits for its turn
	Params      *argon2id.Params // nil: Cost
	// Verify compares a password with a hash; tests stall it.
	Verify func(password, hash string) bool
}

// OneByOne makes the ordinary Verify of a process, whose comparisons wait for
// their turn at a gate.
func OneByOne(heavy limit.Gate) func(password, hash string) bool {
	return func(password, hash string) (ok bool) {
		heavy.Do(func() { ok = compare(password, hash) })
		return ok
	}
}

func compare(password, hash string) bool {
	if hash == "" {
		return false
	}
	ok, err := argon2id.ComparePasswordAndHash(password, hash)
	return err == nil && ok
}

// Cost of a password's hash: 19 MiB, two passes, one lane, as the OWASP Password
// Storage Cheat Sheet has it for Argon2id. More lanes would take every core from
// those who are saving while others send; docs/performance.md has the figures.
var Cost = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// Fold brings a mail address to the form in which it is kept.
func Fold(email string) string { return strings.ToLower(strings.TrimSpace(email)) }

// CheckEmail says what is wrong with a mail address; nil when nothing is.
func CheckEmail(email string) error {
	a, err := mail.ParseAddress(email)
	if err != nil || a.Address != email || len(email) > 200 ||
		!strings.Contains(email[strings.LastIndexByte(email, '@'):], ".") {
		return refusal.In("email", "This is not a whole mail address. Write it as name@place.example.")
	}
	return nil
}

// CheckName says what is wrong with a name.
func CheckName(name string) error {
	if n := utf8.RuneCountInString(strings.TrimSpace(name)); n < 2 || n > 120 || !utf8.ValidString(name) ||
		strings.ContainsFunc(name, unicode.IsControl) {
		return refusal.In("name", "Give your name as you sign letters, up to 120 characters.")
	}
	return nil
}

// SignUp makes an account that its mail link must confirm; the password is
// chosen when the link is pressed, by whoever reads the address's mail. When the
// address has an account already, a mail says so to its owner and nobody else.
// An account that waits for its link keeps the name it has; the link goes again.
// next is where the link leads on to, an address of this site or "".
func (s *Store) SignUp(ctx context.Context, tx *db.Tx, email, name, next string) error {
	email = Fold(email)
	old, err := byEmail(ctx, tx, email)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return err
	}
	if err == nil && old.ConfirmedAt != nil {
		_, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "have-account", Account: old.ID, To: email, ToName: old.Name,
			Subject: "You have an account with us already",
			Body:    "Somebody, probably you, tried to sign up with this address. It has an account already: sign in with it.\n\nIf it was not you, nothing has changed and nothing needs doing.\n"})
		return err
	}
	if old.ID == 0 {
		if old.ID, err = s.create(ctx, tx, email, name, ""); err != nil {
			return err
		}
		old.Name = strings.TrimSpace(name)
	}
	return s.sendConfirmation(ctx, tx, old.ID, email, old.Name, next)
}

func (s *Store) sendConfirmation(ctx context.Context, tx *db.Tx, id int64, email, name, next string) error {
	l, err := s.Links.IssueOn(ctx, tx, link.Confirm, id, s.ConfirmLife, next)
	if err != nil {
		return err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "confirm", Account: id, To: email, ToName: name, Link: l,
		Subject: "Confirm your address", Body: "Dear " + name +
			",\n\npress this link to confirm your address and choose a password:\n\n" + post.LinkMark +
			"\n\nIt works once, within " + say.Lasts(s.ConfirmLife) + ". If you did not sign up, do nothing.\n"})
	return err
}

func (s *Store) create(ctx context.Context, tx *db.Tx, email, name, hash string) (id int64, err error) {
	err = tx.QueryRowxContext(ctx,
		`INSERT INTO account (email, name, password_hash, created_at) VALUES ($1, $2, $3, $4) RETURNING id`,
		Fold(email), strings.TrimSpace(name), hash, tx.At).Scan(&id)
	return id, err
}

// Confirm uses a confirmation link: the address is confirmed, and whoever
// reads its mail says what they are called and chooses the password.
// link.ErrUsed when the account was confirmed in another way meanwhile.
func (s *Store) Confirm(ctx context.Context, tx *db.Tx, l link.Link, name, hash string) (Account, error) {
	if err := s.Links.Use(ctx, tx, l.ID); err != nil {
		return Account{}, err
	}
	res, err := tx.ExecContext(ctx,
		`UPDATE account SET name = $2, password_hash = $3, confirmed_at = $4 WHERE id = $1 AND confirmed_at IS NULL`,
		l.Subject, strings.TrimSpace(name), hash, tx.At)
	if err != nil {
		return Account{}, err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return Account{}, link.ErrUsed
	}
	if err := s.note(ctx, tx, l.Subject, say.Confirmed); err != nil {
		return Account{}, err
	}
	return s.Find(ctx, tx, l.Subject)
}

// Join makes, or finishes, the account of somebody who was asked by mail and
// pressed the link, which has shown that the address is theirs. Who has a
// confirmed account signs in with it instead: ErrHasAccount.
func (s *Store) Join(ctx context.Context, tx *db.Tx, email, name, hash string) (Account, error) {
	a, err := s.Invite(ctx, tx, email, name)
	if err != nil {
		return a, err
	}
	if a.ConfirmedAt != nil {
		return a, ErrHasAccount
	}
	if _, err := tx.ExecContext(ctx, `UPDATE account SET name = $2, password_hash = $3, confirmed_at = $4 WHERE id = $1`,
		a.ID, strings.TrimSpace(name), hash, tx.At); err != nil {
		return a, err
	}
	if err := s.Links.Revoke(ctx, tx, a.ID, link.Confirm); err != nil {
		return a, err
	}
	return s.Find(ctx, tx, a.ID)
}

// ErrHasAccount: the address has an account, which is the one to sign in with.
var ErrHasAccount = refusal.In("password",
	"This address has an account already. Sign in with it, then press the link in the mail again.")

// Invite finds or makes the account of somebody the office invites; a new one
// has no password until its link is used.
func (s *Store) Invite(ctx context.Context, tx *db.Tx, email, name string) (Account, error) {
	a, err := byEmail(ctx, tx, Fold(email))
	if err == nil {
		return a, nil
	}
	if !errors.Is(err, sql.ErrNoRows) {
		return a, err
	}
	id, err := s.create(ctx, tx, email, name, "")
	if err != nil {
		return a, err
	}
	return s.Find(ctx, tx, id)
}

// SetPassword gives an invited account its first password and confirms it.
func (s *Store) SetPassword(ctx context.Context, tx *db.Tx, account int64, hash string) error {
	_, err := tx.ExecContext(ctx,
		`UPDATE account SET password_hash = $2, confirmed_at = COALESCE(confirmed_at, $3) WHERE id = $1 AND password_hash = ''`, account, hash, tx.At)
	return err
}

// NoteForDemo says what the demo's sign-in page shows beside an account.
func (s *Store) NoteForDemo(ctx context.Context, tx *db.Tx, account int64, note string) error {
	_, err := tx.ExecContext(ctx, `UPDATE account SET demo_note = $2 WHERE id = $1`, account, note)
	return err
}

// ForDemo lists the accounts that the demo's sign-in page offers.
func (s *Store) ForDemo(ctx context.Context) (out []Account, err error) {
	err = s.DB.SelectContext(ctx, &out, `SELECT `+Columns+` FROM account WHERE demo_note <> '' ORDER BY id`)
	return out, err
}

// Find an account by id.
func (s *Store) Find(ctx context.Context, q db.Querier, id int64) (a Account, err error) {
	err = q.GetContext(ctx, &a, `SELECT `+Columns+` FROM account WHERE id = $1`, id)
	return a, err
}

func byEmail(ctx context.Context, q db.Querier, email string) (a Account, err error) {
	err = q.GetContext(ctx, &a, `SELECT `+Columns+` FROM account WHERE email = $1`, email)
	return a, err
}

// ErrWrong is all that a failed sign-in says.
var ErrWrong = refusal.In("password", "This address and password do not go together.")

// ErrUnconfirmed: right password, but the mail link was never used.
var ErrUnconfirmed = refusal.In("email",
	"This address is not confirmed yet. We have sent the link again; look in your mail.")

// decoy keeps the time of a sign-in the same when there is no such account.
const decoy = "$argon2id$v=19$m=19456,t=2,p=1$c29tZXNhbHRzb21lc2FsdA$Vr2lT9q9hD2yQ0xN5q3aV7m0lq7c8bT0wqg3n5q9s2E"

// CheckSignIn finds the account for an address and password. It hashes, so it
// is called outside of transactions. With ErrWrong comes the id of the account
// that was tried, 0 for none, for its events alone.
func (s *Store) CheckSignIn(ctx context.Context, email, password string) (Account, error) {
	a, err := byEmail(ctx, s.DB, Fold(email))
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return a, err
	}
	hash := a.PasswordHash
	if hash == "" {
		hash = decoy
	}
	if !s.Verify(password, hash) || a.ID == 0 || a.PasswordHash == "" {
		return Account{ID: a.ID}, ErrWrong
	}
	if a.ConfirmedAt == nil {
		return a, ErrUnconfirmed
	}
	return a, nil
}

// ResendConfirmation sends the link again.
func (s *Store) ResendConfirmation(ctx context.Context, tx *db.Tx, a Account) error {
	return s.sendConfirmation(ctx, tx, a.ID, a.Email, a.Name, "")
}

// ByEmail finds an account by its address.
func (s *Store) ByEmail(ctx context.Context, q db.Querier, email string) (Account, error) {
	return byEmail(ctx, q, Fold(email))
}
