package invitation

import (
	"errors"
	"strconv"
	"strings"

	"github.com/emersion/go-ical"
)

// Reply is what somebody’s calendar answers to an invitation: an object with the method
// REPLY (RFC 5546, 3.2.3).
type Reply struct {
	UID      string
	Sequence int    // of the invitation that is answered
	By       string // the address of the attendee, in lower case
	Status   Status
	Comment  string // what they wrote beside it; "" for nothing
}

// Status is how an attendee takes part (PARTSTAT, RFC 5545, 3.2.12).
type Status string

// What is answered here; anything else, such as TENTATIVE, answers nothing.
const (
	Accepted Status = "ACCEPTED"
	Declined Status = "DECLINED"
)

// ErrNoReply: a text that is no reply to one invitation.
var ErrNoReply = errors.New("this is no reply to an invitation")

// ParseReply reads a reply.
func ParseReply(text string) (r Reply, err error) {
	c, err := ical.NewDecoder(strings.NewReader(text)).Decode()
	if err != nil {
		return r, errors.Join(ErrNoReply, err)
	}
	if m, _ := c.Props.Text(ical.PropMethod); !strings.EqualFold(m, "REPLY") {
		return r, ErrNoReply
	}
	events := c.Events()
	if len(events) != 1 {
		return r, ErrNoReply
	}
	e := events[0]
	r.UID, _ = e.Props.Text(ical.PropUID)
	r.Comment, _ = e.Props.Text(ical.PropComment)
	if s := e.Props.Get(ical.PropSequence); s != nil {
		if r.Sequence, err = strconv.Atoi(strings.TrimSpace(s.Value)); err != nil {
			return r, errors.Join(ErrNoReply, err)
		}
	}
	who := e.Props.Values(ical.PropAttendee) // there MUST be one alone
	if len(who) != 1 || r.UID == "" {
		return r, ErrNoReply
	}
	r.By = strings.ToLower(strings.TrimSpace(who[0].Value))
	r.By = strings.TrimPrefix(r.By, "mailto:")
	r.Status = Status(strings.ToUpper(who[0].Params.Get(ical.ParamParticipationStatus)))
	return r, nil
}
