package field

import (
	"time"

	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/reference"
)

// Person is somebody who was named, as the applicant sees them.
type Person struct {
	reference.Referee
	Due     time.Time // until when their answer is taken
	Left    int       // reminders that there may still be
	Refused bool      // they cannot be reminded now
	Meant   string    // the address it was probably meant to be; "" when nothing is near
	Reads   bool      // the applicant may read what they sent
	Changed bool      // what they confirmed was changed since
}

// PersonOf draws up one; fingerprint is of what would be confirmed now.
func PersonOf(f *form.Form, c application.Case, x reference.Referee, fingerprint string, at time.Time) Person {
	p := Person{Referee: x, Due: x.Due(f, c)}
	r := x.Reminding(f, c)
	p.Left = max(r.Most-r.Had, 0)
	p.Refused = r.Refused(at) != "" || x.Bounced() || x.Email == ""
	if q := f.Question(x.Question); q != nil {
		p.Reads = x.Sent() && !q.Confirms() && q.Ask.Reads(x.Waived)
		p.Changed = x.Sent() && q.Confirms() && x.Fingerprint != "" && x.Fingerprint != fingerprint
	}
	return p
}
