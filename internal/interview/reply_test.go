package interview_test

import (
	"context"
	"net/smtp"
	"strings"
	"testing"

	"github.com/emersion/go-ical"

	"ulvant/internal/interview"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/mail"
)

// A calendar program answers an invitation by mail, over SMTP: the answer stands as if it
// was given on the page. What answers an earlier time, leaves it open, or comes to an
// address that was not written here changes nothing.
func TestACalendarAnswers(t *testing.T) {
	t.Parallel()
	m := readRound(t, "Ann")
	m.Interviews.Takes = true
	m.lays(m.readers[:1], 2)
	if err := m.invites(nil, "Ann"); err != nil {
		t.Fatal(err)
	}
	m.gives()
	m.Drain()
	host := m.Interviews.Mail[strings.IndexByte(m.Interviews.Mail, '@')+1:]
	in, err := mail.Listen("127.0.0.1:0", host, func(context.Context, string, []byte) error { return mail.ErrNoReport },
		func(ctx context.Context, token string, raw []byte) error {
			return m.Interviews.Replied(ctx, m.Clock.Now(), token, raw)
		})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(in.Stop)
	var text string
	if err := m.DB.GetContext(t.Context(), &text,
		`SELECT calendar FROM post WHERE to_address = 'ann@corvoe.example' AND calendar <> '' ORDER BY id DESC LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	invited, err := ical.NewDecoder(strings.NewReader(text)).Decode()
	if err != nil {
		t.Fatal(err)
	}
	e := invited.Events()[0]
	organiser := strings.TrimPrefix(e.Props.Get(ical.PropOrganizer).Value, "mailto:")
	uid, sequence := e.Props.Get(ical.PropUID).Value, e.Props.Get(ical.PropSequence).Value
	answers := func(to, sequence, status, comment string) error {
		lines := []string{"From: ann@corvoe.example", "To: " + to, "Subject: Answer", "MIME-Version: 1.0",
			`Content-Type: multipart/alternative; boundary="b"`, "", "--b", "Content-Type: text/plain", "", "Ann answers.",
			"--b",
			"Content-Type: text/calendar; charset=utf-8; method=REPLY", "", "BEGIN:VCALENDAR", "PRODID:-//Example//EN",
			"VERSION:2.0", "METHOD:REPLY",
			"BEGIN:VEVENT", "UID:" + uid, "SEQUENCE:" + sequence, "DTSTAMP:20270301T080000Z", "ORGANIZER:mailto:" + to,
			"ATTENDEE;PARTSTAT=" + status + ":mailto:ann@corvoe.example"}
		if comment != "" {
			lines = append(lines, "COMMENT:"+comment)
		}
		lines = append(lines, "END:VEVENT", "END:VCALENDAR", "", "--b--", "")
		return smtp.SendMail(in.Addr, nil, "ann@corvoe.example", []string{to}, []byte(strings.Join(lines, "\r\n")))
	}
	for _, c := range []struct {
		says, to, sequence, status, comment string
		want                                interview.Reply
		why                                 string
	}{
		{"perhaps", organiser, sequence, "TENTATIVE", "", interview.Silent, ""},
		{"an earlier time", organiser, "0", "ACCEPTED", "", interview.Silent, ""},
		{"an address that was not written here", strings.Replace(organiser, "answer+", "answer+9", 1), sequence, "ACCEPTED",
			"", interview.Silent, ""},
		{"accepted", organiser, sequence, "ACCEPTED", "", interview.Comes, ""},
		{"declined with a word", organiser, sequence, "DECLINED", "I am at sea", interview.Cannot, "I am at sea"},
		{"comes after all", organiser, sequence, "ACCEPTED", "", interview.Comes, ""},
		{"declined without a word", organiser, sequence, "DECLINED", "", interview.Cannot,
			"Declined in their calendar, without a word."},
	} {
		if err := answers(c.to, c.sequence, c.status, c.comment); err != nil {
			t.Errorf("%s: %v", c.says, err)
		}
		if x := m.of("Ann"); x.Reply != c.want || x.Why != c.why {
			t.Errorf("%s: %q, %q", c.says, x.Reply, x.Why)
		}
	}
	// moved to another time, the address stays, and what answered the old time is over
	if err := m.by(m.Officer, "Ann", func(ctx context.Context, tx *db.Tx) error {
		return m.Interviews.Move(ctx, tx, m.Of["Ann"], m.slot(1).ID, "The boat is late.")
	}); err != nil {
		t.Fatal(err)
	}
	if err := answers(organiser, sequence, "ACCEPTED", ""); err != nil || m.of("Ann").Reply != interview.Silent {
		t.Errorf("an answer to the time before: %v, %q", err, m.of("Ann").Reply)
	}
}
