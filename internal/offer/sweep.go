package offer

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/core/offer"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
)

// mostSwept are looked at in one sweep; the next goes on.
const mostSwept = 500

// Sweep lets offers lapse whose day is over, and reminds those whose day is near. A case
// that cannot be dealt with does not keep the others.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	var over []struct {
		ID    int64
		Round int64 `db:"round_id"`
	}
	if err := s.DB.SelectContext(ctx, &over, `
		SELECT id, round_id FROM offer WHERE answer = 'open' AND NOT over AND due_at <= $1 ORDER BY due_at LIMIT $2`, at,
		mostSwept); err != nil {
		return err
	}
	for _, x := range over {
		if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			o, c, f, err := s.find(ctx, tx, x.Round, x.ID)
			if err != nil || offer.May(o.Answer, offer.Lapsed, offer.Clock, o.DueAt, at) != nil {
				return err
			}
			return s.answer(ctx, tx, o, c, f, offer.Lapsed, offer.Clock, "")
		}); err != nil {
			return err
		}
	}
	return s.remind(ctx, at)
}

// remind those whose offers end soon, in one mail for each case.
func (s *Store) remind(ctx context.Context, at time.Time) error {
	var soon []int64
	// no weekend is longer than this; which day it is to be says the calendar of the round
	if err := s.DB.SelectContext(ctx, &soon, `
		SELECT DISTINCT entry_id FROM offer WHERE answer = 'open' AND NOT over AND reminded_at IS NULL AND due_at > $1 AND due_at < $2 ORDER BY entry_id LIMIT $3`,
		at, at.AddDate(0, 0, offer.RemindDays+14), mostSwept); err != nil {
		return err
	}
	for _, entry := range soon {
		if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			return s.remindOne(ctx, tx, entry)
		}); err != nil {
			return err
		}
	}
	return nil
}

func (s *Store) remindOne(ctx context.Context, tx *db.Tx, entry int64) error {
	c, err := s.Cases.ByEntry(ctx, tx, entry)
	if err != nil {
		return err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
		return err
	}
	f, err := s.formOf(ctx, tx, c)
	if err != nil {
		return err
	}
	list, err := s.Of(ctx, tx, entry)
	if err != nil {
		return err
	}
	var ids []int64
	var what []string
	var due time.Time
	for _, o := range list {
		if o.Answer == offer.Open && o.DueAt.After(tx.At) && !tx.At.Before(remindAt(f, o.DueAt)) {
			ids, what = append(ids, o.ID), append(what, o.What(f))
			if due.IsZero() || o.DueAt.Before(due) {
				due = o.DueAt
			}
		}
	}
	if ids == nil {
		return nil
	}
	if _, err := tx.ExecContext(ctx, `UPDATE offer SET reminded_at = $2 WHERE id = ANY($1)`, ids, tx.At); err != nil {
		return err
	}
	return s.tell(ctx, tx, c, f, "offer-ends", c.Ref+": please answer by "+say.Until(due, f.Zone),
		say.OfferReminder(c.LeadName, c.Title, what, due, f.Zone, s.Post.Name()))
}

// remindAt is the end of the working day some days before an offer ends.
func remindAt(f *form.Form, due time.Time) time.Time {
	return f.WorkingDaysAfter(due.Add(-time.Second), -offer.RemindDays-1)
}

// Listed is an offer as the office reads it in a list.
type Listed struct {
	Offer
	Ref   string
	Title string
	Lead  string
	By    string // who answered at the office or as applicant; "": the clock
}

// Sums of a round's offers by their answer.
type Sums struct {
	Answer offer.Answer
	N      int
	Sum    int64 // minor units
}

// Sums counts a round's offers that stand.
func (s *Store) Sums(ctx context.Context, q db.Querier, round int64) (out []Sums, err error) {
	var rows []Sums
	err = q.SelectContext(
		ctx,
		&rows,
		`SELECT answer, count(*) AS n, sum(amount) AS sum FROM offer WHERE round_id = $1 AND NOT over GROUP BY answer`,
		round,
	)
	for _, a := range offer.Answers {
		x := Sums{Answer: a}
		for _, r := range rows {
			if r.Answer == a {
				x = r
			}
		}
		out = append(out, x)
	}
	return out, err
}

// List the offers of a round that stand, with one answer or ("") any: what ends first
// before what ends later, from a place on.
func (s *Store) List(ctx context.Context, q db.Querier, round int64, answer offer.Answer, from,
	most int) (out []Listed, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT `+columns+`, a.ref, a.title, p.name AS lead, COALESCE(b.name, '') AS by FROM offer o JOIN entry e ON e.id = o.entry_id JOIN application a ON a.id = e.application_id
		JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id LEFT JOIN account b ON b.id = o.by_id
		WHERE o.round_id = $1 AND NOT o.over AND ($2 = '' OR o.answer = $2) ORDER BY o.answer <> 'open', o.due_at, o.id LIMIT $4 OFFSET $3`, round,
		answer, from, most)
	return out, err
}
