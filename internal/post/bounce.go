package post

import (
	"context"
	"database/sql"
	"errors"
	"strings"
	"time"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/platform/mail"
)

// Returned is a mail that came back.
type Returned struct {
	ID          int64
	Kind        string
	Account     int64 // whose it was; 0 for somebody without one
	Application int64
	Round       int64
	To          string
	Link        int64
	Purpose     link.Purpose // of the personal link in it; "" for none
	Subject     int64        // of that link
	Status      string       // RFC 3463
	Diagnosis   string       // in the mail server's words
}

// Bounced takes what a mail server says of one of our mails, by the token in the
// address that it came back to. Said twice, it is taken once; what is no report
// that a mail failed changes nothing.
func (o *Office) Bounced(ctx context.Context, at time.Time, token string, raw []byte) error {
	report, err := mail.ParseReport(raw)
	if err != nil {
		return err
	}
	return o.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		for _, f := range report.Recipients {
			if !f.Failed() {
				continue
			}
			p, ok, err := o.returned(ctx, tx, token, f.Address)
			if err != nil || !ok {
				return err
			}
			p.Status, p.Diagnosis = f.Status, f.Diagnosis
			return o.comeBack(ctx, tx, p)
		}
		return nil
	})
}

// comeBack records that a mail came back, and tells whoever owns what it asked.
func (o *Office) comeBack(ctx context.Context, tx *db.Tx, p Returned) error {
	if len(p.Diagnosis) > 500 {
		p.Diagnosis = strings.ToValidUTF8(p.Diagnosis[:500], "")
	}
	r, err := tx.ExecContext(
		ctx,
		`UPDATE post SET bounced_at = $2, bounce = $3 WHERE id = $1 AND bounced_at IS NULL`,
		p.ID,
		tx.At,
		strings.TrimSpace(p.Status+" "+p.Diagnosis),
	)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 || o.OnBounce == nil {
		return nil
	}
	return o.OnBounce(ctx, tx, p)
}

// returned is the mail of a token, if it went to this address: a copy that comes
// back is not its fate. A report may come before the mail is recorded as sent;
// that there is one shows that it left.
func (o *Office) returned(ctx context.Context, tx *db.Tx, token, to string) (p Returned, ok bool, err error) {
	var row struct {
		ID          int64
		Kind        string
		Account     *int64 `db:"account_id"`
		Application *int64 `db:"application_id"`
		Round       *int64 `db:"round_id"`
		To          string `db:"to_address"`
		Link        *int64 `db:"link_id"`
		Purpose     *link.Purpose
		Subject     *int64
	}
	err = tx.GetContext(ctx, &row, `
		SELECT p.id, p.kind, p.account_id, p.application_id, p.round_id, p.to_address, p.link_id, l.purpose, l.subject
		FROM post p LEFT JOIN link l ON l.id = p.link_id WHERE p.bounce_token = $1`, token)
	if errors.Is(err, sql.ErrNoRows) {
		return p, false, nil
	}
	if err != nil || to != "" && !strings.EqualFold(row.To, to) {
		return p, false, err
	}
	p = Returned{ID: row.ID, Kind: row.Kind, To: row.To}
	for into, from := range map[*int64]*int64{
		&p.Account: row.Account, &p.Application: row.Application, &p.Round: row.Round,
		&p.Link: row.Link, &p.Subject: row.Subject,
	} {
		if from != nil {
			*into = *from
		}
	}
	if row.Purpose != nil {
		p.Purpose = *row.Purpose
	}
	return p, true, nil
}

// SendOn sends a mail that came back to another address of the same person, as
// it was: its link still works.
func (o *Office) SendOn(ctx context.Context, tx *db.Tx, id int64, to string) error {
	var l struct {
		Kind    string
		Account *int64 `db:"account_id"`
		App     *int64 `db:"application_id"`
		Round   *int64 `db:"round_id"`
		ToName  string `db:"to_name"`
		ReplyTo string `db:"reply_to"`
		Subject string
		Body    string
		Link    *int64 `db:"link_id"`
		Seal    *int64 `db:"attach_seal"`
	}
	if err := tx.GetContext(ctx, &l, `SELECT kind, account_id, application_id, round_id, to_name, reply_to, subject, body, link_id, attach_seal
		FROM post WHERE id = $1`, id); err != nil {
		return err
	}
	again := Letter{Kind: l.Kind + "-again", To: to, ToName: l.ToName, ReplyTo: l.ReplyTo, Subject: l.Subject,
		Body: "This came back from your first address, so it comes to your second.\n\n" + l.Body}
	for into, from := range map[*int64]*int64{
		&again.Account: l.Account, &again.Application: l.App, &again.Round: l.Round, &again.Link: l.Link, &again.Seal: l.Seal,
	} {
		if from != nil {
			*into = *from
		}
	}
	_, err := o.Queue(ctx, tx, again)
	return err
}
