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
	"ulvant/internal/platform/invitation"
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
	// Superseded letters tell of something that no longer holds; they never go out.
	Superseded State = "superseded"
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
	Calendar      string // an iCalendar object that goes with it; "" for none
	Forget        bool   // its text is taken away once it has left: what it opens is kept nowhere here

	// A letter that tells of a state of an entry holds only while it is in that
	// state, by that act of the office (0 for none).
	Entry int64
	Holds string
	Act   int64
}

// About is what a letter that goes out is about.
type About struct {
	Kind        string
	Application int64
	Entry       int64
	Holds       string
	Act         int64
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
	Name    func() string // of the sender
	BaseURL string
	Attach  Attachment
	// Copies lists who besides gets a letter about an application; nil for
	// nobody. A letter with a personal link is never copied.
	Copies func(ctx context.Context, kind string, application int64) ([]string, error)
	// Under puts what stands under every letter beneath its text; nil: nothing.
	Under func(body string) string
	// Holds reports whether a letter about an entry still tells the truth; nil: it does.
	Holds func(ctx context.Context, q db.Querier, l About) (bool, error)
	// OnBounce is told in the transaction that records that a mail came back; nil:
	// nobody is.
	OnBounce func(ctx context.Context, tx *db.Tx, r Returned) error
	// OnSent is told in the transaction that records a letter as sent.
	OnSent func(ctx context.Context, tx *db.Tx, l About) error

	TextDomain string // of the gateway that makes text messages of mails; "" for none
	// TextsTo is the number of an account that chose text messages, "" for none;
	// RefOf the number of an application; ByDay the next moment, from at on, at
	// which a phone may be disturbed.
	TextsTo func(ctx context.Context, q db.Querier, account int64) (string, error)
	RefOf   func(ctx context.Context, q db.Querier, application int64) (string, error)
	ByDay   func(at time.Time) time.Time
}

// LinkMark is replaced by the personal link when the mail is made.
const LinkMark = "{{link}}"

// send is the job that lets one letter go out.
type send struct {
	Post int64 `json:"post"`
}

// Kind names the job.
func (send) Kind() string { return "post.send" }

// Register takes up the jobs of the post.
func (o *Office) Register() { jobs.Handle(o.Jobs, jobs.Mail, o.deliver) }

// Queue adds a letter to the transaction; it goes out when due.
func (o *Office) Queue(ctx context.Context, tx *db.Tx, l Letter) (id int64, err error) {
	ids, err := o.QueueAll(ctx, tx, []Letter{l})
	if err != nil {
		return 0, err
	}
	return ids[0], nil
}

// QueueAll adds many letters at once and returns their numbers in the same order.
func (o *Office) QueueAll(ctx context.Context, tx *db.Tx, letters []Letter) ([]int64, error) {
	host := o.From[strings.IndexByte(o.From, '@')+1:]
	type row struct {
		Token   string    `json:"token"`
		Message string    `json:"message_id"`
		Kind    string    `json:"kind"`
		Account int64     `json:"account_id"`
		App     int64     `json:"application_id"`
		Round   int64     `json:"round_id"`
		To      string    `json:"to_address"`
		ToName  string    `json:"to_name"`
		Reply   string    `json:"reply_to"`
		Subject string    `json:"subject"`
		Body    string    `json:"body"`
		Link    int64     `json:"link_id"`
		Seal    int64     `json:"attach_seal"`
		Due     time.Time `json:"due_at"`
		Cal     string    `json:"calendar"`
		Entry   int64     `json:"entry_id"`
		Holds   string    `json:"holds"`
		Act     int64     `json:"act_id"`
		Forget  bool      `json:"forget"`
	}
	rows := make([]row, len(letters))
	for i, l := range letters {
		if l.Due.IsZero() {
			l.Due = tx.At
		}
		token := strings.ToLower(rand.Text())
		rows[i] = row{token, token + "@" + host, l.Kind, l.Account, l.Application, l.Round, l.To, l.ToName, l.ReplyTo,
			l.Subject, l.Body, l.Link, l.Seal, l.Due, l.Calendar, l.Entry, l.Holds, l.Act, l.Forget}
	}
	raw, err := json.Marshal(rows)
	if err != nil {
		return nil, err
	}
	var added []struct {
		ID    int64
		Token string
	}
	if err := tx.SelectContext(ctx, &added, `
		INSERT INTO post (message_id, bounce_token, kind, account_id, application_id, round_id, to_address, to_name, reply_to,
		                  subject, body, link_id, attach_seal, state, created_at, due_at, calendar, entry_id, holds, act_id, forget)
		SELECT message_id, token, kind, NULLIF(account_id, 0), NULLIF(application_id, 0), NULLIF(round_id, 0), to_address, to_name, reply_to,
		       subject, body, NULLIF(link_id, 0), NULLIF(attach_seal, 0), 'held', $2, due_at, calendar, NULLIF(entry_id, 0), holds, NULLIF(act_id, 0), forget
		FROM jsonb_to_recordset($1::jsonb) AS n(token text, message_id text, kind text, account_id bigint, application_id bigint, round_id bigint,
		     to_address text, to_name text, reply_to text, subject text, body text, link_id bigint, attach_seal bigint, due_at timestamptz,
		     calendar text, entry_id bigint, holds text, act_id bigint, forget boolean)
		RETURNING id, bounce_token AS token`, string(raw), tx.At); err != nil {
		return nil, err
	}
	byToken := make(map[string]int64, len(added))
	for _, a := range added {
		byToken[a.Token] = a.ID
	}
	ids, list := make([]int64, len(rows)), make([]jobs.Job, len(rows))
	for i, r := range rows {
		ids[i] = byToken[r.Token]
		list[i] = jobs.Job{Args: send{ids[i]}, Due: r.Due}
	}
	return ids, o.Jobs.EnqueueAll(ctx, tx, list)
}

