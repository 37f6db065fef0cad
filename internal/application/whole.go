package application

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"ulvant/core/form"
	"ulvant/internal/platform/db"
)

// Whole is a case that is being written: all that a walk reads of it, read at
// once, and in the end the walk. What is put into it here is written by whoever
// puts it.
type Whole struct {
	Writing
	Rows   []Answer
	Filled *form.Filled
	Path   *form.Path // nil until it was kept
}

// Answer is the row of a place; nil when there is none.
func (w *Whole) Answer(at form.Place) *Answer {
	for i := range w.Rows {
		if w.Rows[i].Place() == at {
			return &w.Rows[i]
		}
	}
	return nil
}

// Put sets the row of a place.
func (w *Whole) Put(a Answer) {
	if old := w.Answer(a.Place()); old != nil {
		*old = a
	} else {
		w.Rows = append(w.Rows, a)
	}
	w.Filled.Answers[a.Place()] = form.Answer{Raw: a.Value, Non: a.Non}
}

// content is the JSON of an entry e: its answers, then the parts in order.
func (s *Store) content() string {
	out := `json_build_array((SELECT COALESCE(json_agg(to_json(answer)), '[]') FROM answer WHERE answer.entry_id = e.id)`
	for _, p := range s.Parts {
		out += ", " + p.JSON
	}
	return out + `) AS content`
}

// read takes content into what a walk reads.
func (s *Store) read(content []byte, filled *form.Filled) (rows []Answer, err error) {
	var parts []json.RawMessage
	if err := json.Unmarshal(content, &parts); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(parts[0], &rows); err != nil {
		return nil, err
	}
	filled.Answers = make(map[form.Place]form.Answer, len(rows))
	for _, a := range rows {
		filled.Answers[a.Place()] = form.Answer{Raw: a.Value, Non: a.Non}
	}
	for i, p := range s.Parts {
		if err := p.Fill(parts[i+1], filled); err != nil {
			return nil, err
		}
	}
	return rows, nil
}

// OpenWhole locks a case for a save, beside other saves of its other entries
// but not beside a send, and its standing against other saves of this entry;
// and reads it whole.
func (s *Store) OpenWhole(ctx context.Context, tx *db.Tx, c Case) (*Whole, error) {
	var locked int64
	err := tx.GetContext(ctx, &locked, `
		SELECT st.entry_id FROM application a JOIN standing st ON st.application_id = a.id
		WHERE a.id = $1 AND st.entry_id = $2 FOR SHARE OF a FOR UPDATE OF st`, c.ID, c.EntryID)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	var row struct {
		Case
		Content []byte
	}
	if err := tx.GetContext(ctx, &row, `SELECT `+caseColumns+`, `+s.content()+fromCase+`WHERE e.id = $1`,
		c.EntryID); err != nil {
		return nil, err
	}
	return s.whole(ctx, tx, row.Case, tx.At, row.Content)
}

// whole reads content; with ErrNotDraft or ErrClosed all the same, beside it.
func (s *Store) whole(ctx context.Context, q db.Querier, c Case, at time.Time, content []byte) (w *Whole, err error) {
	w = &Whole{}
	var may error
	if w.Writing, may = s.Writing(ctx, q, c, at); w.Form == nil || may != nil && !errors.Is(may, ErrNotDraft) &&
		!errors.Is(may, ErrClosed) {
		return nil, may
	}
	if w.Filled, w.Rows, err = s.filled(ctx, q, c, w.Form, at, content); err != nil {
		return nil, err
	}
	return w, may
}

// Look reads a case whole and walks it, for a page; ErrNotDraft or ErrClosed
// stands beside it when nothing in it can be written.
func (s *Store) Look(ctx context.Context, q db.Querier, c Case, at time.Time) (*Whole, error) {
	var content []byte
	if err := q.GetContext(ctx, &content, `SELECT `+s.content()+` FROM entry e WHERE e.id = $1`, c.EntryID); err != nil {
		return nil, err
	}
	w, err := s.whole(ctx, q, c, at, content)
	if w != nil {
		w.Path = w.Form.Walk(w.Filled)
	}
	return w, err
}

// Keep walks a case that was opened whole, once, and writes its standing.
func (s *Store) Keep(ctx context.Context, tx *db.Tx, w *Whole) error {
	w.Path = w.Form.Walk(w.Filled)
	return s.stand(ctx, tx, w.Case, w.Form, w.Filled, w.Path)
}
