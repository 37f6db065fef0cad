// Package people keeps accounts and sessions. Passwords are hashed with
// argon2id, outside of transactions. Nothing here tells a stranger which
// addresses have accounts.
package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"errors"
	"net/mail"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"

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
	PasswordHash string `db:"password_hash"`
	Office       bool
	DemoNote     string     `db:"demo_note"`
	ConfirmedAt  *time.Time `db:"confirmed_at"`
	SecondSecret []byte     `db:"second_secret"` // sealed; nil when there is none
	SecondAt     *time.Time `db:"second_at"`     // when the second factor was switched on; nil: off
	SecondStep   int64      `db:"second_step"`   // the time step of the code last used
	NewEmail     string     `db:"new_email"`     // waits to be confirmed; "" for none
}

const columns = `id, email, name, password_hash, office, demo_note, confirmed_at, second_secret, second_at, second_step, new_email`

// Store of people.
type Store struct {
	DB          *db.DB
	Links       link.Maker
	Post        *post.Office
	ConfirmLife time.Duration
	SessionLife time.Duration
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

// Problem is what is wrong with something typed, and where.
type Problem struct{ Field, Says string }

// Error is what it says.
func (p Problem) Error() string { return p.Says }

// Cost of a password's hash: 19 MiB, two passes, one lane, as the OWASP Password
// Storage Cheat Sheet has it for Argon2id. More lanes would take every core from
// those who are saving while others send; docs/performance.md has the figures.
var Cost = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// LeastPassword is how many characters a password needs.
const LeastPassword = 10

// Fold brings a mail address to the form in which it is kept.
func Fold(email string) string { return strings.ToLower(strings.TrimSpace(email)) }

// CheckEmail says what is wrong with a mail address; nil when nothing is.
func CheckEmail(email string) error {
	a, err := mail.ParseAddress(email)
	if err != nil || a.Address != email || len(email) > 200 || !strings.Contains(email[strings.LastIndexByte(email, '@'):], ".") {
		return Problem{"email", "This is not a whole mail address. Write it as name@place.example."}
	}
	return nil
}

// CheckName says what is wrong with a name.
func CheckName(name string) error {
	if n := utf8.RuneCountInString(strings.TrimSpace(name)); n < 2 || n > 120 || !utf8.ValidString(name) || strings.ContainsFunc(name, unicode.IsControl) {
		return Problem{"name", "Give your name as you sign letters, up to 120 characters."}
	}
	return nil
}

// CheckPassword says what is wrong with a new password.
func CheckPassword(password string) error {
	if n := utf8.RuneCountInString(password); n < LeastPassword || n > 200 {
		return Problem{"password", "Use at least 10 characters. A few words in a row are good."}
	}
	return nil
}

// Hash of a new password.
func (s *Store) Hash(password string) (string, error) {
	p := s.Params
	if p == nil {
		p = Cost
	}
	return argon2id.CreateHash(password, p)
}

// SignUp makes an account that its mail link must confirm. When the address
// has an account already, a mail says so to its owner and nobody else.
func (s *Store) SignUp(ctx context.Context, tx *db.Tx, email, name, hash string) error {
	email = Fold(email)
	old, err := byEmail(ctx, tx, email)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return err
	}
	if err == nil && old.ConfirmedAt != nil {
		_, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "have-account", Account: old.ID, To: email, ToName: old.Name,
			Subject: "You have an account with us already", Body: "Somebody, probably you, tried to sign up with this address. It has an account already: sign in with it.\n\nIf it was not you, nothing has changed and nothing needs doing.\n"})
		return err
	}
	id := old.ID
	if id == 0 {
		if id, err = s.create(ctx, tx, email, name, hash); err != nil {
			return err
		}
	} else if _, err := tx.ExecContext(ctx, `UPDATE account SET name = $2, password_hash = $3 WHERE id = $1`, id, strings.TrimSpace(name), hash); err != nil {
		return err
	}
	return s.sendConfirmation(ctx, tx, id, email, name)
}

func (s *Store) sendConfirmation(ctx context.Context, tx *db.Tx, id int64, email, name string) error {
	l, err := s.Links.Issue(ctx, tx, link.Confirm, id, s.ConfirmLife)
	if err != nil {
		return err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "confirm", Account: id, To: email, ToName: name, Link: l,
		Subject: "Confirm your address", Body: "Dear " + name + ",\n\npress this link to confirm your address:\n\n" + post.LinkMark +
			"\n\nIt works once, within " + life(s.ConfirmLife) + ". If you did not sign up, do nothing.\n"})
	return err
}

func life(d time.Duration) string {
	if d >= time.Hour && d%time.Hour == 0 {
		return d.Truncate(time.Hour).String()[:strings.IndexByte(d.String(), 'h')] + " hours"
	}
	return d.String()
}

func (s *Store) create(ctx context.Context, tx *db.Tx, email, name, hash string) (id int64, err error) {
	err = tx.QueryRowxContext(ctx, `INSERT INTO account (email, name, password_hash, created_at) VALUES ($1, $2, $3, $4) RETURNING id`,
		Fold(email), strings.TrimSpace(name), hash, tx.At).Scan(&id)
	return id, err
}

