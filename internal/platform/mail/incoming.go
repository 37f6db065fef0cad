package mail

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"strings"
	"time"

	"github.com/emersion/go-smtp"
)

// Incoming takes the mails that come back: an SMTP server for the addresses
// bounce+token@host that every mail names as its envelope's sender, for the addresses
// answer+token@host to which calendar programs answer an invitation, and for no others. A
// mail server in front of it hands them on.
type Incoming struct {
	Addr string // listened on
	srv  *smtp.Server
}

// Take is told of a mail that came back, by the token of the one it is about, or of an
// answer. A mail is taken once it returns nil; it may be handed in twice.
type Take func(ctx context.Context, token string, raw []byte) error

// The mailboxes there are.
const (
	bounces = "bounce+"
	answers = "answer+"
)

// AnswersAt is the address of an answer.
func AnswersAt(token, host string) string { return answers + token + "@" + host }

// Listen on addr for mails to bounce+token@host, and to answer+token@host.
func Listen(addr, host string, take, answered Take) (*Incoming, error) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("mails that come back cannot be taken on %s: %w", addr, err)
	}
	in := &Incoming{Addr: l.Addr().String()}
	in.srv = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) {
		return &incoming{host: host, take: take, answered: answered}, nil
	}))
	in.srv.Domain = host
	in.srv.MaxMessageBytes, in.srv.MaxRecipients = mostReport, 4
	in.srv.ReadTimeout, in.srv.WriteTimeout = 30*time.Second, 30*time.Second
	go in.srv.Serve(l)
	return in, nil
}

// Stop listening.
func (in *Incoming) Stop() { in.srv.Close() }

type incoming struct {
	host           string
	take, answered Take
	token          string
	answer         bool // it is an answer
}

func (s *incoming) Reset()                               { s.token = "" }
func (s *incoming) Logout() error                        { return nil }
func (s *incoming) Mail(string, *smtp.MailOptions) error { return nil }

// Rcpt takes the addresses of mails that come back, and no others.
func (s *incoming) Rcpt(to string, _ *smtp.RcptOptions) error {
	token, ok := TokenIn(to, s.host, bounces)
	if s.answer = !ok; s.answer {
		token, ok = TokenIn(to, s.host, answers)
	}
	if !ok {
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "no such mailbox here"}
	}
	s.token = token
	return nil
}

func (s *incoming) Data(r io.Reader) error {
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	take := s.take
	if s.answer {
		take = s.answered
	}
	if err := take(ctx, s.token, raw); err != nil && !errors.Is(err, ErrNoReport) {
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "try again later"}
	}
	return nil
}

// TokenIn is the token of an address of one of the mailboxes, such as bounce+token@host.
func TokenIn(address, host, box string) (token string, ok bool) {
	local, domain, _ := strings.Cut(strings.ToLower(strings.Trim(address, "<> ")), "@")
	token, found := strings.CutPrefix(local, box)
	return token, found && token != "" && domain == strings.ToLower(host)
}
