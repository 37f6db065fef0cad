package tray

import (
	"fmt"
	"net/smtp"
	"slices"
	"strings"
)

// SendBack has the tray play the mail servers of the world in one more way: a
// mail to a mailbox that there is not comes back to its envelope's sender, over
// SMTP to addr, as a delivery status notification (RFC 3464). There are no
// mailboxes in the domains of lost, in .invalid (RFC 2606), and none whose name
// begins with "gone.".
func (t *Tray) SendBack(addr string, lost []string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.back, t.lost = addr, lost
}

// Returned waits until every report that is on its way has arrived.
func (t *Tray) Returned() { t.ways.Wait() }

// fate of a mail: the status and the words of a failure; "" when it arrives.
func (t *Tray) fate(to string) (status, words string) {
	local, domain, _ := strings.Cut(strings.ToLower(to), "@")
	switch {
	case strings.HasSuffix(domain, ".invalid") || slices.Contains(t.lost, domain):
		return "5.1.2", "550 5.1.2 no such domain: " + domain
	case strings.HasPrefix(local, "gone."):
		return "5.1.1", "550 5.1.1 no such mailbox: " + to
	}
	return "", ""
}

// sendBack reports that a mail cannot be delivered, where it cannot.
func (t *Tray) sendBack(from, to string, raw []byte) {
	t.mu.Lock()
	addr := t.back
	status, words := t.fate(to)
	t.mu.Unlock()
	if addr == "" || status == "" || from == "" {
		return
	}
	report := Report(from, to, status, words, raw)
	t.ways.Add(1)
	go func() {
		defer t.ways.Done()
		// nobody can be told of a report that is not taken: it is lost, as it would be
		_ = smtp.SendMail(addr, nil, "", []string{from}, report)
	}()
}

// Report is a delivery status notification of a mail that failed.
func Report(from, to, status, words string, raw []byte) []byte {
	head, _, _ := strings.Cut(strings.ReplaceAll(string(raw), "\r\n", "\n"), "\n\n")
	const boundary = "came-back"
	return []byte(strings.ReplaceAll(fmt.Sprintf(`From: Mail Delivery <postmaster@mail.example>
To: <%s>
Subject: Undelivered mail
MIME-Version: 1.0
Auto-Submitted: auto-replied
Content-Type: multipart/report; report-type=delivery-status; boundary="%s"

--%s
Content-Type: text/plain; charset=utf-8

Your mail to %s could not be delivered: %s

--%s
Content-Type: message/delivery-status

Reporting-MTA: dns; mail.example

Original-Recipient: rfc822; %s
Final-Recipient: rfc822; %s
Action: failed
Status: %s
Diagnostic-Code: smtp; %s

--%s
Content-Type: text/rfc822-headers

%s

--%s--
`, from, boundary, boundary, to, words, boundary, to, to, status, words, boundary, head, boundary), "\n", "\r\n"))
}
