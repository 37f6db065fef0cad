package intake

import (
	"context"
	"errors"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
)

// SendBack answers the office's query: what was changed is sealed anew beside
// the seal that was, and the rules are worked through again. reply are the
// applicant's own words, which may be none.
func (s *Store) SendBack(ctx context.Context, tx *db.Tx, c application.Case, reply string) (application.Case, error) {
	reply = strings.TrimSpace(reply)
	if len(reply) > application.MostQueryText {
		return c, refusal.Unfit("Your reply is longer than the 4,000 characters that are taken. Shorten it.")
	}
	entry := c.EntryID
	c, err := s.Send(ctx, tx, c)
	if err != nil {
		return c, err
	}
	_, err = s.Cases.EndQuery(ctx, tx, entry, application.Answered, reply)
	if errors.Is(err, application.ErrNotFound) {
		return c, nil // sent back already
	}
	return c, err
}

// TakeQueryBack ends an open query; the application stands as it was sent.
func (s *Store) TakeQueryBack(ctx context.Context, tx *db.Tx, c application.Case) error {
	return s.endQuery(ctx, tx, c, application.TakenBack, lifecycle.TakeQuery)
}

// SweepQueries ends the queries that nobody answered in time.
func (s *Store) SweepQueries(ctx context.Context, at time.Time) error {
	entries, err := s.Cases.DueQueries(ctx, at)
	if err != nil {
		return err
	}
	for _, e := range entries {
		err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			c, err := s.Cases.ByEntry(ctx, tx, e)
			if err != nil {
				return err
			}
			return s.endQuery(ctx, tx, c, application.RanOut, lifecycle.RunOut)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

func (s *Store) endQuery(ctx context.Context, tx *db.Tx, c application.Case, how application.Ended,
	event lifecycle.Event) error {
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	q, err := s.Cases.EndQuery(ctx, tx, c.EntryID, how, "")
	if errors.Is(err, application.ErrNotFound) {
		return nil // it was answered meanwhile
	}
	if err != nil {
		return err
	}
	if err := s.restore(ctx, tx, c, q.Questions); err != nil {
		return err
	}
	if c, _, err = s.Cases.Transition(ctx, tx, c, event, nil); err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, Sent{c.EntryID}, tx.At)
}

// restore brings reopened answers and files back to what the seal holds; what
// had been typed is kept as an earlier version.
func (s *Store) restore(ctx context.Context, tx *db.Tx, c application.Case, questions pq.StringArray) error {
	sealed, err := s.Cases.Sealed(ctx, tx, *c.SealID)
	if err != nil {
		return err
	}
	var rows []application.Answer
	if err := tx.SelectContext(ctx, &rows, `
		SELECT `+application.AnswerColumns+` FROM answer WHERE entry_id = $1 AND question = ANY($2)`, c.EntryID, questions); err != nil {
		return err
	}
	was := sealed.Decoded.Filled(c.LeadName)
	var now, before []application.Answer
	for _, a := range rows {
		if sealed := was.Answers[a.Place()]; sealed.Raw != a.Value || sealed.Non != a.Non {
			before = append(before, a)
			a.Version, a.EditID, a.Value, a.Non, a.At = a.Version+1, "as-sealed", sealed.Raw, sealed.Non, tx.At
			now = append(now, a)
		}
	}
	if err := keepEarlier(ctx, tx, c.EntryID, before); err != nil {
		return err
	}
	if err := putAnswers(ctx, tx, c.EntryID, now); err != nil {
		return err
	}
	ids := []int64{}
	for _, f := range sealed.Decoded.Files {
		ids = append(ids, f.ID)
	}
	return s.Materials.Restore(ctx, tx, c.EntryID, questions, ids)
}
