package demo

import (
	"context"
	"fmt"
	"time"

	"ulvant/internal/people"
	"ulvant/internal/program"
)

// Writer is somebody whose draft lacks nothing but being sent.
type Writer struct{ Email, Ref string }

// Rush fills an empty database with one round that closes at a time, and n
// drafts in it that could be sent; for cmd/rush.
func Rush(ctx context.Context, p *program.Program, now, closes time.Time, n int) ([]Writer, error) {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		return nil, err
	}
	b := &builder{Program: p, now: now, zone: zone, leads: map[string]people.Account{}}
	if b.hash, err = p.People.Hash(Password); err != nil {
		return nil, err
	}
	d := Dates(now, zone).Open
	d.Closes, d.about = closes, "A round that everybody sends to at the last moment."
	b.at = d.Made
	if err := b.staff(ctx); err != nil {
		return nil, err
	}
	like := read(openRows)[1] // nearly whole
	tales := make([]tale, n)
	for i := range tales {
		tales[i] = like
		tales[i].title, tales[i].lead, tales[i].plan = fmt.Sprintf("Work number %d", i+1), fmt.Sprintf("Applicant %d",
			i+1), "draft ready"
	}
	r := b.round(d, tales, nil)
	if err := b.run(ctx); err != nil {
		return nil, err
	}
	var out []Writer
	for _, t := range tales {
		c, err := r.called(ctx, t.title)
		if err != nil {
			return nil, err
		}
		out = append(out, Writer{c.LeadEmail, c.Ref})
	}
	return out, nil
}
