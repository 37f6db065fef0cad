package application

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"ulvant/internal/platform/db"
)

// ToLead is the part of somebody who is asked to lead instead of the lead.
const ToLead = "lead"

// The states of an invitation.
const (
	InvitationAsked     = "asked"
	InvitationAccepted  = "accepted"
	InvitationDeclined  = "declined"
	InvitationTakenBack = "taken back"
)

// Invitation asks somebody to have a part in an application. It gives nothing
// until they accept it, and shows nothing of who they are but what the lead
// typed.
type Invitation struct {
	ID          int64
	Application int64 `db:"application_id"`
	Email, Name string
	Part        string    // Teammate, Commenter or ToLead
	AskedBy     int64     `db:"asked_by"`
	AskedAt     time.Time `db:"asked_at"`
	State       string
}

const invitationColumns = `id, application_id, email, name, part, asked_by, asked_at, state`

// Invite keeps an invitation; fresh is false when one to this address is open.
func (s *Store) Invite(ctx context.Context, tx *db.Tx, i Invitation) (id int64, fresh bool, err error) {
	err = tx.QueryRowxContext(ctx, `
		INSERT INTO invitation (application_id, email, name, part, asked_by, asked_at) VALUES (@application_id, @email, @name, @part, @asked_by, @asked_at)
		ON CONFLICT (application_id, email) WHERE state = 'asked' DO NOTHING RETURNING id`,
		db.Named{"application_id": i.Application, "email": i.Email, "name": i.Name, "part": i.Part, "asked_by": i.AskedBy,
			"asked_at": tx.At}).Scan(&id)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, false, nil
	}
	return id, err == nil, err
}

// Invitation finds one.
func (s *Store) Invitation(ctx context.Context, q db.Querier, id int64) (i Invitation, err error) {
	err = q.GetContext(ctx, &i, `SELECT `+invitationColumns+` FROM invitation WHERE id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return i, err
}

// Invitations lists those of an application that are open or were declined.
func (s *Store) Invitations(ctx context.Context, q db.Querier, application int64) (out []Invitation, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT `+invitationColumns+` FROM invitation WHERE application_id = $1 AND state IN ('asked', 'declined') ORDER BY id`, application)
	return out, err
}

// EndInvitation ends one that is open, as state says; by is who accepted or
// declined it, 0 for nobody. ErrNotFound when it is open no more.
func (s *Store) EndInvitation(ctx context.Context, tx *db.Tx, id int64, state string, by int64) error {
	res, err := tx.ExecContext(ctx,
		`UPDATE invitation SET state = $2, answered_at = $3, answered_by = NULLIF($4, 0) WHERE id = $1 AND state = 'asked'`,
		id, state, tx.At, by)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNotFound
	}
	return nil
}

// Of finds a case by its number in the database, in the latest stage it has reached.
func (s *Store) Of(ctx context.Context, q db.Querier, application int64) (Case, error) {
	return one(ctx, q, selectCase+`WHERE a.id = $1 ORDER BY e.id DESC LIMIT 1`, application)
}
