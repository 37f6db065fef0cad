package application

import (
	"context"
	"database/sql"
	"errors"

	"ulvant/internal/platform/db"
)

// Person of a team.
type Person struct {
	AccountID int64 `db:"account_id"`
	Name      string
	Email     string
	Kind      string // lead, or one of the parts
}

// Team lists who writes an application, the lead first.
func (s *Store) Team(ctx context.Context, q db.Querier, application int64) (out []Person, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT r.account_id, p.name, p.email, r.kind FROM relation r JOIN account p ON p.id = r.account_id
		WHERE r.application_id = $1 ORDER BY (r.kind <> 'lead'), p.name`, application)
	return out, err
}

// The parts that somebody besides the lead can have.
const (
	Teammate  = "teammate"  // writes
	Commenter = "commenter" // reads the draft and comments, and changes nothing
)

// AddTeammate gives an account a part in a case; fresh is false when it had one.
func (s *Store) AddTeammate(ctx context.Context, tx *db.Tx, c Case, account int64, part string) (fresh bool,
	err error) {
	res, err := tx.ExecContext(ctx, `
		INSERT INTO relation (application_id, account_id, kind) SELECT $1, $2, $3
		WHERE NOT EXISTS (SELECT FROM relation WHERE application_id = $1 AND account_id = $2)`, c.ID, account, part)
	if err != nil {
		return false, err
	}
	n, err := res.RowsAffected()
	return n == 1, err
}

// DropTeammate takes an account's part in a case away; never the lead's.
func (s *Store) DropTeammate(ctx context.Context, tx *db.Tx, c Case, account int64) error {
	res, err := tx.ExecContext(ctx,
		`DELETE FROM relation WHERE application_id = $1 AND account_id = $2 AND kind <> 'lead'`, c.ID, account)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNotFound
	}
	return nil
}

// For ties an application to the profile it is for.
func (s *Store) For(ctx context.Context, tx *db.Tx, application, profile int64) error {
	_, err := tx.ExecContext(ctx, `UPDATE application SET profile_id = $2 WHERE id = $1`, application, profile)
	return err
}

// Resubmits names the earlier application that one is, sent in again.
func (s *Store) Resubmits(ctx context.Context, tx *db.Tx, c Case, ref string) error {
	earlier, err := s.Find(ctx, tx, ref)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `UPDATE application SET resubmits = $2 WHERE id = $1`, c.ID, earlier.ID)
	return err
}

// Earlier is the application that one is, sent in again; "" for none.
func (s *Store) Earlier(ctx context.Context, q db.Querier, application int64) (ref, title string, err error) {
	var e struct{ Ref, Title string }
	err = q.GetContext(ctx, &e,
		`SELECT e.ref, e.title FROM application a JOIN application e ON e.id = a.resubmits WHERE a.id = $1`, application)
	if errors.Is(err, sql.ErrNoRows) {
		err = nil
	}
	return e.Ref, e.Title, err
}

// HandOver makes somebody of the team the lead, and the lead a teammate.
func (s *Store) HandOver(ctx context.Context, tx *db.Tx, c Case, account int64) (Case, error) {
	if err := s.DropTeammate(ctx, tx, c, account); err != nil {
		return c, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE relation SET account_id = $2 WHERE application_id = $1 AND kind = 'lead'`,
		c.ID, account); err != nil {
		return c, err
	}
	if _, err := s.AddTeammate(ctx, tx, c, c.LeadID, Teammate); err != nil {
		return c, err
	}
	c, err := s.ByEntry(ctx, tx, c.EntryID)
	if err == nil {
		_, err = s.Refresh(ctx, tx, c)
	}
	return c, err
}
