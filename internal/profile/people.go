package profile

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"ulvant/core/refusal"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Member is an account that may act for a profile.
type Member struct {
	AccountID int64 `db:"account_id"`
	Name      string
	Email     string
	Kind      string // authorised | administrator
	Since     time.Time
}

// Members of a profile, the authorised one first.
func (s *Store) Members(ctx context.Context, q db.Querier, id int64) (out []Member, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT m.account_id, p.name, p.email, m.kind, m.since FROM profile_member m JOIN account p ON p.id = m.account_id WHERE m.profile_id = $1 ORDER BY m.kind = 'authorised' DESC, p.name`, id)
	return out, err
}

// Drop ends an administrator's part; anybody may end their own.
func (s *Store) Drop(ctx context.Context, tx *db.Tx, id, account int64) error {
	p, err := s.lock(ctx, tx, id)
	if err != nil {
		return err
	}
	if account != tx.By.ID && p.Mine != "authorised" {
		return refusal.Unfit("Only the authorised person can do that.")
	}
	res, err := tx.ExecContext(ctx,
		`DELETE FROM profile_member WHERE profile_id = $1 AND account_id = $2 AND kind <> 'authorised'`, id, account)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return refusal.Unfit("The authorised person cannot leave before somebody else is.")
	}
	return nil
}

// Leave ends every part of an account: its own profile is emptied, and it acts
// for no organisation any more. Whoever is the authorised person of one that
// others act for too hands that over first.
func (s *Store) Leave(ctx context.Context, tx *db.Tx, account int64) error {
	var name string
	err := tx.GetContext(ctx, &name, `
		SELECT p.name FROM profile p JOIN profile_member m ON m.profile_id = p.id AND m.account_id = $1 AND m.kind = 'authorised'
		WHERE p.kind = 'organisation' AND EXISTS (SELECT FROM profile_member o WHERE o.profile_id = p.id AND o.account_id <> $1) LIMIT 1`, account)
	if err == nil {
		return refusal.In("leave", "You are the authorised person of "+name+". Make somebody else that first.")
	}
	if !errors.Is(err, sql.ErrNoRows) {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE profile SET name = 'somebody who left', facts = '{}' WHERE kind = 'person' AND id IN (SELECT profile_id FROM profile_member WHERE account_id = $1)`, account); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE sponsor SET state = CASE state WHEN 'asked' THEN 'taken back' ELSE 'ended' END, at = $2 WHERE state IN ('asked', 'confirmed') AND profile_id IN (SELECT p.id FROM profile p JOIN profile_member m ON m.profile_id = p.id WHERE p.kind = 'person' AND m.account_id = $1)`, account, tx.At); err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `DELETE FROM profile_member WHERE account_id = $1`, account)
	return err
}

// Officer may sign for an organisation.
type Officer struct {
	ID        int64
	ProfileID int64 `db:"profile_id"`
	Name      string
	Email     string
	Post      string // chair, treasurer …
	State     string // asked | confirmed | refused | revoked
	At        time.Time
	Reminders int
	Confirmed string     // what they confirmed, in the words they saw
	BouncedAt *time.Time `db:"bounced_at"` // the mail came back …
	Bounce    string     // … for this reason
}

// Bounced reports that the mail which asked them came back.
func (o Officer) Bounced() bool { return o.BouncedAt != nil && o.State == "asked" }

const officerColumns = `id, profile_id, name, email, post, state, at, reminders, confirmed, bounced_at, bounce`

// officerLife is how long an officer's link works.
const officerLife = 60 * 24 * time.Hour

// Officers of a profile, in order.
func (s *Store) Officers(ctx context.Context, q db.Querier, id int64) (out []Officer, err error) {
	err = q.SelectContext(ctx, &out, `SELECT `+officerColumns+` FROM profile_officer WHERE profile_id = $1 ORDER BY id`,
		id)
	return out, err
}

// Officer that a link is of.
func (s *Store) Officer(ctx context.Context, q db.Querier, id int64) (o Officer, err error) {
	err = q.GetContext(ctx, &o, `SELECT `+officerColumns+` FROM profile_officer WHERE id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return o, err
}

// AskOfficer writes to an officer, who confirms by a link of their own.
func (s *Store) AskOfficer(ctx context.Context, tx *db.Tx, id int64, name, email, role string) error {
	p, err := s.lock(ctx, tx, id)
	if err != nil {
		return err
	}
	email, name, role = people.Fold(email), strings.TrimSpace(name), strings.TrimSpace(role)
	if err := people.CheckName(name); err != nil {
		return refusal.Unfit("Give the officer's name.")
	}
	if err := people.CheckEmail(email); err != nil {
		return refusal.Unfit(err.Error())
	}
	if role == "" || len(role) > 80 {
		return refusal.Unfit("Say what they are: chair, treasurer, head.")
	}
	var twice bool
	if err := tx.GetContext(ctx, &twice,
		`SELECT EXISTS (SELECT FROM profile_officer WHERE profile_id = $1 AND email = $2 AND state IN ('asked', 'confirmed'))`, id, email); err != nil {
		return err
	}
	if twice {
		return refusal.Unfit("Somebody with this address is asked already. Each officer needs an address of their own.")
	}
	var officer int64
	if err := tx.QueryRowxContext(ctx,
		`INSERT INTO profile_officer (profile_id, name, email, post, state, at, asked_at, next_at) VALUES ($1, $2, $3, $4, 'asked', $5, $5, $6) RETURNING id`,
		id, name, email, role, tx.At, nextAfter(tx.At, nil, 0)).Scan(&officer); err != nil {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Officer, officer, officerLife)
	if err != nil {
		return err
	}
	who, err := s.People.Find(ctx, tx, tx.By.ID)
	if err != nil {
		return err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "officer", To: email, ToName: name, ReplyTo: who.Email, Link: l,
		Subject: "May you sign for “" + p.Name + "”?",
		Body: fmt.Sprintf("Dear %s,\n\n%s is taking on “%s” with us and names you as %s, one of those who may sign for "+
			"it. Press this link to see what that means, and to confirm or refuse:\n\n%s\n\nThe link is yours alone; do not pass it on. If you know nothing of this, refuse.\n",
			name, who.Name, p.Name, role, post.LinkMark)})
	return err
}

