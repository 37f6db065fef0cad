package application

import (
	"context"
	"slices"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
)

// ErrClosed: the closing instant had come when the request arrived.
var ErrClosed = refusal.New("this round has closed").But("nothing more can be changed or sent")

// ErrNotDraft: it was sent, or withdrawn.
var ErrNotDraft = refusal.New("this application is no longer a draft").But("nothing in it can be changed")

// ErrNotReopened: the office handed other questions back.
var ErrNotReopened = refusal.New("the office asks about other questions").But("this one stays as it was sent")

// Window is when this case may be written: its stage's, with the time it was
// given on top; of what was handed back, until the query is due.
func (c Case) Window(f *form.Form) calendar.Window {
	w := f.StageWindow(form.Key(c.Stage))
	switch {
	case c.State.Is(lifecycle.Queried) && c.QueryDue != nil:
		w.Closes = *c.QueryDue
	case c.MoreUntil != nil && c.MoreUntil.After(w.Closes):
		w.Closes = *c.MoreUntil
	}
	return w
}

// Writing is what of a case can be written at a moment.
type Writing struct {
	Case  Case
	Form  *form.Form
	Only  []form.Key // the questions that a query reopened; nil: all
	Query *Query     // that handed it back; nil for a draft
}

// Takes reports a question that can be answered.
func (w Writing) Takes(q form.Key) bool { return w.Only == nil || slices.Contains(w.Only, q) }

// Writing finds what can be written; ErrNotDraft or ErrClosed when nothing can.
func (s *Store) Writing(ctx context.Context, q db.Querier, c Case, at time.Time) (w Writing, err error) {
	w.Case = c
	if w.Form, err = s.Rounds.Form(ctx, q, c.DesignID); err != nil {
		return w, err
	}
	if c.State.Is(lifecycle.Queried) {
		open, err := s.OpenQuery(ctx, q, c.EntryID)
		if err != nil {
			return w, err
		}
		w.Only, w.Query = open.Keys(), &open
	}
	switch {
	case !c.State.Open():
		return w, ErrNotDraft
	case c.Window(w.Form).Phase(at) != calendar.Open:
		return w, ErrClosed
	}
	return w, nil
}

// Open locks a case and finds what can still be written at tx.At.
func (s *Store) Open(ctx context.Context, tx *db.Tx, c Case, shared bool) (Writing, error) {
	c, err := s.Lock(ctx, tx, c, shared)
	if err != nil {
		return Writing{Case: c}, err
	}
	return s.Writing(ctx, tx, c, tx.At)
}
