// Package intake is the applicant's part: saving answers as they are typed,
// and sending, with the closing instant decided by the receipt of the request.
package intake

import (
	"context"
	"crypto/ed25519"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/link"
	"ulvant/internal/platform/refusal"
	"ulvant/internal/profile"
	"ulvant/internal/reference"
	"ulvant/internal/trail"
)

// Store is the applicant's desk.
type Store struct {
	DB        *db.DB
	Cases     *application.Store
	Materials *material.Store
	Referees  *reference.Store
	People    *people.Store
	Profiles  *profile.Store
	Links     link.Maker
	Jobs      *jobs.Queue
	SealKey   ed25519.PrivateKey
	// AfterSend names the job that is enqueued with every send.
	AfterSend string
	// Locked is called in tests once the application's row is locked for
	// sending; nil otherwise.
	Locked func()
}

// Edit is one answer as the browser sends it: its own id, the version of the
// answer that was seen (0: none), and the ids of edits of the same page whose
// replies were lost: they may have been kept, and this one follows them.
type Edit struct {
	form.Place
	Version int            `json:"version"`
	EditID  string         `json:"edit"`
	After   []string       `json:"after,omitempty"`
	Value   string         `json:"value"`
	Non     form.NonAnswer `json:"non,omitempty"`
}

// Result of one edit. When Conflict, Theirs is what is kept, and nothing of
// the edit was.
type Result struct {
	form.Place
	EditID   string    `json:"edit"`
	Version  int       `json:"version"`
	At       time.Time `json:"at"`
	Conflict bool      `json:"conflict,omitempty"`
	Theirs   string    `json:"theirs,omitempty"`
	Fault    string    `json:"fault,omitempty"` // it can never be kept, and why
}

// Bounds of one save.
const (
	MostEdits = 200
	MostBytes = 200_000 // of one answer
)

// Errors of a case that cannot be written now.
var (
	ErrClosed   = application.ErrClosed
	ErrNotDraft = application.ErrNotDraft
)

var editForm = regexp.MustCompile(`^[A-Za-z0-9_-]{6,64}$`)

// Save keeps edits. The same edit twice is one; an equal value is success; an
// edit that saw an older version is a conflict and both texts come back.
func (s *Store) Save(ctx context.Context, tx *db.Tx, c application.Case, edits []Edit) ([]Result, *form.Path, error) {
	if len(edits) > MostEdits {
		return nil, nil, refusal.Newf("a save holds at most %d answers", MostEdits)
	}
	w, err := s.Cases.Open(ctx, tx, c, true)
	if err != nil {
		return nil, nil, err
	}
	c, f := w.Case, w.Form
	results := make([]Result, len(edits))
	sections := map[form.Key]bool{}
	for i, e := range edits {
		r := &results[i]
		r.Place, r.EditID = e.Place, e.EditID
		if r.Fault = fault(f, e); r.Fault == "" && !w.Takes(e.Question) {
			r.Fault = say.Initial(application.ErrNotReopened.Error()) + "."
		}
		if r.Fault != "" {
			continue
		}
		changed, err := s.keep(ctx, tx, c.EntryID, e, r)
		if err != nil {
			return nil, nil, err
		}
		if changed {
			sections[f.SectionOf(e.Question)] = true
		}
	}
	for sec := range sections {
		if err := trail.Wrote(ctx, tx, c.ID, c.RoundID, string(sec)); err != nil {
			return nil, nil, err
		}
	}
	path, err := s.Cases.Refresh(ctx, tx, c)
	return results, path, err
}

// CheckTitle says what is wrong with a title; "" when nothing is.
func CheckTitle(title string) string {
	if n := utf8.RuneCountInString(strings.TrimSpace(title)); n < 3 || n > 120 || !utf8.ValidString(title) || strings.ContainsAny(title, "\x00\r\n") {
		return "Give it a short name of 3 to 120 characters, such as the site and the work."
	}
	return ""
}

// Rename a draft.
func (s *Store) Rename(ctx context.Context, tx *db.Tx, c application.Case, title string) error {
	w, err := s.Cases.Open(ctx, tx, c, true)
	if err != nil {
		return err
	}
	if c = w.Case; c.State != lifecycle.Draft {
		return ErrNotDraft
	}
	return s.Cases.Rename(ctx, tx, c, strings.TrimSpace(title))
}

// fault says why an edit can never be kept; "" when it can.
func fault(f *form.Form, e Edit) string {
	switch {
	case !editForm.MatchString(e.EditID):
		return "The save lacks a proper edit number; reload the page."
	case len(e.Value) > MostBytes:
		return fmt.Sprintf("This is %d characters long; at most %d are kept. Shorten it.", utf8.RuneCountInString(e.Value), MostBytes)
	case !utf8.ValidString(e.Value) || strings.ContainsRune(e.Value, 0):
		return "This holds characters that are not text. Paste it again as plain text."
	}
	if says := f.Accepts(e.Place); says != "" {
		return says
	}
	if !f.AcceptsNon(e.Place, e.Non) {
		return "“" + string(e.Non) + "” is not an answer to this question."
	}
	return ""
}

func (s *Store) keep(ctx context.Context, tx *db.Tx, entry int64, e Edit, r *Result) (changed bool, err error) {
	value := strings.ReplaceAll(e.Value, "\r\n", "\n")
	res, err := tx.ExecContext(ctx, `
		INSERT INTO answer (entry_id, question, row_key, column_key, version, edit_id, value, non, by_id, at)
		VALUES ($1, $2, $3, $4, 1, $5, $6, $7, $8, $9) ON CONFLICT DO NOTHING`,
		entry, e.Question, e.Row, e.Column, e.EditID, value, e.Non, tx.By.ID, tx.At)
	if err != nil {
		return false, err
	}
	if n, _ := res.RowsAffected(); n == 1 {
		r.Version, r.At = 1, tx.At
		return true, nil
	}
	old, err := answerAt(ctx, tx, entry, e.Place)
	if err != nil {
		return false, err
	}
	r.Version, r.At = old.Version, old.At
	switch {
	case old.EditID == e.EditID, old.Value == value && old.Non == e.Non:
		return false, nil
	case old.Version != e.Version && !slices.Contains(e.After, old.EditID):
		r.Conflict, r.Theirs = true, old.Value
		return false, nil
	}
	if form.KeepEarlier(old.Value, value, old.ByID == tx.By.ID, tx.At.Sub(old.At)) {
		if err := keepEarlier(ctx, tx, entry, old); err != nil {
			return false, err
		}
	}
	_, err = tx.ExecContext(ctx, `
		UPDATE answer SET version = version + 1, edit_id = $5, value = $6, non = $7, by_id = $8, at = $9
		WHERE entry_id = $1 AND question = $2 AND row_key = $3 AND column_key = $4`,
		entry, e.Question, e.Row, e.Column, e.EditID, value, e.Non, tx.By.ID, tx.At)
	r.Version, r.At = old.Version+1, tx.At
	return true, err
}
