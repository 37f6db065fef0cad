package mail

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/textproto"
	"strings"

	"github.com/emersion/go-message"
	_ "github.com/emersion/go-message/charset" // reports in other character sets
)

// Report is a delivery status notification: what a mail server says became of a
// mail (RFC 3464, a multipart/report of RFC 6522 within RFC 5322).
type Report struct {
	MessageID  string // of the mail it is about, without angle brackets; "" when the report does not hold it
	Recipients []Fate
}

// Fate is what became of a mail for one recipient.
type Fate struct {
	Address   string // the one it was sent to first, where the report says so
	Action    string // failed, delayed, delivered, relayed, expanded
	Status    string // such as 5.1.1 (RFC 3463)
	Diagnosis string // the mail server's own words; "" for none
}

// Failed reports a mail that never arrives.
func (f Fate) Failed() bool { return f.Action == "failed" }

// ErrNoReport: a mail that is no delivery status notification.
var ErrNoReport = errors.New("this mail is no delivery report")

// mostReport is how much of a report is read.
const mostReport = 1 << 20

// ParseReport reads a delivery status notification.
func ParseReport(raw []byte) (r Report, err error) {
	m, err := message.Read(bytes.NewReader(raw))
	if err != nil && !message.IsUnknownCharset(err) {
		return r, fmt.Errorf("%w: %w", ErrNoReport, err)
	}
	kind, params, err := m.Header.ContentType()
	if err != nil || kind != "multipart/report" || !strings.EqualFold(params["report-type"], "delivery-status") {
		return r, ErrNoReport
	}
	parts := m.MultipartReader()
	for parts != nil {
		p, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil && !message.IsUnknownCharset(err) {
			return r, fmt.Errorf("%w: %w", ErrNoReport, err)
		}
		kind, _, _ := p.Header.ContentType()
		switch kind {
		case "message/delivery-status", "message/global-delivery-status":
			if r.Recipients, err = fates(p.Body); err != nil {
				return r, err
			}
		case "message/rfc822", "text/rfc822-headers", "message/rfc822-headers", "message/global":
			h, _ := textproto.NewReader(bufio.NewReader(io.LimitReader(p.Body, mostReport))).ReadMIMEHeader()
			r.MessageID = strings.Trim(strings.TrimSpace(h.Get("Message-Id")), "<>")
		}
	}
	if len(r.Recipients) == 0 {
		return r, ErrNoReport
	}
	return r, nil
}

// fates reads the groups of fields of a delivery-status part: the first is about
// the mail as a whole, each after it about one recipient (RFC 3464, section 2.1).
func fates(body io.Reader) (out []Fate, err error) {
	raw, err := io.ReadAll(io.LimitReader(body, mostReport))
	if err != nil {
		return nil, err
	}
	text := bytes.ReplaceAll(raw, []byte("\r\n"), []byte("\n"))
	for _, group := range bytes.Split(text, []byte("\n\n")) {
		group = append(bytes.Trim(group, "\n"), "\n\n"...)
		h, err := textproto.NewReader(bufio.NewReader(bytes.NewReader(group))).ReadMIMEHeader()
		if err != nil && len(h) == 0 {
			continue
		}
		final := typed(h.Get("Final-Recipient"))
		if final == "" { // the fields about the mail
			continue
		}
		f := Fate{Address: final, Action: strings.ToLower(plain(h.Get("Action"))), Status: plain(h.Get("Status")),
			Diagnosis: typed(h.Get("Diagnostic-Code"))}
		if first := typed(h.Get("Original-Recipient")); first != "" {
			f.Address = first
		}
		out = append(out, f)
	}
	return out, nil
}

// typed is what stands behind the type of a field: rfc822; ada@tarl.example.
func typed(v string) string {
	_, after, ok := strings.Cut(v, ";")
	if !ok {
		return ""
	}
	return strings.TrimSpace(after)
}

// plain is a field without the comment that may follow it: 5.1.1 (bad mailbox).
func plain(v string) string {
	v, _, _ = strings.Cut(v, "(")
	v = strings.TrimSpace(v)
	if i := strings.IndexAny(v, " \t;"); i > 0 {
		v = v[:i]
	}
	return v
}