// Confirm uses a confirmation link and returns the account.
func (s *Store) Confirm(ctx context.Context, tx *db.Tx, l link.Link) (Account, error) {
	if err := s.Links.Use(ctx, tx, l.ID); err != nil {
		return Account{}, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE account SET confirmed_at = $2 WHERE id = $1 AND confirmed_at IS NULL`, l.Subject, tx.At); err != nil {
		return Account{}, err
	}
	return s.Find(ctx, tx, l.Subject)
}

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
	_, err := tx.ExecContext(ctx, `UPDATE account SET password_hash = $2, confirmed_at = COALESCE(confirmed_at, $3) WHERE id = $1 AND password_hash = ''`, account, hash, tx.At)
	return err
}

// MakeOffice lets an account work at the office; the command line and the demo use it.
func (s *Store) MakeOffice(ctx context.Context, tx *db.Tx, account int64) error {
	_, err := tx.ExecContext(ctx, `UPDATE account SET office = true, confirmed_at = COALESCE(confirmed_at, $2) WHERE id = $1`, account, tx.At)
	return err
}

// NoteForDemo says what the demo's sign-in page shows beside an account.
func (s *Store) NoteForDemo(ctx context.Context, tx *db.Tx, account int64, note string) error {
	_, err := tx.ExecContext(ctx, `UPDATE account SET demo_note = $2 WHERE id = $1`, account, note)
	return err
}

// ForDemo lists the accounts that the demo's sign-in page offers.
func (s *Store) ForDemo(ctx context.Context) (out []Account, err error) {
	err = s.DB.SelectContext(ctx, &out, `SELECT `+columns+` FROM account WHERE demo_note <> '' ORDER BY id`)
	return out, err
}

// Office lists those who work at the office, by name.
func (s *Store) Office(ctx context.Context) (out []Account, err error) {
	err = s.DB.SelectContext(ctx, &out, `SELECT `+columns+` FROM account WHERE office ORDER BY name`)
	return out, err
}

// Find an account by id.
func (s *Store) Find(ctx context.Context, q db.Querier, id int64) (a Account, err error) {
	err = q.GetContext(ctx, &a, `SELECT `+columns+` FROM account WHERE id = $1`, id)
	return a, err
}

func byEmail(ctx context.Context, q db.Querier, email string) (a Account, err error) {
	err = q.GetContext(ctx, &a, `SELECT `+columns+` FROM account WHERE email = $1`, email)
	return a, err
}

// ErrWrong is all that a failed sign-in says.
var ErrWrong = Problem{"password", "This address and password do not go together."}

// ErrUnconfirmed: right password, but the mail link was never used.
var ErrUnconfirmed = Problem{"email", "This address is not confirmed yet. We have sent the link again; look in your mail."}

// decoy keeps the time of a sign-in the same when there is no such account.
const decoy = "$argon2id$v=19$m=19456,t=2,p=1$c29tZXNhbHRzb21lc2FsdA$Vr2lT9q9hD2yQ0xN5q3aV7m0lq7c8bT0wqg3n5q9s2E"

// CheckSignIn finds the account for an address and password. It hashes, so it
// is called outside of transactions.
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
		return Account{}, ErrWrong
	}
	if a.ConfirmedAt == nil {
		return a, ErrUnconfirmed
	}
	return a, nil
}

// ResendConfirmation sends the link again.
func (s *Store) ResendConfirmation(ctx context.Context, tx *db.Tx, a Account) error {
	return s.sendConfirmation(ctx, tx, a.ID, a.Email, a.Name)
}

// Begin a session and end the one it replaces; the token goes into a cookie,
// its hash into the table. sign marks a token as the server's own.
func (s *Store) Begin(ctx context.Context, tx *db.Tx, account int64, replaces string, sign func(string) string) (token string, expires time.Time, err error) {
	if err := s.End(ctx, tx, replaces); err != nil {
		return "", expires, err
	}
	token, expires = sign(rand.Text()+rand.Text()), tx.At.Add(s.SessionLife)
	_, err = tx.ExecContext(ctx, `INSERT INTO session (token_hash, account_id, created_at, expires_at) VALUES ($1, $2, $3, $4)`,
		hash(token), account, tx.At, expires)
	return token, expires, err
}

// End a session.
func (s *Store) End(ctx context.Context, tx *db.Tx, token string) error {
	_, err := tx.ExecContext(ctx, `DELETE FROM session WHERE token_hash = $1`, hash(token))
	return err
}

// Session finds whose session a token is; ok is false when it is nobody's.
func (s *Store) Session(ctx context.Context, token string, at time.Time) (a Account, ok bool, err error) {
	if token == "" {
		return a, false, nil
	}
	err = s.DB.GetContext(ctx, &a, `
		SELECT `+columns+` FROM session s JOIN account a ON a.id = s.account_id WHERE s.token_hash = $1 AND s.expires_at > $2`, hash(token), at)
	if errors.Is(err, sql.ErrNoRows) {
		return a, false, nil
	}
	return a, err == nil, err
}

// Sweep forgets sessions that have run out.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM session WHERE expires_at <= $1`, at)
	return err
}

func hash(token string) []byte {
	h := sha256.Sum256([]byte(token))
	return h[:]
}

// ByEmail finds an account by its address.
func (s *Store) ByEmail(ctx context.Context, q db.Querier, email string) (Account, error) {
	return byEmail(ctx, q, Fold(email))
}
