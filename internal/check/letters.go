package check

import (
	"context"
	"time"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/reference"
)

// putLetters keeps what is still awaited of those whose letters may come after
// the closing, where the round waits for them: until they are in, or the office
// says that it goes on without, the application is not found eligible.
func (s *Store) putLetters(ctx context.Context, tx *db.Tx, f *form.Form, c application.Case, path *form.Path,
	counts map[form.Outcome]int) error {
	for i := range path.Questions {
		st := &path.Questions[i]
		q := f.Question(st.Key)
		if st.Asked != condition.Yes || q == nil || q.Ask == nil || !q.Ask.Waits || !f.Follows(q) {
			continue
		}
		names, until, err := s.Referees.StillAwaited(ctx, tx, f, c, q.Key, tx.At)
		if err != nil {
			return err
		}
		outcome, reason := say.LettersAwaited(names, until, f.Due(q, c.Window(f).Closes), f.Zone)
		counts[outcome]++
		if err := s.put(ctx, tx, c.EntryID, form.LettersRule(q.Key), outcome, reason); err != nil {
			return err
		}
	}
	return nil
}

// putPromised keeps what is still to follow of what was promised.
func (s *Store) putPromised(
	ctx context.Context,
	tx *db.Tx,
	f *form.Form,
	c application.Case,
	counts map[form.Outcome]int,
) error {
	list, err := s.Cases.Promised(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	for _, p := range list {
		outcome, reason := say.Promised(p.DueAt, p.CameAt, tx.At, f.Zone)
		counts[outcome]++
		if err := s.put(ctx, tx, c.EntryID, form.FollowRule(p.Question), outcome, reason); err != nil {
			return err
		}
	}
	return nil
}

// came looks at them again, when a letter or a promised answer has come or its
// time is over; an answer that has come can settle a rule.
func (s *Store) came(ctx context.Context, at time.Time, came reference.Came) error {
	read, err := s.wordsFor(ctx, at, came.Entry)
	if err != nil {
		return err
	}
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		o, ok, err := s.take(ctx, tx, came.Entry, lifecycle.ToSettle)
		if err != nil || !ok {
			return err
		}
		counts := map[form.Outcome]int{}
		if err := s.putLetters(ctx, tx, o.f, o.c, o.path, counts); err != nil {
			return err
		}
		if err := s.putPromised(ctx, tx, o.f, o.c, counts); err != nil {
			return err
		}
		if err := s.putTemplates(ctx, tx, o.c, &o.sealed.Decoded, counts); err != nil {
			return err
		}
		if err := s.putNamed(ctx, tx, o.f, o.c, &o.sealed.Decoded, read, counts); err != nil {
			return err
		}
		if err := s.putRules(ctx, tx, o.c.EntryID, o.path, counts); err != nil {
			return err
		}
		return s.concludeWorked(ctx, tx, o.c)
	})
}

// lookAgain is how often letters that are awaited are looked at without one coming.
const lookAgain = 6 * time.Hour

// SweepLetters looks again at cases that wait for letters: their time may be over.
func (s *Store) SweepLetters(ctx context.Context, at time.Time) error {
	entries, err := s.unsettled(ctx, "letters-", at.Add(-lookAgain))
	if err != nil {
		return err
	}
	for _, id := range entries {
		if err := s.came(ctx, at, reference.Came{Entry: id}); err != nil {
			return err
		}
	}
	return nil
}

func (s *Store) registerLetters() { jobs.Handle(s.Jobs, jobs.Short, s.came) }
