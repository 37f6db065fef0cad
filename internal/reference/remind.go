package reference

import (
	"context"
	"errors"
	"fmt"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Remind a referee, at most once a day.
func (s *Store) Remind(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	r, err := s.find(ctx, tx, id)
	if err != nil || r.EntryID != c.EntryID {
		return ErrNotFound
	}
	c, f, err := s.open(ctx, tx, c, r.Question)
	if err != nil {
		return err
	}
	if r.RemindedAt != nil && tx.At.Sub(*r.RemindedAt) < 24*time.Hour {
		return refusal.New("they were reminded within the last day").But("wait until tomorrow, or write to them yourself")
	}
	return s.remind(ctx, tx, c, f, r)
}

func (s *Store) remind(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, r Referee) error {
	l, err := s.Links.Of(ctx, tx, link.Referee, r.ID)
	if err != nil {
		return err
	}
	what := "A letter from you is still awaited."
	switch r.State {
	case form.Uploaded:
		what = "Your letter is put up but NOT SENT. It counts only once you open the page and press Send."
	case form.Accepted:
		what = "You said yes; the letter has not come yet."
	case form.Asked:
	default:
		return nil
	}
	closes := calendar.WallOf(c.Window(f).Closes, f.Zone)
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "referee-reminder", Application: c.ID, Round: c.RoundID, To: r.Email,
		ToName: r.Name, ReplyTo: c.LeadEmail, Link: l,
		Subject: "Still open: a letter for “" + c.Title + "”",
		Body: fmt.Sprintf("Dear %s,\n\n%s It is for %s and needed by %s.\n\n%s\n\n%s\n", r.Name, what, c.LeadName,
			closes.Words(), post.LinkMark, s.Post.Name)})
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE referee SET reminded_at = $2 WHERE id = $1`, r.ID, tx.At); err != nil {
		return err
	}
	return s.note(ctx, tx, c, "reminded-referee", r.ID)
}

// RemindAwaited reminds those of an entry whose letters are awaited, but nobody
// twice within a day; it gives the names of those it wrote to.
func (s *Store) RemindAwaited(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form) (names []string,
	err error) {
	list, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return nil, err
	}
	for _, r := range list {
		awaited := r.State == form.Asked || r.State == form.Accepted || r.State == form.Uploaded
		if !awaited || r.RemindedAt != nil && tx.At.Sub(*r.RemindedAt) < 24*time.Hour {
			continue
		}
		if err := s.remind(ctx, tx, c, f, r); err != nil {
			return nil, err
		}
		names = append(names, r.Name)
	}
	return names, nil
}

// Sweep reminds referees whose letter is put up and not sent, or who are
// silent, while the round is open. The case is looked at again when reminding.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	var ids []int64
	err := s.DB.SelectContext(ctx, &ids, `
		SELECT id FROM referee
		WHERE (state = 'uploaded' AND state_at <= $1 AND (reminded_at IS NULL OR reminded_at <= $1))
		   OR (state IN ('asked', 'accepted') AND state_at <= $2 AND (reminded_at IS NULL OR reminded_at <= $2))`,
		at.Add(-form.RemindUnsent), at.Add(-form.RemindSilent))
	if err != nil {
		return err
	}
	for _, id := range ids {
		err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			r, c, err := s.Load(ctx, tx, id)
			if err != nil {
				return err
			}
			c, f, err := s.open(ctx, tx, c, r.Question)
			if errors.Is(err, ErrClosed) || errors.Is(err, application.ErrNotReopened) {
				return nil
			}
			if err != nil {
				return err
			}
			return s.remind(ctx, tx, c, f, r)
		})
		if err != nil {
			return err
		}
	}
	return nil
}
