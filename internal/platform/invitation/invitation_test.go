package invitation

import (
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-ical"
)

// Read by a general parser that is not the writer: every property that RFC 5546
// (3.2.2 for REQUEST, 3.2.5 for CANCEL) asks for, and texts with what RFC 5545,
// 3.3.11 escapes.
func TestText(t *testing.T) {
	starts := time.Date(2027, 3, 16, 9, 30, 0, 0, time.FixedZone("", 3600))
	e := Event{UID: "interview-12@ostrel-trust.example", Sequence: 2, At: time.Date(2027, 3, 1, 8, 0, 0, 0, time.UTC),
		Starts: starts, Ends: starts.Add(30 * time.Minute), Summary: "Interview: Night flights; bats, moths",
		About: "Bring your notes.\nNobody else is there, and it takes as long as it takes: a line of more than seventy-five octets, with œ and ž",
		Place: "The Customs House, room 2; Corvoe", From: Person{"The Ostrel Isles Trust", "office@ostrel-trust.example"},
		To: Person{"Sefa \"Sea\"\r\nAranha", "sefa@night.example"}}
	for _, c := range []struct {
		name, method, status, link string
	}{{"asked", "REQUEST", "CONFIRMED", ""}, {"called off", "CANCEL", "CANCELLED", "https://meet.example/a?b=c&d=e,f"}} {
		t.Run(c.name, func(t *testing.T) {
			e.Off, e.Link = c.method == "CANCEL", c.link
			text := e.Text()
			for i, line := range strings.Split(text, "\r\n") {
				if len(line) > 75 || strings.Contains(line, "\n") {
					t.Errorf("line %d is not folded: %q", i, line)
				}
			}
			cal, err := ical.NewDecoder(strings.NewReader(text)).Decode()
			if err != nil {
				t.Fatal(err)
			}
			if m, _ := cal.Props.Text(ical.PropMethod); m != c.method {
				t.Errorf("the method is %q", m)
			}
			if v, _ := cal.Props.Text(ical.PropVersion); v != "2.0" || cal.Props.Get(ical.PropProductID) == nil {
				t.Error("no version 2.0, or no product")
			}
			if len(cal.Events()) != 1 {
				t.Fatalf("%d events", len(cal.Events()))
			}
			got := cal.Events()[0]
			text1 := func(name string) string { s, _ := got.Props.Text(name); return s }
			for name, want := range map[string]string{ical.PropUID: e.UID, ical.PropSummary: e.Summary,
				ical.PropDescription: e.About,
				ical.PropLocation:    e.Place, ical.PropStatus: c.status} {
				if text1(name) != want {
					t.Errorf("%s is %q, want %q", name, text1(name), want)
				}
			}
			if n, err := got.Props.Get(ical.PropSequence).Int(); n != 2 || err != nil {
				t.Errorf("sequence %d, %v", n, err)
			}
			from, err := got.DateTimeStart(time.Local)
			to, err2 := got.DateTimeEnd(time.Local)
			if err != nil || err2 != nil || !from.Equal(e.Starts) || !to.Equal(e.Ends) {
				t.Errorf("from %v to %v, %v %v", from, to, err, err2)
			}
			if at, err := got.Props.DateTime(ical.PropDateTimeStamp, time.UTC); err != nil || !at.Equal(e.At) {
				t.Errorf("stamped %v, %v", at, err)
			}
			who, by := got.Props.Get(ical.PropAttendee), got.Props.Get(ical.PropOrganizer)
			if who.Value != "mailto:sefa@night.example" ||
				strings.ToUpper(who.Params.Get(ical.ParamRSVP)) != map[bool]string{true: "FALSE", false: "TRUE"}[e.Off] ||
				who.Params.Get("CN") != "Sefa ’Sea’ Aranha" || by.Value != "mailto:office@ostrel-trust.example" {
				t.Errorf("%+v, %+v", who, by)
			}
			if u := got.Props.Get(ical.PropURL); (u != nil) != (c.link != "") || u != nil && u.Value != c.link {
				t.Errorf("the link is %+v", u)
			}
		})
	}
	e.Place, e.Link = "", "https://meet.example/room"
	if !strings.Contains(e.Text(), "LOCATION:https://meet.example/room") {
		t.Error("where it is joined is not where it is")
	}
	e.Summary = "a\r\nATTACH:http://evil.example/\r\nb"
	if cal, err := ical.NewDecoder(strings.NewReader(e.Text())).Decode(); err != nil ||
		cal.Events()[0].Props.Get(ical.PropAttach) != nil {
		t.Errorf("a title can add lines of its own: %v", err)
	}
}