// RevokeOfficer takes a request back, or ends what was confirmed; the link no
// longer works. A wrong address is put right by revoking and asking anew.
func (s *Store) RevokeOfficer(ctx context.Context, tx *db.Tx, id, officer int64) error {
	if _, err := s.lock(ctx, tx, id); err != nil {
		return err
	}
	res, err := tx.ExecContext(ctx,
		`UPDATE profile_officer SET state = 'revoked', at = $3, next_at = NULL WHERE id = $2 AND profile_id = $1 AND state <> 'revoked'`, id,
		officer, tx.At)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNotFound
	}
	return s.Links.Revoke(ctx, tx, officer, link.Officer)
}

// Confirm is the officer's own answer, by the link; it can be changed while
// the link works.
func (s *Store) Confirm(ctx context.Context, tx *db.Tx, officer int64, yes bool) error {
	state := "confirmed"
	if !yes {
		state = "refused"
	}
	o, err := s.Officer(ctx, tx, officer)
	if err != nil {
		return err
	}
	p, err := s.ByID(ctx, tx, o.ProfileID)
	if err != nil {
		return err
	}
	members, err := s.Members(ctx, tx, o.ProfileID)
	if err != nil {
		return err
	}
	says := ""
	if yes && len(members) > 0 {
		says = OfficerConfirms(o, p, members[0])
	}
	_, err = tx.ExecContext(ctx,
		`UPDATE profile_officer SET state = $2, at = $3, next_at = NULL, confirmed = $4 WHERE id = $1 AND state <> 'revoked'`,
		officer, state, tx.At, says)
	return err
}

// OfficerConfirms is what an officer confirms, word for word.
func OfficerConfirms(o Officer, p Profile, who Member) string {
	return "That I, " + o.Name + ", am " + o.Post + " of “" + p.Name + "”, and that " + who.Name + " (" + who.Email +
		") may apply for grants in its name."
}

// codeLife is how long a code for joining works.
const codeLife = 48 * time.Hour

// ClaimByNumber sends a code for joining to the address on file of the
// organisation known under a number. Whoever asks learns neither whether there
// is one nor where the code went.
func (s *Store) ClaimByNumber(ctx context.Context, tx *db.Tx, scheme, value string) error {
	number, err := normal(scheme, value)
	if err != nil {
		return err
	}
	p, found, err := s.knownUnder(ctx, tx, scheme, number)
	if err != nil || !found {
		return err
	}
	if len(p.Facts.Contacts) == 0 {
		return nil
	}
	code := strings.ToLower(rand.Text()[:10])
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO profile_code (profile_id, account_id, hash, expires_at) VALUES ($1, $2, $3, $4)
		ON CONFLICT (profile_id, account_id) DO UPDATE SET hash = $3, expires_at = $4`, p.ID, tx.By.ID, codeHash(code), tx.At.Add(codeLife)); err != nil {
		return err
	}
	who, err := s.People.Find(ctx, tx, tx.By.ID)
	if err != nil {
		return err
	}
	c := p.Facts.Contacts[0]
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "profile-code", To: people.Fold(c.Email), ToName: c.Name,
		Subject: "Somebody wants to act for “" + p.Name + "”",
		Body: fmt.Sprintf("Dear %s,\n\n%s (%s) wants to apply for “%s” with us. If they may, give them this code "+
			"within two days:\n\n%s\n\nIf they may not, do nothing: without the code they cannot.\n", c.Name, who.Name,
			who.Email, p.Name, code)})
	return err
}

// Join takes the code; the account is an administrator from then on.
func (s *Store) Join(ctx context.Context, tx *db.Tx, code string) (id int64, err error) {
	err = tx.GetContext(ctx, &id,
		`DELETE FROM profile_code WHERE account_id = $1 AND hash = $2 AND expires_at > $3 RETURNING profile_id`, tx.By.ID,
		codeHash(code), tx.At)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, refusal.Unfit("This code is not right, or has run out. Ask for another.")
	}
	if err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx,
		`INSERT INTO profile_member (profile_id, account_id, kind, since) VALUES ($1, $2, 'administrator', $3) ON CONFLICT DO NOTHING`, id, tx.By.ID, tx.At)
	return id, err
}

func codeHash(code string) []byte {
	h := sha256.Sum256([]byte(strings.ToLower(strings.TrimSpace(code))))
	return h[:]
}
