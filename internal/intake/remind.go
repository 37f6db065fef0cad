package intake

import (
	"context"
	"fmt"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
)

// A reminder whose time is longer past than this is not sent any more: the
// program was down, or the design was changed afterwards.
const remindWithin = 36 * time.Hour

// mostMissing bounds the list in a reminder; the page has all of it.
const mostMissing = 8

// SweepReminders reminds those with drafts, at the moments the round's calendar
// says, with what is missing in their own case.
func (s *Store) SweepReminders(ctx context.Context, at time.Time) error {
	rounds, err := s.Cases.Rounds.All(ctx)
	if err != nil {
		return err
	}
	for _, r := range rounds {
		if r.DesignID == nil {
			continue
		}
		f, err := s.Cases.Rounds.Form(ctx, s.DB, *r.DesignID)
		if err != nil {
			return err
		}
		for _, m := range f.Design.Calendar {
			if t := f.At(m.Key); !m.Reminds || m.At.IsZero() || at.Before(t) || at.Sub(t) > remindWithin {
				continue
			}
			if err := s.remindAll(ctx, at, r.ID, m); err != nil {
				return err
			}
		}
	}
	return nil
}

func (s *Store) remindAll(ctx context.Context, at time.Time, roundID int64, m form.Moment) error {
	var entries []int64
	if err := s.DB.SelectContext(ctx, &entries, `
		SELECT e.id FROM entry e JOIN application a ON a.id = e.application_id
		WHERE a.round_id = $1 AND e.state = ANY($3) AND NOT EXISTS (SELECT FROM reminded r WHERE r.entry_id = e.id AND r.moment = $2) ORDER BY e.id`,
		roundID, m.Key, lifecycle.With(lifecycle.Writing)); err != nil {
		return err
	}
	for _, e := range entries {
		if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context,
			tx *db.Tx) error {
			return s.remind(ctx, tx, e, m.Key)
		}); err != nil {
			return err
		}
	}
	return nil
}

// remind looks at a draft again and writes to its lead, once for each moment.
func (s *Store) remind(ctx context.Context, tx *db.Tx, entry int64, moment form.Key) error {
	c, err := s.Cases.ByEntry(ctx, tx, entry)
	if err != nil {
		return err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, true); err != nil || !c.State.Writing() {
		return err
	}
	f, _, path, err := s.Cases.Walk(ctx, tx, c, tx.At)
	if err != nil {
		return err
	}
	window := c.Window(f)
	if window.Phase(tx.At) != calendar.Open {
		return nil
	}
	res, err := tx.ExecContext(ctx,
		`INSERT INTO reminded (entry_id, moment, at) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, entry, moment, tx.At)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return nil
	}
	_, err = s.Cases.Post.Queue(ctx, tx, reminder(c, f, path, calendar.WallOf(window.Closes, f.Zone)))
	return err
}

// reminder says what is missing in one case.
func reminder(c application.Case, f *form.Form, path *form.Path, closes calendar.Wall) post.Letter {
	var b strings.Builder
	fmt.Fprintf(&b, "Dear %s,\n\n“%s” is not sent yet. %s closes on %s (%s).\n\n", c.LeadName, c.Title, c.RoundName,
		closes.Words(), f.Design.Zone)
	switch {
	case c.State.Is(lifecycle.Offered):
		b.WriteString("You are invited to its next stage and have not begun it.\n")
	case len(path.Obstacles) == 0:
		b.WriteString("Nothing stands in the way any more: read it through and press Send.\n")
	default:
		b.WriteString("What still stands in the way:\n")
		for i, o := range path.Obstacles {
			if i == mostMissing {
				fmt.Fprintf(&b, "- and %d more, listed beside your application\n", len(path.Obstacles)-mostMissing)
				break
			}
			what, _ := say.Obstacle(f, o)
			b.WriteString("- " + what + "\n")
		}
	}
	b.WriteString("\nSign in to go on with it; everything you wrote is kept.\n")
	return post.Letter{Kind: "draft-reminder", Account: c.LeadID, Application: c.ID, Round: c.RoundID, To: c.LeadEmail,
		ToName: c.LeadName, ReplyTo: f.Design.Contact,
		Subject: "Not sent yet: “" + c.Title + "” closes on " + closes.Date.Words(), Body: b.String()}
}
