package round

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"ulvant/core/form"
	"ulvant/core/pathtable"
	"ulvant/core/proof"
)

// Proofs proves designs and works out who is asked what: one at a time in a
// process, within a deadline, and once for each design: undoing an edit, or
// looking again, is free.
type Proofs struct {
	mu      sync.Mutex
	known   map[[32]byte]*Proved
	order   [][32]byte // the oldest first
	columns map[form.Key][]pathtable.Column
}

// Proved is what is known of one design.
type Proved struct {
	Report *proof.Report
	Table  *pathtable.Table // nil until it is asked for
	tries  int              // proofs that ran out of time
}

const (
	// proofTime is how long one proof may take; after that it says what it has
	// not looked at.
	proofTime = 4 * time.Second
	// mostProved is how many designs are remembered.
	mostProved = 64
)

// Of proves a design that compiles.
func (p *Proofs) Of(ctx context.Context, f *form.Form) (*proof.Report, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	x, err := p.of(f)
	if err != nil {
		return nil, err
	}
	if x.Report == nil || len(x.Report.Unseen) > 0 {
		// Each time it is asked for again it goes on where it stopped, with twice
		// the time for the part that was cut off.
		ctx, stop := context.WithTimeout(ctx, proofTime<<min(x.tries, 2))
		defer stop()
		x.Report = proof.GoOn(ctx, f, x.Report)
		x.tries++
	}
	return x.Report, nil
}

// Table works out who is asked what. Columns keep the order they had in the
// round's design before.
func (p *Proofs) Table(ctx context.Context, f *form.Form) (*pathtable.Table, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.table(ctx, f)
}

// Worked is the table of a design that is open, for whoever visits it: worked
// out once in a process, also when there was no time to see all of it.
func (p *Proofs) Worked(ctx context.Context, f *form.Form) (*pathtable.Table, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	x, err := p.of(f)
	if err != nil {
		return nil, err
	}
	if x.Table != nil {
		return x.Table, nil
	}
	return p.table(ctx, f)
}

// Warm works out the tables of the rounds that can be visited, so that the
// first visitor after a start waits for none.
func (s *Store) Warm(ctx context.Context, at time.Time) error {
	list, err := s.Public(ctx, at)
	if err != nil {
		return err
	}
	for _, r := range list[:min(len(list), mostProved/2)] {
		f, err := s.Published(ctx, s.DB, r)
		if err != nil {
			return err
		}
		if _, err := s.Proofs.Worked(ctx, f); err != nil {
			return err
		}
	}
	return nil
}

func (p *Proofs) table(ctx context.Context, f *form.Form) (*pathtable.Table, error) {
	x, err := p.of(f)
	if err != nil {
		return nil, err
	}
	if x.Table == nil || x.Table.Unseen {
		ctx, stop := context.WithTimeout(ctx, proofTime)
		defer stop()
		x.Table = pathtable.Make(ctx, f, p.columns[f.Design.Key], rand.New(rand.NewPCG(1, 2)).IntN)
		if p.columns == nil {
			p.columns = map[form.Key][]pathtable.Column{}
		}
		p.columns[f.Design.Key] = x.Table.Columns
	}
	return x.Table, nil
}

// Why says what makes a kind of applicant, by its place among the columns, be
// asked a question or not; nil reasons where both happen.
func (p *Proofs) Why(ctx context.Context, f *form.Form, column int, question form.Key) (asked bool,
	because []proof.Reason, err error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	t, err := p.table(ctx, f)
	if err != nil || column < 0 || column >= len(t.Columns) {
		return false, nil, err
	}
	ctx, stop := context.WithTimeout(ctx, proofTime)
	defer stop()
	asked, because = proof.NewAsker(ctx, f).Why(t.Columns[column].Splits, question)
	return asked, because, nil
}

// Example is somebody made up of a kind of applicant, by its place among the
// columns; nil when there is nobody.
func (p *Proofs) Example(ctx context.Context, f *form.Form, column int) (*proof.Applicant, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	t, err := p.table(ctx, f)
	if err != nil || column < 0 || column >= len(t.Columns) {
		return nil, err
	}
	ctx, stop := context.WithTimeout(ctx, proofTime)
	defer stop()
	return proof.NewAsker(ctx, f).Example(t.Columns[column].Splits), nil
}

// nearestTime is how long a visitor waits for the nearest way to yes.
const nearestTime = 2 * time.Second

// Nearest are the nearest ways to yes for answers as they stand; nil when there
// is none, or none was found in time.
func (p *Proofs) Nearest(ctx context.Context, f *form.Form, filled *form.Filled) [][]proof.Step {
	p.mu.Lock()
	defer p.mu.Unlock()
	ctx, stop := context.WithTimeout(ctx, nearestTime)
	defer stop()
	return proof.Nearest(ctx, f, filled)
}

func (p *Proofs) of(f *form.Form) (*Proved, error) {
	raw, err := json.Marshal(f.Design)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(raw)
	if x, ok := p.known[sum]; ok {
		return x, nil
	}
	if p.known == nil {
		p.known = map[[32]byte]*Proved{}
	}
	if len(p.order) == mostProved {
		delete(p.known, p.order[0])
		p.order = slices.Delete(p.order, 0, 1)
	}
	x := &Proved{}
	p.known[sum], p.order = x, append(p.order, sum)
	return x, nil
}
