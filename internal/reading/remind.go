package reading

import (
	"context"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/round"
)

// remindDays is how many working days before its end readers are reminded of what
// they have not sent; once more when it is over.
const remindDays = 3

// late is a reader with cases that are not sent.
type late struct {
	Round   int64 `db:"round_id"`
	Account int64 `db:"account_id"`
	Name    string
	Email   string
	N       int
	Last    *time.Time `db:"reminded_at"`
}

const selectLate = `
	SELECT a.round_id, g.account_id, p.name, p.email, count(*) AS n, max(x.reminded_at) AS reminded_at
	FROM assignment g JOIN entry e ON e.id = g.entry_id JOIN application a ON a.id = g.application_id JOIN account p ON p.id = g.account_id
	JOIN reader x ON x.round_id = a.round_id AND x.account_id = g.account_id
	WHERE g.sent_at IS NULL AND e.state = ANY($1) AND ($2 = 0 OR a.round_id = $2) GROUP BY a.round_id, g.account_id, p.name, p.email ORDER BY 1, 2`

// SweepReaders reminds readers before reading ends, and once when it has.
func (s *Store) SweepReaders(ctx context.Context, at time.Time) error {
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		var list []late
		if err := tx.SelectContext(ctx, &list, selectLate, lifecycle.With(lifecycle.BeingRead), 0); err != nil {
			return err
		}
		forms := map[int64]*form.Form{}
		rounds := map[int64]round.Round{}
		for _, l := range list {
			f, ok := forms[l.Round]
			if !ok {
				r, err := s.Cases.Rounds.ByID(ctx, tx, l.Round)
				if err != nil {
					return err
				}
				if f, err = s.Cases.Rounds.Published(ctx, tx, r); err != nil {
					return err
				}
				forms[l.Round], rounds[l.Round] = f, r
			}
			if due := remindAt(f, at); due.IsZero() || l.Last != nil && !l.Last.Before(due) {
				continue
			}
			if err := s.remind(ctx, tx, rounds[l.Round], f, l); err != nil {
				return err
			}
		}
		return nil
	})
}

// remindAt is the last moment up to at at which readers are reminded; zero when none
// has come yet.
func remindAt(f *form.Form, at time.Time) time.Time {
	ends := f.At(form.ReadingEnd)
	if !at.Before(ends) {
		return ends
	}
	day := calendar.AddWorkingDays(calendar.DateOf(ends, f.Zone), -remindDays, f.Off)
	if first, _ := calendar.At(day, 9, 0).In(f.Zone); !at.Before(first) {
		return first
	}
	return time.Time{}
}

// RemindLate reminds every reader of a round who has not sent everything, and says
// how many; nobody twice within a day.
func (s *Store) RemindLate(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form) (n int, err error) {
	var list []late
	if err := tx.SelectContext(ctx, &list, selectLate, lifecycle.With(lifecycle.BeingRead), r.ID); err != nil {
		return 0, err
	}
	for _, l := range list {
		if l.Last != nil && tx.At.Sub(*l.Last) < 24*time.Hour {
			continue
		}
		if err := s.remind(ctx, tx, r, f, l); err != nil {
			return n, err
		}
		n++
	}
	if n == 0 {
		return 0, refusal.Unfit("Nobody is to be reminded: all have sent their marks, or were written to within a day.")
	}
	return n, nil
}

func (s *Store) remind(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, l late) error {
	ends := f.At(form.ReadingEnd)
	subject, body := say.ReadersLate(l.Name, r.Name, s.Post.Name(), l.N, calendar.DateOf(ends, f.Zone),
		!tx.At.Before(ends))
	if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "reader-late", Account: l.Account, Round: r.ID, To: l.Email,
		ToName:  l.Name,
		Subject: subject, Body: body + "\n" + s.Post.BaseURL + "/reading\n"}); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `UPDATE reader SET reminded_at = $3 WHERE round_id = $1 AND account_id = $2`, r.ID,
		l.Account, tx.At)
	return err
}
