package application

import (
	"context"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

func sayVerb(e lifecycle.Event) say.Verb { return say.Verb(e) }

// Letter fills a letter of the design from a case, without sending it.
func (s *Store) Letter(ctx context.Context, q db.Querier, c Case, key form.Key, extra map[string]string) (post.Letter,
	error) {
	f, err := s.Rounds.Form(ctx, q, c.DesignID)
	if err != nil {
		return post.Letter{}, err
	}
	st, err := s.Standing(ctx, q, c.EntryID)
	if err != nil {
		return post.Letter{}, err
	}
	one := []Told{{Case: c, Key: key}}
	if err := s.Texts(ctx, q, f, one); err != nil {
		return post.Letter{}, err
	}
	return s.fill(f, c, key, one[0].Text, st.Asked, extra)
}

// LetterHolds reports whether a letter about an entry still tells the truth: its
// state is the one the letter is about, by the decision that the letter is of.
func (s *Store) LetterHolds(ctx context.Context, q db.Querier, l post.About) (holds bool, err error) {
	err = q.GetContext(ctx, &holds, `
		SELECT EXISTS (SELECT FROM entry e WHERE e.id = $1 AND e.state = $2
		  AND ($3 = 0 OR $3 = (SELECT max(d.act_id) FROM decision d WHERE d.entry_id = e.id)))`, l.Entry, l.Holds, l.Act)
	return holds, err
}

// LetterSent records that a letter of the design went out; the post office calls
// it. What the applicant is told of a decision changes here, and somebody who is
// invited on finds the next stage from here on.
func (s *Store) LetterSent(ctx context.Context, tx *db.Tx, l post.About) error {
	if !lifecycle.Writes(l.Kind) {
		return nil
	}
	if l.Entry != 0 && l.Holds != "" {
		if _, err := tx.ExecContext(ctx,
			`UPDATE entry SET told = '', told_act = COALESCE(NULLIF($3, 0), told_act) WHERE id = $1 AND state = $2`, l.Entry,
			l.Holds, l.Act); err != nil {
			return err
		}
		if lifecycle.State(l.Holds).Is(lifecycle.GoesOn) {
			if err := s.openNext(ctx, tx, l.Entry); err != nil {
				return err
			}
		}
	}
	return trail.Write(ctx, tx, "letter-sent", l.Application, 0, map[string]string{"letter": l.Kind})
}
