package mail

import (
	"errors"
	"strings"
	"testing"
)

func report(lines ...string) []byte { return []byte(strings.Join(lines, "\r\n")) }

// The first three are written by hand from the examples of RFC 3464, appendix E,
// from memory; the others from its section 2 and RFC 5322.
func TestParseReport(t *testing.T) {
	simple := report(
		"Date: Thu, 7 Jul 1994 17:16:05 -0400",
		"From: Mail Delivery Subsystem <MAILER-DAEMON@CS.UTK.EDU>",
		"Message-Id: <199407072116.RAA14128@CS.UTK.EDU>",
		"Subject: Returned mail: Cannot send message for 5 days",
		"To: <owner-info-mime@cs.utk.edu>",
		"MIME-Version: 1.0",
		`Content-Type: multipart/report; report-type=delivery-status;`,
		`      boundary="RAA14128.773615765/CS.UTK.EDU"`,
		"",
		"--RAA14128.773615765/CS.UTK.EDU",
		"",
		"The original message was received at Sat, 2 Jul 1994 17:10:28 -0400",
		"",
		"--RAA14128.773615765/CS.UTK.EDU",
		"content-type: message/delivery-status",
		"",
		"Reporting-MTA: dns; cs.utk.edu",
		"",
		"Original-Recipient: rfc822;louisl@larry.slip.umd.edu",
		"Final-Recipient: rfc822;louisl@larry.slip.umd.edu",
		"Action: failed",
		"Status: 4.0.0",
		"Diagnostic-Code: smtp; 426 connection timed out",
		"Last-Attempt-Date: Thu, 7 Jul 1994 17:15:49 -0400",
		"",
		"--RAA14128.773615765/CS.UTK.EDU",
		"content-type: message/rfc822",
		"",
		"Message-Id: <abc123@trust.example>",
		"To: louisl@larry.slip.umd.edu",
		"",
		"[original message goes here]",
		"",
		"--RAA14128.773615765/CS.UTK.EDU--", "")
	several := report(
		"From: <postmaster@nsfnet.example>",
		"Subject: Delivery report",
		"MIME-Version: 1.0",
		`Content-Type: multipart/report; report-type="Delivery-Status"; boundary=b`,
		"",
		"--b",
		"Content-Type: text/plain",
		"",
		"words for people",
		"--b",
		"Content-Type: message/delivery-status",
		"",
		"Reporting-MTA: dns; mail.example",
		"Original-Envelope-ID: 0713500219389",
		"",
		"Final-Recipient: rfc822;arathib@vnet.example",
		"Action: failed (bad mailbox)",
		"Status: 5.0.0 (permanent failure)",
		"Diagnostic-Code: smtp;",
		"  550 'arathib@vnet.example' is not a",
		"  registered gateway user",
		"",
		"Final-Recipient: rfc822;johnh@hpnjld.example",
		"Action: delayed",
		"Status: 4.0.0 (hpnjld.example: connection timed out)",
		"",
		"Final-Recipient: rfc822;wsnell@sdcc13.example",
		"Original-Recipient: rfc822;snell@sdcc.example",
		"Action: Delivered",
		"Status: 2.0.0",
		"--b",
		"Content-Type: text/rfc822-headers",
		"",
		"Message-ID:",
		"  <xyz@trust.example>",
		"Subject: folded",
		"--b--", "")
	for _, c := range []struct {
		name string
		raw  []byte
		want Report
	}{
		{"one recipient, the whole mail sent back", simple, Report{"abc123@trust.example",
			[]Fate{{"louisl@larry.slip.umd.edu", "failed", "4.0.0", "426 connection timed out"}}}},
		{"several, with comments and folded lines", several, Report{"xyz@trust.example", []Fate{
			{"arathib@vnet.example", "failed", "5.0.0", "550 'arathib@vnet.example' is not a registered gateway user"},
			{"johnh@hpnjld.example", "delayed", "4.0.0", ""},
			{"snell@sdcc.example", "delivered", "2.0.0", ""}}}},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, err := ParseReport(c.raw)
			if err != nil || got.MessageID != c.want.MessageID || len(got.Recipients) != len(c.want.Recipients) {
				t.Fatalf("%+v %v", got, err)
			}
			for i, f := range got.Recipients {
				if f != c.want.Recipients[i] {
					t.Errorf("%+v, want %+v", f, c.want.Recipients[i])
				}
				if f.Failed() != (f.Action == "failed") {
					t.Error(f)
				}
			}
		})
	}
}

func TestNoReport(t *testing.T) {
	for name, raw := range map[string]string{
		"an answer by hand": "From: a@b.example\r\nSubject: Re: a letter\r\n\r\nI am away.\r\n",
		"a report of reading": "Content-Type: multipart/report; report-type=disposition-notification; boundary=b\r\n\r\n" +
			"--b\r\n\r\nread\r\n--b--\r\n",
		"a report without recipients": "Content-Type: multipart/report; report-type=delivery-status; boundary=b\r\n\r\n" +
			"--b\r\nContent-Type: message/delivery-status\r\n\r\nReporting-MTA: dns; x\r\n--b--\r\n",
		"cut off": "Content-Type: multipart/report; report-type=delivery-status; boundary=b\r\n\r\n--b\r\nContent-Ty",
		"nothing": "", "no boundary": "Content-Type: multipart/report; report-type=delivery-status\r\n\r\nx",
	} {
		if r, err := ParseReport([]byte(raw)); !errors.Is(err, ErrNoReport) {
			t.Errorf("%s: %+v %v", name, r, err)
		}
	}
}

func FuzzParseReport(f *testing.F) {
	f.Add([]byte("Content-Type: multipart/report; report-type=delivery-status; boundary=b\r\n\r\n--b\r\n" +
		"Content-Type: message/delivery-status\r\n\r\nA: b\r\n\r\nFinal-Recipient: rfc822;x\r\nAction: failed\r\n--b--\r\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		r, err := ParseReport(raw)
		if err == nil && len(r.Recipients) == 0 {
			t.Error("a report about nobody")
		}
	})
}
