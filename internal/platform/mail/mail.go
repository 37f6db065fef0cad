// Package mail hands messages to a mail server over SMTP.
package mail

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"net"
	"strconv"
	"strings"
	"time"

	gomail "github.com/wneessen/go-mail"
)

// Message is one mail.
type Message struct {
	ID          string // without angle brackets
	From        string
	FromName    string
	To, ToName  string
	Copies      []string // addresses
	ReplyTo     string
	BounceTo    string // envelope sender
	Subject     string
	Body        string
	At          time.Time
	AttachName  string // "" for no attachment
	AttachBytes []byte
	Calendar    string // an iCalendar object beside the text; "" for none
	Method      string // of that object
}

// Server is where mails go.
type Server struct{ Addr string }

// Send delivers one message. A mail server on loopback is spoken to in the
// clear; any other must offer TLS.
func (s Server) Send(ctx context.Context, m Message) error {
	host, port, err := net.SplitHostPort(s.Addr)
	if err != nil {
		return err
	}
	n, err := strconv.Atoi(port)
	if err != nil {
		return err
	}
	msg := gomail.NewMsg()
	if err := msg.EnvelopeFrom(m.BounceTo); err != nil {
		return err
	}
	if err := msg.FromFormat(clean(m.FromName), m.From); err != nil {
		return err
	}
	if err := msg.AddToFormat(clean(m.ToName), m.To); err != nil {
		return err
	}
	for _, c := range m.Copies {
		if err := msg.AddCc(c); err != nil {
			return err
		}
	}
	if m.ReplyTo != "" {
		if err := msg.ReplyTo(m.ReplyTo); err != nil {
			return err
		}
	}
	msg.SetMessageIDWithValue(m.ID)
	msg.SetDateWithValue(m.At)
	msg.Subject(clean(m.Subject))
	msg.SetBodyString(gomail.TypeTextPlain, m.Body)
	if m.Calendar != "" { // as RFC 6047, 2.4 has it
		msg.AddAlternativeString(gomail.ContentType("text/calendar; method="+m.Method), m.Calendar)
	}
	if m.AttachName != "" {
		if err := msg.AttachReader(m.AttachName, bytes.NewReader(m.AttachBytes),
			gomail.WithFileContentType("application/pdf")); err != nil {
			return err
		}
	}
	policy := gomail.TLSMandatory
	if ip := net.ParseIP(host); ip != nil && ip.IsLoopback() {
		policy = gomail.NoTLS
	}
	client, err := gomail.NewClient(host, gomail.WithPort(n), gomail.WithTLSPortPolicy(policy),
		gomail.WithTimeout(20*time.Second), gomail.WithoutNoop())
	if err != nil {
		return err
	}
	gomail.WithPort(n)(client)
	err = client.DialAndSendWithContext(ctx, msg)
	var failed *gomail.SendError
	if errors.As(err, &failed) && !failed.IsTemp() && failed.Reason == gomail.ErrSMTPRcptTo &&
		failed.ErrorCode()/100 == 5 {
		return Refused{cmp.Or(failed.EnhancedStatusCode(), "5.0.0"), failed.Error()}
	}
	return err
}

// Refused says that the mail server will never take a mail for its recipient: it
// came back before it left.
type Refused struct{ Status, Diagnosis string }

// Error in the mail server's words.
func (r Refused) Error() string { return "the mail server refuses it: " + r.Diagnosis }

// clean keeps a text to one line of a header.
func clean(s string) string { return strings.Join(strings.Fields(s), " ") }
