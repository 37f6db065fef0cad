// Package invitation writes invitations to a calendar: an iCalendar object (RFC 5545)
// with the method REQUEST, or CANCEL when it is off (RFC 5546, 3.2.2 and 3.2.5).
// Whoever is invited sees it in their calendar, moved when it is moved: the UID stays
// and the sequence grows.
package invitation

import (
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
)

// Person is somebody in an invitation.
type Person struct{ Name, Email string }

// Event is what somebody is invited to.
type Event struct {
	UID      string // the same through all changes
	Sequence int    // grows with every change that matters
	At       time.Time
	Starts   time.Time
	Ends     time.Time
	Summary  string
	About    string
	Place    string
	Link     string // where it is joined; "" for none
	From     Person
	To       Person
	Off      bool // it is called off
}

// Text is the object, its lines folded and ended as RFC 5545, 3.1 has them. Times are
// in UTC, so that no zone has to be described.
func (e Event) Text() string {
	c := ics.NewCalendarFor("Ulvant")
	c.SetMethod(ics.MethodRequest)
	status := ics.ObjectStatusConfirmed
	if e.Off {
		c.SetMethod(ics.MethodCancel)
		status = ics.ObjectStatusCancelled
	}
	v := c.AddEvent(e.UID)
	v.SetDtStampTime(e.At.UTC())
	v.SetSequence(e.Sequence)
	v.SetStartAt(e.Starts.UTC())
	v.SetEndAt(e.Ends.UTC())
	v.SetStatus(status)
	v.SetSummary(e.Summary)
	if e.About != "" {
		v.SetDescription(e.About)
	}
	switch {
	case e.Place != "":
		v.SetLocation(e.Place)
	case e.Link != "":
		v.SetLocation(e.Link)
	}
	if e.Link != "" {
		v.SetURL(e.Link)
	}
	v.SetOrganizer("mailto:"+e.From.Email, ics.WithCN(named(e.From.Name)))
	v.AddAttendee("mailto:"+e.To.Email, ics.WithCN(named(e.To.Name)), ics.ParticipationRoleReqParticipant,
		ics.ParticipationStatusNeedsAction, ics.WithRSVP(!e.Off))
	return c.Serialize(ics.WithNewLineWindows)
}

// named is a name as a parameter may hold it: without straight quotes and line ends (RFC 5545,
// 3.2).
func named(s string) string {
	return strings.NewReplacer(`"`, "’", "'", "’").Replace(strings.Join(strings.Fields(s), " "))
}

// MethodOf is the method of an object, as a mail names it; "" for no object.
func MethodOf(text string) string {
	for line := range strings.Lines(text) {
		if m, ok := strings.CutPrefix(strings.TrimSpace(line), "METHOD:"); ok {
			return m
		}
	}
	return ""
}
