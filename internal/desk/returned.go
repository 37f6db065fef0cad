package desk

import (
	"context"
	"strings"
	"time"
)

// Returned is a mail of no application that came back.
type Returned struct {
	To      string `db:"to_address"`
	Name    string `db:"to_name"`
	Subject string
	At      time.Time `db:"bounced_at"`
	Bounce  string    // status and reason
}

// Status of it (RFC 3463), such as 5.1.1.
func (r Returned) Status() string {
	status, _, _ := strings.Cut(r.Bounce, " ")
	return status
}

// Returned lists mails that came back and belong to no application, the latest
// first: confirmations of an address, links to readers and officers. Those of an
// application stand with it.
func (d *Desk) Returned(ctx context.Context, most int) (out []Returned, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT to_address, to_name, subject, bounced_at, bounce FROM post
		WHERE bounced_at IS NOT NULL AND COALESCE(application_id, 0) = 0 ORDER BY bounced_at DESC LIMIT $1`, most)
	return out, err
}
