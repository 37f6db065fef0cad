package decision

import (
	"context"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Proposal to move a case up from the reserve.
type Proposal struct {
	Row  Row
	Sum  int64  // minor units: what it asks, or what is left where that is of use to it
	Left int64  // of its fund, before that
	Fund string // how its fund is called

	Gifts []GivenGift // what it asks of each gift, as far as there is enough of it
}

// Proposed is the first in reserve for whom money is free; nil while anything is still
// to be decided, or where nothing is free for the first of a fund. Whoever stands first
// is not passed over: a smaller request further down waits its turn.
func (s *Store) Proposed(ctx context.Context, q db.Querier, f *form.Form, t Table) (*Proposal, error) {
	if !t.Last || t.Unread > 0 {
		return nil, nil
	}
	trial, err := s.trial(ctx, q, f, t, Tried{})
	if err != nil {
		return nil, err
	}
	left := make([]int64, len(trial.Funds))
	for k, x := range trial.Funds {
		left[k] = x.Money
	}
	for i, row := range t.Rows {
		switch {
		case row.State.Is(lifecycle.Gives) && row.Amount != nil:
			left[trial.Cases[i].Fund] -= *row.Amount
		case !row.State.Decided() && row.Score.Known():
			return nil, nil
		}
	}
	seen := make([]bool, len(trial.Funds))
	for i, row := range t.Rows {
		c := trial.Cases[i]
		if !row.State.Is(lifecycle.Waits) || seen[c.Fund] {
			continue
		}
		seen[c.Fund] = true
		p := &Proposal{Row: row, Left: left[c.Fund], Fund: trial.Funds[c.Fund].Label, Sum: c.Asked}
		if c.Asked > p.Left {
			p.Sum = p.Left
		}
		for _, g := range t.Gifts() {
			if n := row.AsksOf[g.Key]; n > 0 && n <= g.Left {
				p.Gifts = append(p.Gifts, GivenGift{g.Key, n})
			}
		}
		if p.Sum > 0 && p.Sum >= c.Useful {
			return p, nil
		}
	}
	return nil, nil
}

// MoveUp awards to the first in reserve what is proposed, in one act; entry is the one
// that was looked at. Its letter waits as every other does.
func (s *Store) MoveUp(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, stage form.Key,
	entry int64) (*Proposal, error) {
	t, err := s.Order(ctx, tx, r, f, stage)
	if err != nil {
		return nil, err
	}
	p, err := s.Proposed(ctx, tx, f, t)
	if err != nil {
		return nil, err
	}
	if p == nil || p.Row.EntryID != entry {
		return nil, refusal.Unfit("somebody else is first in reserve now, or the money is gone").
			But("look at the order again")
	}
	_, err = s.Record(ctx, tx, r, f, Sitting{Stage: stage, Note: "Moved up from the reserve: money is free",
		Choices: []Choice{
			{EntryID: entry, Version: p.Row.Version, Outcome: lifecycle.Awarded, Amount: p.Sum, Gifts: p.Gifts},
		}})
	return p, err
}
