package post

import (
	"context"
	"strings"

	"ulvant/core/say"
	"ulvant/internal/platform/db"
)

// Text messages go out by the mail server too, to the number at the domain of a
// gateway that turns mails into text messages: their bounces, their holds and
// their fate are those of a mail.

// The kinds of text message.
const (
	textAbout   = "text"
	TextConfirm = "text-confirm"
)

// isText reports a kind that goes out as a text message.
func isText(kind string) bool { return kind == textAbout || kind == TextConfirm }

// TextAddress is where a text message to a number is sent; number is in the form
// of E.164.
func (o *Office) TextAddress(number string) string { return number + "@" + o.TextDomain }

// TextNumber is the number that an address of a text message stands for; "" for
// the address of a mail.
func TextNumber(to string) string {
	if number, _, ok := strings.Cut(to, "@"); ok && strings.HasPrefix(number, "+") &&
		strings.Trim(number, "+0123456789") == "" {
		return number
	}
	return ""
}

// tellByText queues the message that tells of a letter that left, to whoever
// chose them, by day. What the letter told of and no longer holds is not told.
func (o *Office) tellByText(ctx context.Context, tx *db.Tx, account int64, subject string, about About) error {
	if o.TextDomain == "" || o.TextsTo == nil || !say.Texted(about.Kind) {
		return nil
	}
	number, err := o.TextsTo(ctx, tx, account)
	if err != nil || number == "" {
		return err
	}
	ref := ""
	if o.RefOf != nil {
		if ref, err = o.RefOf(ctx, tx, about.Application); err != nil {
			return err
		}
	}
	l := Letter{Kind: textAbout, Account: account, Application: about.Application, To: o.TextAddress(number),
		Subject: subject, Body: say.Text(o.Name(), subject, ref, o.BaseURL), Due: tx.At,
		Entry: about.Entry, Holds: about.Holds, Act: about.Act}
	if o.ByDay != nil {
		l.Due = o.ByDay(tx.At)
	}
	_, err = o.Queue(ctx, tx, l)
	return err
}
