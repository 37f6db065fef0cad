package reading

import (
	"context"
	"slices"
	"time"

	"ulvant/core/assignment"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/work"
	"ulvant/internal/round"
)

// planning is the job that works a plan out.
type planning struct {
	round.Long
	Asks Asks  `json:"asks"`
	By   int64 `json:"by"`
}

// Kind names the job.
func (planning) Kind() string { return "long.plan" }

// WorkOutLater works a plan out by a job.
func (s *Store) WorkOutLater(ctx context.Context, tx *db.Tx, r round.Round, cases int, asks Asks) error {
	l, err := s.Later.Begin(ctx, tx, work.Planning, r, cases)
	if err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, planning{l, asks, tx.By.ID}, tx.At)
}

func (s *Store) registerPlanning() {
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, j planning) error {
		return s.Later.Do(ctx, at, j.Long, func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form,
			_ func(int)) (string, error) {
			p, err := s.WorkOut(ctx, tx, r, f, j.Asks)
			if err != nil {
				return "", err
			}
			return phrase.Count(int64(len(p.Entries)), "case is", "cases are") + " in the plan. Nobody is told yet.", nil
		})
	})
}

// givingOut is the job that gives a large plan out.
type givingOut struct {
	round.Long
	Version int `json:"version"`
}

// Kind names the job.
func (givingOut) Kind() string { return "long.give-out" }

// GiveOutLater gives a plan out by a job, if it is still as it was seen.
func (s *Store) GiveOutLater(ctx context.Context, tx *db.Tx, r round.Round, p *Plan) error {
	l, err := s.Later.Begin(ctx, tx, work.HandingOut, r, len(p.Entries))
	if err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, givingOut{l, p.Version}, tx.At)
}

func (s *Store) registerGivingOut() {
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, j givingOut) error {
		return s.Later.Do(ctx, at, j.Long, func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form,
			reached func(int)) (string, error) {
			out, err := s.GiveOut(ctx, tx, r, f, j.Version, reached)
			return out.Says(), err
		})
	})
}

// Cost is what the pairs of a plan cost, in hundredths of fit.
func (p *Plan) Cost() (n int64) {
	for c, readers := range p.Given {
		for _, r := range readers {
			if v, ok := p.Fit(c, r); ok {
				n += int64(100 - v)
			}
		}
	}
	return n
}

// CostOf is what the pairs of a plan that was not kept cost, in hundredths of fit.
func (s *Store) CostOf(plan *assignment.Plan) int64 { return plan.Cost / grain }

// WhatIf is the plan there would be without a reader, or with one more like them;
// nothing is kept.
func (s *Store) WhatIf(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, p *Plan, reader int,
	more bool) (*assignment.Plan, error) {
	st, err := s.stack(ctx, tx, r, f, false)
	if err != nil {
		return nil, err
	}
	if !slices.Equal(st.entries, []int64(p.Entries)) || !slices.Equal(st.accounts(), []int64(p.Readers)) {
		return nil, ErrPlanStale
	}
	asks, fits := p.Asks, p.Fits
	if more {
		st.readers = append(slices.Clone(st.readers), st.readers[reader])
		n := len(p.Readers)
		fits = make([]byte, 0, len(p.Fits)+len(p.Entries))
		for c := range p.Entries {
			fits = append(append(fits, p.Fits[c*n:(c+1)*n]...), p.Fits[c*n+reader])
		}
	} else {
		asks.Without = p.Readers[reader]
	}
	return solveFits(st, f, asks, fits), nil
}
