package reading

import (
	"context"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
)

// Margin is a note that a reader makes for themselves at some words of an answer;
// nobody else sees it.
type Margin struct {
	ID       int64
	Question form.Key
	Quote    string // the words
	Nth      int    // which of the places where they stand in the answer, from 0
	Note     string // "" marks the words alone
	At       time.Time
}

// Limits of notes.
const (
	mostQuote   = 2000
	mostMargins = 200 // on one case
)

// Margins of a reader on an entry, in the order they were made.
func (s *Store) Margins(ctx context.Context, q db.Querier, entry, account int64) (out []Margin, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT id, question, quote, nth, note, at FROM margin WHERE entry_id = $1 AND account_id = $2 ORDER BY id`, entry, account)
	return out, err
}

// NoteMargin keeps one.
func (s *Store) NoteMargin(ctx context.Context, tx *db.Tx, c application.Case, m Margin) error {
	m.Quote, m.Note = strings.TrimSpace(m.Quote), strings.TrimSpace(m.Note)
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	if _, err := s.Find(ctx, tx, c.EntryID, tx.By.ID); err != nil {
		return err
	}
	q := f.Question(m.Question)
	switch {
	case q == nil || !q.ForReaders():
		return refusal.In("question", "Choose the answer your note is about.")
	case m.Quote == "" && m.Note == "":
		return refusal.In("note", "Mark some words, or write a note.")
	case len(m.Quote) > mostQuote || len(m.Note) > mostQuote:
		return refusal.In("note", "Mark up to 2,000 characters, and write as many.")
	}
	var n int
	if err := tx.GetContext(ctx, &n, `SELECT count(*) FROM margin WHERE entry_id = $1 AND account_id = $2`, c.EntryID,
		tx.By.ID); err != nil {
		return err
	}
	if n >= mostMargins {
		return refusal.Unfit("you have made 200 notes on this case").But("take one away first")
	}
	_, err = tx.ExecContext(ctx,
		`INSERT INTO margin (entry_id, account_id, question, quote, nth, note, at) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		c.EntryID, tx.By.ID, m.Question, m.Quote, max(m.Nth, 0), m.Note, tx.At)
	return err
}

// DropMargin takes one of one’s own away.
func (s *Store) DropMargin(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	_, err := tx.ExecContext(ctx, `DELETE FROM margin WHERE id = $1 AND entry_id = $2 AND account_id = $3`, id, c.EntryID,
		tx.By.ID)
	return err
}
