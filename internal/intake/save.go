// Package intake is the applicant's part: saving answers as they are typed,
// and sending, with the closing instant decided by the receipt of the request.
package intake

import (
	"context"
	"crypto/ed25519"
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"sync/atomic"
	"time"
	"unicode/utf8"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/fee"
	"ulvant/internal/material"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/link"
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
	Fees      *fee.Store
	People    *people.Store
	Profiles  *profile.Store
	Links     link.Maker
	Jobs      *jobs.Queue
	SealKey   ed25519.PrivateKey
	// Locked is called in tests once the application's row is locked for
	// sending; nil otherwise.
	Locked func()

	looked atomic.Pointer[time.Time] // when drafts were last looked through for those at a halt
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
// With them comes the case as it stands then.
func (s *Store) Save(ctx context.Context, tx *db.Tx, c application.Case, edits []Edit) ([]Result, *application.Whole,
	error) {
	if len(edits) > MostEdits {
		return nil, nil, refusal.Newf("a save holds at most %d answers", MostEdits)
	}
	w, err := s.Cases.OpenWhole(ctx, tx, c)
	if err != nil {
		return nil, nil, err
	}
	c, f := w.Case, w.Form
	results := make([]Result, len(edits))
	sections := map[form.Key]bool{}
	var now, before []application.Answer
	for i, e := range edits {
		r := &results[i]
		r.Place, r.EditID = e.Place, e.EditID
		if r.Fault = fault(f, e); r.Fault == "" && !w.Takes(e.Question) {
			r.Fault = phrase.Initial(application.ErrNotReopened.Error()) + "."
		}
		if r.Fault != "" {
			continue
		}
		old := w.Answer(e.Place)
		if old != nil {
			was := *old
			old = &was
		}
		a, changed := take(tx, e, old, r)
		if !changed {
			continue
		}
		if old != nil && form.KeepEarlier(old.Value, a.Value, old.ByID == a.ByID, a.At.Sub(old.At)) {
			before = append(before, *old)
		}
		w.Put(a)
		now = append(now, a)
		sections[f.SectionOf(e.Question)] = true
	}
	if err := keepEarlier(ctx, tx, c.EntryID, before); err != nil {
		return nil, nil, err
	}
	if err := putAnswers(ctx, tx, c.EntryID, now); err != nil {
		return nil, nil, err
	}
	for sec := range sections {
		if err := trail.Wrote(ctx, tx, c.ID, c.RoundID, string(sec)); err != nil {
			return nil, nil, err
		}
	}
	return results, w, s.Cases.Keep(ctx, tx, w)
}

// CheckTitle says what is wrong with a title; "" when nothing is.
func CheckTitle(title string) string {
	if n := utf8.RuneCountInString(strings.TrimSpace(title)); n < 3 || n > 120 || !utf8.ValidString(title) ||
		strings.ContainsAny(title, "\x00\r\n") {
		return "Give it a short name of 3 to 120 characters."
	}
	return ""
}

// Rename a draft.
func (s *Store) Rename(ctx context.Context, tx *db.Tx, c application.Case, title string) error {
	w, err := s.Cases.Open(ctx, tx, c, true)
	if err != nil {
		return err
	}
	if c = w.Case; !c.State.Is(lifecycle.Drafting) {
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
		return fmt.Sprintf("This is %d characters long; at most %d are kept. Shorten it.", utf8.RuneCountInString(e.Value),
			MostBytes)
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

// take is the answer that an edit makes of the one that is kept, nil for none;
// changed is false when it makes none. Nobody else writes answers of the entry
// meanwhile.
func take(tx *db.Tx, e Edit, old *application.Answer, r *Result) (a application.Answer, changed bool) {
	a = application.Answer{Question: e.Question, Row: e.Row, Column: e.Column, Version: 1, EditID: e.EditID,
		Value: strings.ReplaceAll(e.Value, "\r\n", "\n"), Non: e.Non, ByID: tx.By.ID, At: tx.At}
	if old != nil {
		r.Version, r.At = old.Version, old.At
		switch {
		case old.EditID == e.EditID, old.Value == a.Value && old.Non == a.Non:
			return a, false
		case old.Version != e.Version && !slices.Contains(e.After, old.EditID):
			r.Conflict, r.Theirs = true, old.Value
			return a, false
		}
		a.Version = old.Version + 1
	}
	r.Version, r.At = a.Version, a.At
	return a, true
}

// answerColumns are those of the table answer beside its entry, as rows of JSON
// give them.
const answerColumns = `question text, row_key text, column_key text, version int, edit_id text, value text, non text, by_id bigint, at timestamptz`

// putAnswers writes answers of an entry, in one statement; of two of the same
// place the later stands.
func putAnswers(ctx context.Context, tx *db.Tx, entry int64, rows []application.Answer) error {
	if len(rows) == 0 {
		return nil
	}
	last := map[form.Place]application.Answer{}
	for _, a := range rows {
		last[a.Place()] = a
	}
	raw, err := json.Marshal(slices.Collect(maps.Values(last)))
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO answer (entry_id, `+application.AnswerColumns+`)
		SELECT $1, n.* FROM jsonb_to_recordset($2::jsonb) AS n(`+answerColumns+`)
		ON CONFLICT (entry_id, question, row_key, column_key) DO UPDATE SET version = excluded.version, edit_id = excluded.edit_id,
		  value = excluded.value, non = excluded.non, by_id = excluded.by_id, at = excluded.at`, entry, string(raw))
	return err
}
