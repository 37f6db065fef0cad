// Package tray is the stand-in for a mail server, and for a gateway that makes
// text messages of mails to a number: an SMTP server on loopback that delivers
// nothing and keeps every mail as a file (RFC 5322), to be read in the browser
// while the program runs as a demo or under test.
package tray

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-message"
	_ "github.com/emersion/go-message/charset" // mails in other character sets
	"github.com/emersion/go-message/mail"
	"github.com/emersion/go-smtp"
)

// Mail in the tray.
type Mail struct {
	ID         string // its file's name
	At         time.Time
	From, To   string
	Copies     []string
	Subject    string
	Body       string
	Attachment string // its file name; "" for none
	Bytes      []byte // of the attachment
}

// Phone is the number that a mail goes to as a text message; "" for a mail.
func (m Mail) Phone() string {
	if number, _, ok := strings.Cut(m.To, "@"); ok && strings.HasPrefix(number, "+") {
		return number
	}
	return ""
}

// Tray is the stand-in.
type Tray struct {
	Addr string
	dir  string
	srv  *smtp.Server
	mu   sync.Mutex
	last int
	all  []Mail
	back string         // address of the server that takes what comes back; "" for none
	lost []string       // domains that there are not
	ways sync.WaitGroup // reports that are on their way
}

// Start listens on addr ("127.0.0.1:0" for any port) and keeps mails in dir.
func Start(addr, dir string) (*Tray, error) {
	host, _, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		return nil, fmt.Errorf("the mail tray listens on loopback only, not on %q", addr)
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, err
	}
	t := &Tray{dir: dir}
	names, err := filepath.Glob(filepath.Join(dir, "*.eml"))
	if err != nil {
		return nil, err
	}
	slices.Sort(names)
	for _, n := range names {
		raw, err := os.ReadFile(n)
		if err != nil {
			return nil, err
		}
		t.add(filepath.Base(n), raw)
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("the mail tray cannot listen on %s; is another demo running? %w", addr, err)
	}
	t.Addr = l.Addr().String()
	t.srv = smtp.NewServer(t)
	t.srv.Domain, t.srv.AllowInsecureAuth = "localhost", true
	t.srv.MaxMessageBytes, t.srv.ReadTimeout, t.srv.WriteTimeout = 20<<20, 30*time.Second, 30*time.Second
	go t.srv.Serve(l)
	return t, nil
}

// Stop listening, once what is on its way back has arrived.
func (t *Tray) Stop() {
	t.srv.Close()
	t.ways.Wait()
}

// NewSession takes one connection.
func (t *Tray) NewSession(*smtp.Conn) (smtp.Session, error) { return &session{t: t}, nil }

type session struct {
	t    *Tray
	from string   // the envelope's sender
	to   []string // its recipients
}

func (s *session) Reset()        { s.from, s.to = "", nil }
func (s *session) Logout() error { return nil }

func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	return nil
}

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	if !strings.Contains(to, "@") {
		return &smtp.SMTPError{Code: 550, Message: "no such mailbox"}
	}
	s.to = append(s.to, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	s.t.mu.Lock()
	s.t.last = max(s.t.last, len(s.t.all)) + 1
	name := fmt.Sprintf("%06d.eml", s.t.last)
	s.t.mu.Unlock()
	if err := os.WriteFile(filepath.Join(s.t.dir, name), raw, 0o644); err != nil {
		return err
	}
	s.t.add(name, raw)
	for _, to := range s.to {
		s.t.sendBack(s.from, to, raw)
	}
	return nil
}

func (t *Tray) add(name string, raw []byte) {
	m, err := read(raw)
	if err != nil {
		m = Mail{Subject: "a mail that cannot be read: " + err.Error()}
	}
	m.ID = name
	t.mu.Lock()
	t.all = append(t.all, m)
	t.mu.Unlock()
}

func read(raw []byte) (m Mail, err error) {
	r, err := mail.CreateReader(bytes.NewReader(raw))
	if err != nil && !message.IsUnknownCharset(err) {
		return m, err
	}
	m.Subject, _ = r.Header.Subject()
	m.At, _ = r.Header.Date()
	for key, to := range map[string]*string{"From": &m.From, "To": &m.To} {
		if list, err := r.Header.AddressList(key); err == nil && len(list) > 0 {
			*to = list[0].Address
		}
	}
	if list, err := r.Header.AddressList("Cc"); err == nil {
		for _, a := range list {
			m.Copies = append(m.Copies, a.Address)
		}
	}
	for {
		p, err := r.NextPart()
		if errors.Is(err, io.EOF) {
			return m, nil
		}
		if err != nil && !message.IsUnknownCharset(err) {
			return m, err
		}
		b, err := io.ReadAll(p.Body)
		if err != nil {
			return m, err
		}
		switch h := p.Header.(type) {
		case *mail.InlineHeader:
			m.Body += strings.ReplaceAll(string(b), "\r\n", "\n")
		case *mail.AttachmentHeader:
			m.Attachment, _ = h.Filename()
			m.Bytes = b
		}
	}
}

// List the mails to an address ("" for all), the latest first, from an offset.
func (t *Tray) List(to string, offset, most int) (out []Mail, more bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for i := len(t.all) - 1; i >= 0; i-- {
		if to != "" && !strings.EqualFold(t.all[i].To, to) &&
			!slices.ContainsFunc(t.all[i].Copies, func(c string) bool { return strings.EqualFold(c, to) }) {
			continue
		}
		if offset > 0 {
			offset--
			continue
		}
		if len(out) == most {
			return out, true
		}
		out = append(out, t.all[i])
	}
	return out, false
}

// Find a mail.
func (t *Tray) Find(id string) (Mail, bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for _, m := range t.all {
		if m.ID == id {
			return m, true
		}
	}
	return Mail{}, false
}