// AddressKept is how long the address of a letter that is to be forgotten is kept after it
// has left, so that one which comes back is still known.
const AddressKept = 30 * 24 * time.Hour

// Forget takes the addresses away of letters that are to be forgotten and left long ago.
func (o *Office) Forget(ctx context.Context, at time.Time) error {
	_, err := o.DB.ExecContext(ctx,
		`UPDATE post SET to_address = '', to_name = '' WHERE forget AND sent_at < $1 AND to_address <> ''`,
		at.Add(-AddressKept))
	return err
}

// Whole is a text as it goes out, with what stands under every letter.
func (o *Office) Whole(body string) string {
	if o.Under == nil {
		return body
	}
	return o.Under(body)
}

// Newest is the number of the letter that was written last; 0 when there is none.
func (o *Office) Newest(ctx context.Context, q db.Querier) (id int64, err error) {
	err = q.GetContext(ctx, &id, `SELECT COALESCE(max(id), 0) FROM post`)
	return id, err
}

// Written are the letters about a case that were written after one; whoever holds
// the case's lock wrote them.
func (o *Office) Written(ctx context.Context, q db.Querier, application, after int64) (out []Letter, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT kind, to_address AS "to", to_name AS toname, subject, body FROM post WHERE application_id = $1 AND id > $2 ORDER BY id`,
		application, after)
	return out, err
}

// WroteLately is the subject of the last letter of a kind about a case that was
// written since a time and not stopped; "" when there was none.
func (o *Office) WroteLately(ctx context.Context, q db.Querier, application int64, kind string,
	since time.Time) (subject string, err error) {
	err = q.GetContext(ctx, &subject, `
		SELECT COALESCE((SELECT subject FROM post WHERE application_id = $1 AND kind = $2 AND created_at > $3 AND state <> 'cancelled' ORDER BY id DESC LIMIT 1), '')`,
		application, kind, since)
	return subject, err
}

// Supersede stops for good what was to tell of a state that these entries leave.
func (o *Office) Supersede(ctx context.Context, tx *db.Tx, entries []int64) error {
	_, err := tx.ExecContext(ctx,
		`UPDATE post SET state = 'superseded' WHERE entry_id = ANY($1) AND holds <> '' AND state IN ('held', 'cancelled')`,
		entries)
	return err
}

// Cancel stops letters that are still held; it returns how many.
func (o *Office) Cancel(ctx context.Context, tx *db.Tx, ids []int64) (int64, error) {
	r, err := tx.ExecContext(ctx, `UPDATE post SET state = 'cancelled' WHERE id = ANY($1) AND state = 'held'`, ids)
	if err != nil {
		return 0, err
	}
	return r.RowsAffected()
}

// Reword changes the text of a letter that has not gone out; it reports whether there
// was one.
func (o *Office) Reword(ctx context.Context, tx *db.Tx, id int64, subject, body string) (bool, error) {
	r, err := tx.ExecContext(ctx,
		`UPDATE post SET subject = $2, body = $3 WHERE id = $1 AND state IN ('held', 'cancelled')`, id, subject, body)
	if err != nil {
		return false, err
	}
	n, err := r.RowsAffected()
	return n > 0, err
}

// Replace puts one sentence in place of another in letters that have not gone out.
func (o *Office) Replace(ctx context.Context, tx *db.Tx, ids []int64, was, is string) error {
	_, err := tx.ExecContext(ctx,
		`UPDATE post SET body = replace(body, $2, $3) WHERE id = ANY($1) AND state IN ('held', 'cancelled')`, ids, was, is)
	return err
}

// CancelOf stops the held letters of one kind for a case; it returns how many.
func (o *Office) CancelOf(ctx context.Context, tx *db.Tx, application int64, kind string) (int64, error) {
	var ids []int64
	if err := tx.SelectContext(ctx, &ids,
		`SELECT id FROM post WHERE application_id = $1 AND kind = $2 AND state = 'held'`, application, kind); err != nil {
		return 0, err
	}
	return o.Cancel(ctx, tx, ids)
}

// Release lets cancelled letters go out after all, at due.
func (o *Office) Release(ctx context.Context, tx *db.Tx, ids []int64, due time.Time) error {
	var back []int64
	if err := tx.SelectContext(ctx, &back, `
		UPDATE post SET state = 'held', due_at = $2 WHERE id = ANY($1) AND state = 'cancelled' RETURNING id`, ids, due); err != nil {
		return err
	}
	list := make([]jobs.Job, len(back))
	for i, id := range back {
		list[i] = jobs.Job{Args: send{id}, Due: due}
	}
	return o.Jobs.EnqueueAll(ctx, tx, list)
}

func (o *Office) deliver(ctx context.Context, at time.Time, b send) error {
	var p struct {
		ID          int64
		MessageID   string `db:"message_id"`
		BounceToken string `db:"bounce_token"`
		Kind        string
		Account     *int64    `db:"account_id"`
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
		Calendar    string
		Entry       *int64 `db:"entry_id"`
		Holds       string `db:"holds"`
		Act         *int64 `db:"act_id"`
	}
	err := o.DB.GetContext(ctx, &p, `
		SELECT id, message_id, bounce_token, kind, account_id, application_id, to_address, to_name, reply_to, subject, body, link_id, attach_seal, state, due_at, calendar, entry_id, holds, act_id
		FROM post WHERE id = $1`, b.Post)
	if err != nil || p.State != Held || p.Due.After(at) {
		return err
	}
	about := About{Kind: p.Kind, Holds: p.Holds}
	for to, from := range map[*int64]*int64{&about.Application: p.Application, &about.Entry: p.Entry, &about.Act: p.Act} {
		if from != nil {
			*to = *from
		}
	}
	if p.Entry != nil && p.Holds != "" && o.Holds != nil {
		holds, err := o.Holds(ctx, o.DB, about)
		if err != nil {
			return err
		}
		if !holds {
			return o.DB.Do(ctx, db.Job, at, func(ctx context.Context,
				tx *db.Tx) error {
				return o.Supersede(ctx, tx, []int64{*p.Entry})
			})
		}
	}
	host := o.From[strings.IndexByte(o.From, '@')+1:]
	m := mail.Message{ID: p.MessageID, From: o.From, FromName: o.Name(), To: p.To, ToName: p.ToName, ReplyTo: p.ReplyTo,
		BounceTo: "bounce+" + p.BounceToken + "@" + host, Subject: p.Subject, Body: p.Body, At: at,
		Calendar: p.Calendar, Method: invitation.MethodOf(p.Calendar)}
	if !isText(p.Kind) {
		m.Body = o.Whole(m.Body)
	}
	if p.Link != nil {
		path, err := o.Links.Path(ctx, o.DB, *p.Link)
		if err != nil {
			return err
		}
		m.Body = strings.ReplaceAll(m.Body, LinkMark, o.BaseURL+path)
	}
	if p.Application != nil && p.Link == nil && o.Copies != nil && !isText(p.Kind) {
		if m.Copies, err = o.Copies(ctx, p.Kind, *p.Application); err != nil {
			return err
		}
	}
	if p.Seal != nil {
		if m.AttachName, m.AttachBytes, err = o.Attach(ctx, *p.Seal); err != nil {
			return fmt.Errorf("making the copy: %w", err)
		}
	}
	var refused mail.Refused
	if err := o.Server.Send(ctx, m); err != nil && !errors.As(err, &refused) {
		return err
	}
	return o.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		r, err := tx.ExecContext(ctx,
			`UPDATE post SET state = 'sent', sent_at = $2, body = CASE WHEN forget THEN '' ELSE body END WHERE id = $1 AND state = 'held'`, p.ID,
			at)
		if err != nil {
			return err
		}
		if n, _ := r.RowsAffected(); n == 0 {
			return errors.New("the letter was stopped while it went out")
		}
		if p.Application != nil && o.OnSent != nil {
			if err := o.OnSent(ctx, tx, about); err != nil {
				return err
			}
		}
		if p.Application != nil && p.Account != nil {
			if err := o.tellByText(ctx, tx, *p.Account, p.Subject, about); err != nil {
				return err
			}
		}
		if refused.Status == "" {
			return nil
		}
		// the mail server would not take it: it came back at once
		back, ok, err := o.returned(ctx, tx, p.BounceToken, "")
		if err != nil || !ok {
			return err
		}
		back.Status, back.Diagnosis = refused.Status, refused.Diagnosis
		return o.comeBack(ctx, tx, back)
	})
}
