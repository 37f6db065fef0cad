package invitation

import (
	"strings"
	"testing"
)

// The reply of RFC 5546, 4.2.2 (an attendee accepts), and others in its form.
func TestParseReply(t *testing.T) {
	text := func(lines ...string) string {
		return strings.Join(append(append([]string{"BEGIN:VCALENDAR", "PRODID:-//Example/ExampleCalendarClient//EN",
			"METHOD:REPLY", "VERSION:2.0",
			"BEGIN:VEVENT"}, lines...), "END:VEVENT", "END:VCALENDAR", ""), "\r\n")
	}
	uid, org := "UID:calsrv.example.com-873970198738777@example.com", "ORGANIZER:mailto:a@example.com"
	for _, c := range []struct {
		says, text string
		want       Reply
		ok         bool
	}{
		{"accepts", text("ATTENDEE;PARTSTAT=ACCEPTED:mailto:b@example.com", org, uid, "SEQUENCE:0",
			"REQUEST-STATUS:2.0;Success", "DTSTAMP:19970612T190000Z"),
			Reply{"calsrv.example.com-873970198738777@example.com", 0, "b@example.com", Accepted, ""}, true},
		{"declines, with a word", text("ATTENDEE;CN=B;PARTSTAT=declined:MAILTO:B@Example.com", org, uid, "SEQUENCE:3",
			"COMMENT:I am at sea\\, sorry", "DTSTAMP:19970612T190000Z"),
			Reply{"calsrv.example.com-873970198738777@example.com", 3, "b@example.com", Declined, "I am at sea, sorry"}, true},
		{"perhaps", text("ATTENDEE;PARTSTAT=TENTATIVE:mailto:b@example.com", org, uid, "DTSTAMP:19970612T190000Z"),
			Reply{"calsrv.example.com-873970198738777@example.com", 0, "b@example.com", "TENTATIVE", ""}, true},
		{"for two", text("ATTENDEE;PARTSTAT=ACCEPTED:mailto:b@example.com",
			"ATTENDEE;PARTSTAT=ACCEPTED:mailto:c@example.com", org, uid, "DTSTAMP:19970612T190000Z"), Reply{}, false},
		{"without its number", text("ATTENDEE;PARTSTAT=ACCEPTED:mailto:b@example.com", org, "DTSTAMP:19970612T190000Z"),
			Reply{}, false},
		{"a request", strings.Replace(text("ATTENDEE:mailto:b@example.com", org, uid, "DTSTAMP:19970612T190000Z"), "REPLY",
			"REQUEST", 1), Reply{}, false},
		{"no calendar", "Dear all, I accept.", Reply{}, false},
		{"a number that is none", text("ATTENDEE;PARTSTAT=ACCEPTED:mailto:b@example.com", org, uid, "SEQUENCE:many",
			"DTSTAMP:19970612T190000Z"), Reply{}, false},
	} {
		got, err := ParseReply(c.text)
		if (err == nil) != c.ok || c.ok && got != c.want {
			t.Errorf("%s: %+v, %v", c.says, got, err)
		}
	}
}

// Whatever comes by mail ends in a reply or an error.
func FuzzParseReply(f *testing.F) {
	f.Add("BEGIN:VCALENDAR\r\nMETHOD:REPLY\r\nEND:VCALENDAR\r\n")
	f.Fuzz(func(t *testing.T, text string) {
		if r, err := ParseReply(text); err == nil && (r.UID == "" || strings.HasPrefix(r.By, "mailto:")) {
			t.Errorf("%+v", r)
		}
	})
}
