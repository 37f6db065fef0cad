package reference

import (
	"context"
	"io"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
)

// PutPaper puts up the scan of a confirmation that was signed on paper, where
// the round takes paper. It counts at once, and a checker looks at it.
func (s *Store) PutPaper(ctx context.Context, by db.Actor, at time.Time, c application.Case, question form.Key, name,
	file string, size int64, body io.Reader) (material.File, error) {
	if err := people.CheckName(name); err != nil {
		return material.File{}, refusal.In("name", "Give the name of whoever signed.")
	}
	var id int64
	err := s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		c, f, err := s.open(ctx, tx, c, question)
		if err != nil {
			return err
		}
		q := f.Question(question)
		if q == nil || !q.Confirms() || q.Ask == nil || !q.Ask.Paper {
			return ErrNotFound
		}
		if err := s.room(ctx, tx, c, q, ""); err != nil {
			return err
		}
		// until its file is in, the row is one that does not count
		return tx.QueryRowxContext(ctx, `
			INSERT INTO referee (entry_id, application_id, question, name, email, knows, state, state_at, paper) VALUES ($1, $2, $3, $4, '', 'signed on paper', 'replaced', $5, true) RETURNING id`,
			c.EntryID, c.ID, question, strings.TrimSpace(name), tx.At).Scan(&id)
	})
	if err != nil {
		return material.File{}, err
	}
	m, err := s.Materials.Put(ctx, by, at, material.Owner{Referee: id, Slot: "letter"}, file, size, MostSize, body)
	if err != nil {
		return m, err
	}
	if !Opens(m) {
		return m, ErrNoScan
	}
	return m, s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		c, f, err := s.open(ctx, tx, c, question)
		if err != nil {
			return err
		}
		if err := s.room(ctx, tx, c, f.Question(question), ""); err != nil { // another may have come meanwhile
			return err
		}
		if err := s.firstPage(ctx, tx, id); err != nil {
			return err
		}
		filled, err := s.Cases.Filled(ctx, tx, c, f, tx.At)
		if err != nil {
			return err
		}
		w, print := ToConfirm(f, f.Question(question), c, filled)
		w.Way = OnPaper
		if err := s.freeze(ctx, tx, id, w, print); err != nil {
			return err
		}
		r, err := s.find(ctx, tx, id)
		if err != nil {
			return err
		}
		return s.change(ctx, tx, c, f, r, form.SentIn, "paper-put-in")
	})
}

// ErrNoScan: what was put up is neither a PDF nor a picture.
var ErrNoScan = refusal.New("the file is neither a PDF nor a picture that can be opened here").
	But("scan or photograph the signed page and put that up")
