package reference

import (
	"context"
	"errors"
	"fmt"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/request"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Remind somebody by hand: at most once a day, and never more often than the
// round allows, counted over all ways of reminding.
func (s *Store) Remind(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	r, err := s.In(ctx, tx, c, id)
	if err != nil {
		return err
	}
	r, c, f, err := s.forReferee(ctx, tx, id)
	if err != nil {
		return err
	}
	if why := r.ByHand(f, c, tx.At); why != "" {
		return refusal.New(say.NotReminded(r.Name, why, r.Reminding(f, c).Most))
	}
	return s.remind(ctx, tx, c, f, r)
}

func (s *Store) remind(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, r Referee) error {
	if r.Email == "" || r.Bounced() {
		return nil
	}
	l, err := s.Links.Of(ctx, tx, link.Referee, r.ID)
	if err != nil {
		return err
	}
	x := r.Reminding(f, c)
	subject, body := say.Reminder(
		say.RequestOf{Form: f, Question: f.Question(r.Question), Name: r.Name, Lead: c.LeadName,
			Round: c.RoundName, Title: c.Title, Due: x.Due, Link: post.LinkMark, Sender: s.Post.Name()},
		r.State,
		x.Had+1 >= x.Most,
	)
	if _, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "referee-reminder", Application: c.ID, Round: c.RoundID,
		To:     r.Email,
		ToName: r.Name, ReplyTo: c.LeadEmail, Link: l, Subject: subject, Body: body}); err != nil {
		return err
	}
	at := tx.At
	r.RemindedAt, r.Reminders = &at, r.Reminders+1
	if _, err := tx.ExecContext(ctx, `UPDATE referee SET reminded_at = $2, reminders = $3, next_at = $4 WHERE id = $1`,
		r.ID,
		tx.At, r.Reminders, next(r, f, c)); err != nil {
		return err
	}
	return s.note(ctx, tx, c, "reminded-referee", r.ID)
}

// RemindAwaited reminds those of an entry whose letters are awaited and who can
// be reminded; it gives the names of those it wrote to.
func (s *Store) RemindAwaited(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form) (names []string,
	err error) {
	list, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return nil, err
	}
	for _, r := range list {
		if r.ByHand(f, c, tx.At) != "" {
			continue
		}
		if err := s.remind(ctx, tx, c, f, r); err != nil {
			return nil, err
		}
		names = append(names, r.Name)
	}
	return names, nil
}

// swept is how many requests one sweep looks at.
const swept = 2000

// Sweep reminds whoever falls due: who is silent, whose letter is put up and not
// sent, whose date draws near. Each is looked at again when reminding.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	var ids []int64
	if err := s.DB.SelectContext(ctx, &ids,
		`SELECT id FROM referee WHERE next_at <= $1 ORDER BY next_at LIMIT $2`, at, swept); err != nil {
		return err
	}
	var failed error
	for _, id := range ids {
		err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error { return s.sweepOne(ctx, tx, id) })
		if err != nil && failed == nil {
			failed = err
		}
	}
	return failed
}

// sweepOne reminds one, or sets when it is looked at again.
func (s *Store) sweepOne(ctx context.Context, tx *db.Tx, id int64) error {
	r, c, f, err := s.forReferee(ctx, tx, id)
	if errors.Is(err, ErrClosed) || errors.Is(err, application.ErrNotReopened) || errors.Is(err, ErrNotFound) {
		_, err = tx.ExecContext(ctx, `UPDATE referee SET next_at = NULL WHERE id = $1`, id)
		return err
	}
	if err != nil {
		return fmt.Errorf("request %d of entry %d: %w", id, r.EntryID, err)
	}
	if due, ok := r.Reminding(f, c).Next(); ok && !r.Bounced() && !tx.At.Before(due) {
		return s.remind(ctx, tx, c, f, r)
	}
	_, err = tx.ExecContext(ctx, `UPDATE referee SET next_at = $2 WHERE id = $1`, id, next(r, f, c))
	return err
}

// ByHand says why a request would not be reminded now, before it is done; ""
// when it would.
func (r Referee) ByHand(f *form.Form, c application.Case, at time.Time) request.Refusal {
	if r.Bounced() || r.Email == "" {
		return request.NotAwaited
	}
	return r.Reminding(f, c).Refused(at)
}
