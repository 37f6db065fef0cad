// Package post sends letters: a row in the transaction that causes it, held
// until it is due, then handed to the mail server by a job. Delivery is at
// least once, so a row has one fixed Message-ID and one bounce token.
package post

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/link"
	"ulvant/internal/platform/mail"
)

// State of a letter.
type State string

// The states.
const (
	Held      State = "held"
	Sent      State = "sent"
	Cancelled State = "cancelled"
)

// Letter to go out.
type Letter struct {
	Kind          string
	Account       int64 // 0 for somebody without one
	Application   int64
	Round         int64
	To, ToName    string
	ReplyTo       string
	Subject, Body string // {{link}} stands where the personal link goes
	Link          int64  // 0 for none
	Seal          int64  // copy to attach; 0 for none
	Due           time.Time
}

// Attachment makes the file for a seal.
type Attachment func(ctx context.Context, seal int64) (name string, bytes []byte, err error)

// Office sends letters.
type Office struct {
	DB      *db.DB
	Jobs    *jobs.Queue
	Links   link.Maker
	Server  mail.Server
	From    string
	Name    string // of the sender
	BaseURL string
	Attach  Attachment
	// Copies lists who besides gets a letter about an application; nil for
	// nobody. A letter with a personal link is never copied.
	Copies func(ctx context.Context, kind string, application int64) ([]string, error)
	// OnSent is told in the transaction that records a letter as sent.
	OnSent func(ctx context.Context, tx *db.Tx, kind string, application int64) error
}

// LinkMark is replaced by the personal link when the mail is made.
const LinkMark = "{{link}}"

const job = "post.send"

type body struct {
	Post int64 `json:"post"`
}

// Register names the job.
func (o *Office) Register() { o.Jobs.Handle(job, o.deliver) }

// Queue adds a letter to the transaction; it goes out when due.
func (o *Office) Queue(ctx context.Context, tx *db.Tx, l Letter) (id int64, err error) {
	if l.Due.IsZero() {
		l.Due = tx.At
	}
	host := o.From[strings.IndexByte(o.From, '@')+1:]
	token := strings.ToLower(rand.Text())
	err = tx.QueryRowxContext(ctx, `
		INSERT INTO post (message_id, bounce_token, kind, account_id, application_id, round_id, to_address, to_name, reply_to,
		                  subject, body, link_id, attach_seal, state, created_at, due_at)
		VALUES ($1, $2, $3, NULLIF($4, 0), NULLIF($5, 0), NULLIF($6, 0), $7, $8, $9, $10, $11, NULLIF($12, 0), NULLIF($13, 0), 'held', $14, $15)
		RETURNING id`, token+"@"+host, token, l.Kind, l.Account, l.Application, l.Round, l.To, l.ToName, l.ReplyTo,
		l.Subject, l.Body, l.Link, l.Seal, tx.At, l.Due).Scan(&id)
	if err != nil {
		return 0, err
	}
	return id, o.Jobs.Enqueue(ctx, tx, job, body{id}, l.Due)
}

// Cancel stops letters that are still held; it returns how many.
func (o *Office) Cancel(ctx context.Context, tx *db.Tx, ids []int64) (int64, error) {
	r, err := tx.ExecContext(ctx, `UPDATE post SET state = 'cancelled' WHERE id = ANY($1) AND state = 'held'`, ids)
	if err != nil {
		return 0, err
	}
	return r.RowsAffected()
}

// CancelOf stops the held letters of one kind for a case; it returns how many.
func (o *Office) CancelOf(ctx context.Context, tx *db.Tx, application int64, kind string) (int64, error) {
	var ids []int64
	if err := tx.SelectContext(ctx, &ids, `SELECT id FROM post WHERE application_id = $1 AND kind = $2 AND state = 'held'`, application, kind); err != nil {
		return 0, err
	}
	return o.Cancel(ctx, tx, ids)
}

// Release lets cancelled letters go out after all, at due.
func (o *Office) Release(ctx context.Context, tx *db.Tx, ids []int64, due time.Time) error {
	for _, id := range ids {
		r, err := tx.ExecContext(ctx, `UPDATE post SET state = 'held', due_at = $2 WHERE id = $1 AND state = 'cancelled'`, id, due)
		if err != nil {
			return err
		}
		if n, _ := r.RowsAffected(); n == 1 {
			if err := o.Jobs.Enqueue(ctx, tx, job, body{id}, due); err != nil {
				return err
			}
		}
	}
	return nil
}

func (o *Office) deliver(ctx context.Context, at time.Time, raw json.RawMessage) error {
	var b body
	if err := json.Unmarshal(raw, &b); err != nil {
		return err
	}
	var p struct {
		ID          int64
		MessageID   string `db:"message_id"`
		BounceToken string `db:"bounce_token"`
		Kind        string
		Application *int64    `db:"application_id"`
		To          string    `db:"to_address"`
		ToName      string    `db:"to_name"`
		ReplyTo     string    `db:"reply_to"`
		Subject     string    `db:"subject"`
		Body        string    `db:"body"`
		Link        *int64    `db:"link_id"`
		Seal        *int64    `db:"attach_seal"`
		State       State     `db:"state"`
		Due         time.Time `db:"due_at"`
	}
	err := o.DB.GetContext(ctx, &p, `
		SELECT id, message_id, bounce_token, kind, application_id, to_address, to_name, reply_to, subject, body, link_id, attach_seal, state, due_at
		FROM post WHERE id = $1`, b.Post)
	if err != nil || p.State != Held || p.Due.After(at) {
		return err
	}
	host := o.From[strings.IndexByte(o.From, '@')+1:]
	m := mail.Message{ID: p.MessageID, From: o.From, FromName: o.Name, To: p.To, ToName: p.ToName, ReplyTo: p.ReplyTo,
		BounceTo: "bounce+" + p.BounceToken + "@" + host, Subject: p.Subject, Body: p.Body, At: at}
	if p.Link != nil {
		path, err := o.Links.Path(ctx, o.DB, *p.Link)
		if err != nil {
			return err
		}
		m.Body = strings.ReplaceAll(m.Body, LinkMark, o.BaseURL+path)
	}
	if p.Application != nil && p.Link == nil && o.Copies != nil {
		if m.Copies, err = o.Copies(ctx, p.Kind, *p.Application); err != nil {
			return err
		}
	}
	if p.Seal != nil {
		if m.AttachName, m.AttachBytes, err = o.Attach(ctx, *p.Seal); err != nil {
			return fmt.Errorf("making the copy: %w", err)
		}
	}
	if err := o.Server.Send(ctx, m); err != nil {
		return err
	}
	return o.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		r, err := tx.ExecContext(ctx, `UPDATE post SET state = 'sent', sent_at = $2 WHERE id = $1 AND state = 'held'`, p.ID, at)
		if err != nil {
			return err
		}
		if n, _ := r.RowsAffected(); n == 0 {
			return errors.New("the letter was stopped while it went out")
		}
		if p.Application != nil && o.OnSent != nil {
			return o.OnSent(ctx, tx, p.Kind, *p.Application)
		}
		return nil
	})
}
