// Package together keeps what people see of each other while they write one
// application: who is where, and what is said beside an answer. Both end when
// it is sent; neither is part of it.
package together

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
)

// Store of both.
type Store struct {
	DB    *db.DB
	Cases *application.Store
}

// Channel of PostgreSQL's notifications: the payload is the application's id,
// nothing else.
const Channel = "ulvant_together"

// here is how long a page counts as open after it was last heard of.
const here = 25 * time.Second

// Person is somebody who has the case open now.
type Person struct {
	AccountID int64 `db:"account_id"`
	Name      string
	Section   form.Key
}

// ErrOver: what was written together was sent or withdrawn.
var ErrOver = refusal.New("this application was sent").But("nothing in it is written any more")

// Come says that an account has a page open; it is said again while it is.
// ErrOver once nothing can be written any more.
// alone reports that nobody else has the case open. Others are notified when
// somebody comes, or turns to another section.
func (s *Store) Come(ctx context.Context, at time.Time, tab string, application, account int64,
	section form.Key) (alone bool, err error) {
	var was string
	if err := s.DB.GetContext(ctx, &was, `
		INSERT INTO presence (tab, application_id, account_id, section, at)
		SELECT @tab, @application_id, @account_id, @section, @at WHERE EXISTS (SELECT FROM entry e WHERE e.application_id = @application_id AND e.state = ANY(@open))
		ON CONFLICT (tab) DO UPDATE SET section = @section, at = @at
		RETURNING COALESCE((SELECT section FROM presence p WHERE p.tab = @tab), '')`, db.Named{"tab": tab, "application_id": application, "account_id": account, "section": section, "at": at,
		"open": lifecycle.With(lifecycle.Open)}); errors.Is(err, sql.ErrNoRows) {
		return false, ErrOver
	} else if err != nil {
		return false, err
	}
	if err := s.DB.GetContext(ctx, &alone,
		`SELECT NOT EXISTS (SELECT FROM presence WHERE application_id = $1 AND account_id <> $2 AND at > $3)`, application,
		account, at.Add(-here)); err != nil || alone {
		return alone, err
	}
	if was != string(section) {
		err = s.notify(ctx, application)
	}
	return alone, err
}

// Go says that a page was closed.
func (s *Store) Go(ctx context.Context, tab string, application int64) error {
	if _, err := s.DB.ExecContext(ctx, `DELETE FROM presence WHERE tab = $1`, tab); err != nil {
		return err
	}
	return s.notify(ctx, application)
}

// Tell notifies the open pages of an application that something was kept, when
// somebody besides the account has it open.
func (s *Store) Tell(ctx context.Context, at time.Time, application, account int64) error {
	var alone bool
	if err := s.DB.GetContext(ctx, &alone,
		`SELECT NOT EXISTS (SELECT FROM presence WHERE application_id = $1 AND account_id <> $2 AND at > $3)`, application,
		account, at.Add(-here)); err != nil || alone {
		return err
	}
	return s.notify(ctx, application)
}

func (s *Store) notify(ctx context.Context, application int64) error {
	_, err := s.DB.ExecContext(ctx, `SELECT pg_notify($1, $2)`, Channel, fmt.Sprint(application))
	return err
}

// Who has a case open now besides an account, each once.
func (s *Store) Who(ctx context.Context, at time.Time, application, but int64) (out []Person, err error) {
	err = s.DB.SelectContext(ctx, &out, `
		SELECT DISTINCT ON (p.account_id) p.account_id, a.name, p.section FROM presence p JOIN account a ON a.id = p.account_id
		WHERE p.application_id = $1 AND p.account_id <> $2 AND p.at > $3 ORDER BY p.account_id, p.at DESC`, application, but, at.Add(-here))
	return out, err
}

// Sweep forgets pages that were not heard of.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM presence WHERE at < $1`, at.Add(-here))
	return err
}

// Comment beside a question.
type Comment struct {
	ID       int64
	Question form.Key
	ByID     int64 `db:"by_id"`
	Name     string
	At       time.Time
	Text     string
	DoneAt   *time.Time `db:"done_at"`
}

const mostText = 2000 // bytes

// Say something beside a question.
func (s *Store) Say(ctx context.Context, tx *db.Tx, c application.Case, question form.Key, text string) error {
	text = strings.TrimSpace(text)
	if text == "" || len(text) > mostText {
		return refusal.Unfit("Write a comment of up to 2,000 characters.")
	}
	w, err := s.Cases.Open(ctx, tx, c, true)
	if err != nil {
		return err
	}
	if w.Form.Question(question) == nil {
		return application.ErrNotFound
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO comment (entry_id, question, by_id, at, text) VALUES ($1, $2, $3, $4, $5)`,
		c.EntryID, question, tx.By.ID, tx.At, text)
	return err
}

// TickOff a comment.
func (s *Store) TickOff(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	_, err := tx.ExecContext(ctx, `UPDATE comment SET done_at = $3 WHERE id = $2 AND entry_id = $1 AND done_at IS NULL`,
		c.EntryID, id, tx.At)
	return err
}

// Comments of an entry that are not ticked off, by question, the oldest first.
func (s *Store) Comments(ctx context.Context, q db.Querier, entry int64) (map[form.Key][]Comment, error) {
	var rows []Comment
	err := q.SelectContext(ctx, &rows, `
		SELECT c.id, c.question, c.by_id, p.name, c.at, c.text, c.done_at FROM comment c JOIN account p ON p.id = c.by_id WHERE c.entry_id = $1 AND c.done_at IS NULL ORDER BY c.id`, entry)
	out := map[form.Key][]Comment{}
	for _, r := range rows {
		out[r.Question] = append(out[r.Question], r)
	}
	return out, err
}
