package profile

import (
	"context"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/request"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Officers and sponsoring bodies are asked and reminded by the rules that hold
// for everybody who answers by a link (core/request).

// nextAfter is when somebody asked is reminded next; nil when they are not.
func nextAfter(asked time.Time, last *time.Time, had int) *time.Time {
	r := request.Reminding{State: form.Asked, Since: asked, Had: had, Most: form.MostReminders}
	if last != nil {
		r.Last = *last
	}
	if at, ok := r.Next(); ok {
		return &at
	}
	return nil
}

// waiting is somebody who falls due to be reminded.
type waiting struct {
	ID        int64
	Name      string
	Email     string
	Body      string
	For       string
	At        time.Time // asked
	Reminders int
}

// SweepAsked reminds officers and sponsoring bodies of which nothing is heard.
func (s *Store) SweepAsked(ctx context.Context, at time.Time) error {
	var officers, sponsors []waiting
	if err := s.DB.SelectContext(ctx, &officers, `
		SELECT o.id, o.name, o.email, p.name AS body, '' AS for, COALESCE(o.asked_at, o.at) AS at, o.reminders
		FROM profile_officer o JOIN profile p ON p.id = o.profile_id WHERE o.next_at <= $1 ORDER BY o.next_at LIMIT 500`,
		at); err != nil {
		return err
	}
	if err := s.DB.SelectContext(ctx, &sponsors, `
		SELECT x.id, x.to_name AS name, x.email, b.name AS body, f.name AS for, x.asked_at AS at, x.reminders
		FROM sponsor x JOIN profile b ON b.id = x.sponsor_id JOIN profile f ON f.id = x.profile_id
		WHERE x.next_at <= $1 ORDER BY x.next_at LIMIT 500`, at); err != nil {
		return err
	}
	for _, w := range officers {
		subject, asks := "Still open: may you sign for “"+w.Body+"”?",
			"you were asked whether you may sign for “"+w.Body+"”, and have not answered."
		if err := s.remindAsked(ctx, at, link.Officer, w, subject, asks); err != nil {
			return err
		}
	}
	for _, w := range sponsors {
		subject, asks := "Still open: will “"+w.Body+"” hold money for "+w.For+"?",
			"“"+w.Body+"” was asked whether it would hold money for "+w.For+", and nobody has answered."
		if err := s.remindAsked(ctx, at, link.Sponsor, w, subject, asks); err != nil {
			return err
		}
	}
	return nil
}

// remindAsked writes to one of them, unless they have answered meanwhile.
func (s *Store) remindAsked(ctx context.Context, at time.Time, p link.Purpose, w waiting, subject, asks string) error {
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		update := `UPDATE profile_officer SET reminders = reminders + 1, reminded_at = $2, next_at = $3
			WHERE id = $1 AND state = 'asked' AND next_at <= $2`
		if p == link.Sponsor {
			update = `UPDATE sponsor SET reminders = reminders + 1, reminded_at = $2, next_at = $3
				WHERE id = $1 AND state = 'asked' AND next_at <= $2`
		}
		r, err := tx.ExecContext(ctx, update, w.ID, at, nextAfter(w.At, &at, w.Reminders+1))
		if err != nil {
			return err
		}
		if n, _ := r.RowsAffected(); n == 0 {
			return nil
		}
		l, err := s.Links.Of(ctx, tx, p, w.ID)
		if err != nil || l == 0 {
			return err
		}
		last := ""
		if w.Reminders+1 >= form.MostReminders {
			last = " This is the last reminder you get for it."
		}
		_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: string(p) + "-reminder", To: w.Email, ToName: w.Name, Link: l,
			Subject: subject, Body: "Dear " + w.Name + ",\n\n" + asks + " Confirm or refuse here:\n\n" + post.LinkMark +
				"\n\nIf you know nothing of it, refuse." + last + "\n"})
		return err
	})
}

// Bounced takes that the mail to an officer or to a sponsoring body came back.
// Whoever acts for the organisation of an officer is told; of a sponsoring body
// nobody but the office is, since whoever asked is not told where the mail went.
func (s *Store) Bounced(ctx context.Context, tx *db.Tx, p link.Purpose, id int64, b post.Returned) error {
	says := strings.TrimSpace(b.Status + " " + b.Diagnosis)
	if p == link.Sponsor {
		_, err := tx.ExecContext(ctx,
			`UPDATE sponsor SET bounced_at = $2, bounce = $3, next_at = NULL WHERE id = $1 AND state = 'asked'`, id, tx.At, says)
		return err
	}
	r, err := tx.ExecContext(ctx,
		`UPDATE profile_officer SET bounced_at = $2, bounce = $3, next_at = NULL WHERE id = $1 AND state = 'asked'`, id,
		tx.At, says)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return nil
	}
	o, err := s.Officer(ctx, tx, id)
	if err != nil {
		return err
	}
	body, err := s.ByID(ctx, tx, o.ProfileID)
	if err != nil {
		return err
	}
	members, err := s.Members(ctx, tx, o.ProfileID)
	if err != nil {
		return err
	}
	for _, m := range members {
		meant := ""
		_, domain, _ := strings.Cut(m.Email, "@")
		if a := request.Meant(o.Email, domain); a != "" {
			meant = " Was it meant to be " + a + "?"
		}
		if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "officer-bounced", Account: m.AccountID, To: m.Email,
			ToName: m.Name, Subject: "The mail to " + o.Name + " came back",
			Body: "Dear " + m.Name + ",\n\nthe mail that asks " + o.Name + " whether they may sign for “" + body.Name +
				"” came back from " + o.Email + ". " + say.Bounced(b.Status) + meant +
				"\n\nTake the request back in the profile, and ask them anew at the right address.\n"}); err != nil {
			return err
		}
	}
	return nil
}
