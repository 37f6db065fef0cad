package reading

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// OneMore gives a case that has been read to one more reader, with a reason: whoever
// suits it best of those who may read it and have not, the least laden of equals. The
// case waits for their marks; those it has stay.
func (s *Store) OneMore(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, c application.Case,
	why string) (Reader, error) {
	if why = strings.TrimSpace(why); why == "" || len(why) > 1000 {
		return Reader{}, refusal.In("why", "Say why, in up to 1,000 characters; it stays with the case.")
	}
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return Reader{}, err
	}
	if !c.State.Is(lifecycle.BeingRead) {
		if c, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.TakeBack, nil); err != nil {
			return Reader{}, err
		}
	}
	st, err := s.stack(ctx, tx, r, f, true)
	if err != nil {
		return Reader{}, err
	}
	i := slices.Index(st.entries, c.EntryID)
	if i < 0 {
		return Reader{}, refusal.Unfit("it is not among the cases that are read")
	}
	load := make([]int, len(st.readers))
	for _, list := range st.kept {
		for _, j := range list {
			load[j]++
		}
	}
	of, best := st.weighed(), -1
	for j := range st.readers {
		if !st.may(i, j) || slices.Contains(st.kept[i], j) {
			continue
		}
		if best < 0 || of.Of(i, j).Score > of.Of(i, best).Score || of.Of(i, j).Score == of.Of(i, best).Score &&
			load[j] < load[best] {
			best = j
		}
	}
	if best < 0 {
		return Reader{}, refusal.Unfit("nobody else may read it").But("invite another reader first")
	}
	to := st.readers[best]
	if _, err := tx.ExecContext(ctx,
		`INSERT INTO assignment (entry_id, application_id, account_id, given_at) VALUES ($1, $2, $3, $4)`,
		c.EntryID, c.ID, to.Account, tx.At); err != nil {
		return Reader{}, err
	}
	if err := trail.Write(ctx, tx, "given-once-more", c.ID, c.RoundID,
		map[string]string{"reader": strconv.FormatInt(to.Account, 10), "why": why}); err != nil {
		return Reader{}, err
	}
	more := make([]int, len(st.readers))
	more[best] = 1
	return to, s.tellGiven(ctx, tx, r, st, more)
}
