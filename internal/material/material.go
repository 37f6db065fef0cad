// Package material keeps the files that are put into slots: row first, bytes
// second, both swept. A file goes uploading → inspecting → ready or refused.
package material

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/files"
	"ulvant/internal/platform/inspect"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/limit"
	"ulvant/internal/platform/scan"
	"ulvant/internal/trail"
)

// File is one row.
type File struct {
	ID        int64
	EntryID   *int64 `db:"entry_id"`
	RefereeID *int64 `db:"referee_id"`
	Slot      form.Key
	Name      string
	Size      int64
	SHA256    string `db:"sha256"`
	State     slot.State
	Finding   slot.Fault
	MIME      string `db:"mime"`
	Facts     Facts  // of what is not known, zero
	At        time.Time
	ByKind    string `db:"by_kind"` // who put it in
	ByID      int64  `db:"by_id"`
	Upload    string // its name while it arrives in pieces; "" when it came in one
	Head      string // what its sender knows it by again
	Arrived   int64  // bytes, while it is uploading
	Scan      slot.Scan
	ShelvedID *int64 `db:"shelved_id"` // the file on a shelf that it is; nil for none
}

// Facts are what opening a file found out, kept as JSON.
type Facts struct{ slot.Facts }

// Scan reads them from the database.
func (f *Facts) Scan(src any) error {
	switch v := src.(type) {
	case []byte:
		return json.Unmarshal(v, &f.Facts)
	case string:
		return json.Unmarshal([]byte(v), &f.Facts)
	}
	return refusal.Newf("facts of a file cannot be read from a %T", src)
}

const columns = `id, entry_id, referee_id, slot, name, size, sha256, mime, state, finding, facts, at, by_kind, by_id, upload, head, arrived, scan, shelved_id`

// Store of materials.
type Store struct {
	DB    *db.DB
	Cases *application.Store
	Files *files.Store
	Jobs  *jobs.Queue
	Life  time.Duration // of an upload that nothing more comes of
	Scans scan.Scanner
	Bench inspect.Bench
	// Pieces of files that are here are written and flushed as this gate lets them
	// through: each holds a connection to PostgreSQL, and those who save need some too.
	Pieces limit.Gate
	Look   func(ctx context.Context, path string) (inspect.Finding, error) // nil: the bench; tests stall it
}

// ErrNotFound: no such file, or not one of this case.
var ErrNotFound = refusal.Missing("there is no such file")

// ErrClosed: the draft cannot be changed any more.
var ErrClosed = refusal.New("files can only be changed while the application is a draft and the round is open")

// CleanName keeps the last part of a file's name, without control characters.
func CleanName(name string) string {
	name = filepath.Base(strings.ReplaceAll(name, `\`, "/"))
	name = strings.Map(func(r rune) rune {
		if r < ' ' || r == 127 || r == utf8.RuneError || r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069 {
			return -1
		}
		return r
	}, name)
	for utf8.RuneCountInString(name) > 120 {
		_, n := utf8.DecodeRuneInString(name)
		name = name[n:]
	}
	if name == "" || name == "." || name == "/" {
		return "file"
	}
	return name
}

// Owner says whose a new file is: an entry's slot or a referee's letter.
type Owner struct {
	Entry, Referee int64
	Slot           form.Key
	Instead        bool // of what is in the slot now
}

// Put stores a file and finds out what it is, in three steps with a
// transaction each, so that a lost process leaves something to sweep. The
// caller refreshes what hangs on it. most is the greatest size in bytes.
func (s *Store) Put(ctx context.Context, by db.Actor, at time.Time, o Owner, name string, size, most int64,
	r io.Reader) (f File, err error) {
	err = s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		if err := s.room(ctx, tx, o, by, size); err != nil {
			return err
		}
		return tx.GetContext(ctx, &f, `
			INSERT INTO material (entry_id, referee_id, slot, name, size, state, by_kind, by_id, at)
			VALUES (NULLIF(@entry, 0), NULLIF(@referee, 0), @slot, @name, @size, 'uploading', @by_kind, @by_id, @at) RETURNING `+columns,
			db.Named{"entry": o.Entry, "referee": o.Referee, "slot": o.Slot, "name": CleanName(name), "size": size,
				"by_kind": by.Kind, "by_id": by.ID, "at": tx.At})
	})
	if err != nil {
		return f, err
	}
	sum, n, err := s.Files.Put(r)
	if err != nil { // the row goes too, or the sweep takes it
		gone := s.DB.Do(context.WithoutCancel(ctx), by, at, func(ctx context.Context, tx *db.Tx) error {
			_, err := tx.ExecContext(ctx, `UPDATE material SET removed_at = $2 WHERE id = $1`, f.ID, tx.At)
			return err
		})
		return f, errors.Join(fmt.Errorf("the file could not be stored: %w", err), gone)
	}
	err = s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		return tx.GetContext(ctx, &f,
			`UPDATE material SET sha256 = $2, size = $3, state = 'inspecting' WHERE id = $1 RETURNING `+columns, f.ID, sum, n)
	})
	if err != nil {
		return f, err
	}
	return s.look(ctx, by, at, f, most)
}

// look opens the file in a bounded child process and records what it is.
func (s *Store) look(ctx context.Context, by db.Actor, at time.Time, f File, most int64) (File, error) {
	found := inspect.Finding{Fault: slot.TooLarge}
	if f.Size <= most {
		var err error
		look := s.Look
		if look == nil {
			look = s.Bench.Look
		}
		if found, err = look(ctx, s.Files.Path(f.SHA256)); err != nil {
			return f, err
		}
	}
	facts, err := json.Marshal(found.Facts)
	if err != nil {
		return f, err
	}
	looked := slot.NotScanned
	if found.Fault == "" {
		if looked = s.scan(ctx, f); looked == slot.Infected {
			found.Fault = slot.Virus
		}
	}
	state := slot.Ready
	if found.Fault != "" {
		state = slot.Refused
	}
	err = s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		return tx.GetContext(ctx, &f,
			`UPDATE material SET state = @state, finding = @finding, facts = @facts, mime = @mime, scan = @scan WHERE id = @id RETURNING `+columns,
			db.Named{"id": f.ID, "state": state, "finding": found.Fault, "facts": string(facts), "mime": found.MIME,
				"scan": looked})
	})
	if err == nil && found.Words != nil { // tried again when they are asked for
		if b, merr := json.Marshal(found.Words); merr == nil {
			if _, merr = s.keepMade(ctx, at, f.SHA256, map[Made][]byte{Words: b}, false); merr != nil {
				slog.Warn("the words of a file were not kept", "file", f.ID, "error", merr)
			}
		}
	}
	if err == nil && f.State == slot.Ready && f.Facts.Kind == slot.Picture {
		if _, rerr := s.Rendition(ctx, at, f, Small); rerr != nil && !errors.Is(rerr, inspect.ErrKept) {
			slog.Warn("a picture was not drawn; that is tried again when it is looked at", "file", f.ID, "error", rerr)
		}
	}
	return f, err
}

// sizeMost is the greatest size that any case of a slot's limits takes.
func sizeMost(q *form.Question) (size int64, several bool) {
	for _, l := range append(q.Limits.When, form.Case[form.Limits]{Then: q.Limits.Else}) {
		if s := l.Then.Slot; s != nil {
			size, several = max(size, s.SizeMost), several || s.Most() > 1
		}
	}
	return size, several
}

// PutInSlot puts a file into a slot of a draft. In a slot for one file it takes
// the place of the one that was there; in others it is the last.
func (s *Store) PutInSlot(ctx context.Context, by db.Actor, at time.Time, c application.Case, q *form.Question,
	name string, size int64, r io.Reader) (File, error) {
	return s.PutThen(ctx, by, at, c, q, name, size, r, func(ctx context.Context, tx *db.Tx, f File) error {
		c, err := s.writable(ctx, tx, c, q.Key)
		if err != nil {
			return err
		}
		if err := s.instead(ctx, tx, q, f); err != nil {
			return err
		}
		return s.tell(ctx, tx, c, f)
	})
}

// PutThen stores and opens a file, and lets then decide whether it may stand in the
// slot; when it may not, it does not.
func (s *Store) PutThen(ctx context.Context, by db.Actor, at time.Time, c application.Case, q *form.Question,
	name string, size int64, r io.Reader, then func(ctx context.Context, tx *db.Tx, f File) error) (File, error) {
	most, several := sizeMost(q)
	if most <= 0 {
		most = slot.MostPlain
	}
	f, err := s.Put(ctx, by, at, Owner{Entry: c.EntryID, Slot: q.Key, Instead: !several}, name, size, most, r)
	if err != nil {
		return f, err
	}
	err = s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error { return then(ctx, tx, f) })
	if err != nil { // it came too late: it must not stand in the slot
		_, rerr := s.DB.ExecContext(ctx, `UPDATE material SET removed_at = $2 WHERE id = $1`, f.ID, at)
		err = errors.Join(err, rerr)
	}
	return f, err
}

// instead takes what was in a slot for one file out, for f is there now.
func (s *Store) instead(ctx context.Context, tx *db.Tx, q *form.Question, f File) error {
	if _, several := sizeMost(q); several {
		return nil
	}
	_, err := tx.ExecContext(ctx,
		`UPDATE material SET removed_at = $4 WHERE entry_id = $1 AND slot = $2 AND id <> $3 AND removed_at IS NULL`,
		f.EntryID, q.Key, f.ID, tx.At)
	return err
}

// tell writes down what opening a file found, where everybody sees it.
func (s *Store) tell(ctx context.Context, tx *db.Tx, c application.Case, f File) error {
	verb, figures := say.Verb("put-file"), map[string]string{"question": string(f.Slot),
		"pages": strconv.Itoa(f.Facts.Pages)}
	if f.State == slot.Refused {
		verb, figures = "file-refused", map[string]string{"question": string(f.Slot), "fault": string(f.Finding)}
	}
	if err := trail.Write(ctx, tx, verb, c.ID, c.RoundID, figures); err != nil {
		return err
	}
	_, err := s.Cases.Refresh(ctx, tx, c)
	return err
}

func (s *Store) writable(ctx context.Context, tx *db.Tx, c application.Case, slot form.Key) (application.Case, error) {
	w, err := s.Cases.Open(ctx, tx, c, true)
	switch {
	case errors.Is(err, application.ErrNotDraft), errors.Is(err, application.ErrClosed):
		err = ErrClosed
	case err == nil && !w.Takes(slot):
		err = application.ErrNotReopened
	}
	return w.Case, err
}

// slotOf finds the slot of a file that stands in an entry.
func slotOf(ctx context.Context, tx *db.Tx, entry, id int64) (key form.Key, err error) {
	if err := tx.GetContext(ctx, &key, `SELECT slot FROM material WHERE id = $1 AND entry_id = $2 AND removed_at IS NULL`,
		id, entry); errors.Is(err, sql.ErrNoRows) {
		return "", ErrNotFound
	} else if err != nil {
		return "", err
	}
	return key, nil
}

// Restore brings an entry's slots back to the files that were sealed.
func (s *Store) Restore(ctx context.Context, tx *db.Tx, entry int64, slots pq.StringArray, sealed []int64) error {
	if _, err := tx.ExecContext(ctx,
		`UPDATE material SET removed_at = $4 WHERE entry_id = $1 AND slot = ANY($2) AND removed_at IS NULL AND id <> ALL($3)`, entry, slots, sealed, tx.At); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx,
		`UPDATE material SET removed_at = NULL WHERE entry_id = $1 AND slot = ANY($2) AND id = ANY($3)`, entry, slots, sealed)
	return err
}

// Remove takes a file out of a slot of a draft.
func (s *Store) Remove(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	in, err := slotOf(ctx, tx, c.EntryID, id)
	if err != nil {
		return err
	}
	if c, err = s.writable(ctx, tx, c, in); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE material SET removed_at = $2 WHERE id = $1`, id, tx.At); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "removed-file", c.ID, c.RoundID,
		map[string]string{"question": string(in)}); err != nil {
		return err
	}
	_, err = s.Cases.Refresh(ctx, tx, c)
	return err
}

// Erase takes every file of an entry out for good: names at once, bytes with
// the next sweep.
func (s *Store) Erase(ctx context.Context, tx *db.Tx, entry int64) error {
	_, err := tx.ExecContext(ctx, `UPDATE material SET removed_at = $2, name = '' WHERE entry_id = $1`, entry, tx.At)
	return err
}

// Of lists the files of an entry.
func (s *Store) Of(ctx context.Context, q db.Querier, entry int64) (out []File, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT `+columns+` FROM material WHERE entry_id = $1 AND removed_at IS NULL ORDER BY place, id`, entry)
	return out, err
}

// Move brings a file of a draft one place forward or back among those of its
// slot; the order is kept whatever the order of uploading was.
func (s *Store) Move(ctx context.Context, tx *db.Tx, c application.Case, id int64, forward bool) error {
	in, err := slotOf(ctx, tx, c.EntryID, id)
	if err != nil {
		return err
	}
	if c, err = s.writable(ctx, tx, c, in); err != nil {
		return err
	}
	list, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(list, func(f File) bool { return f.ID == id })
	if at < 0 {
		return ErrNotFound
	}
	list = slices.DeleteFunc(list, func(f File) bool { return f.Slot != list[at].Slot })
	at = slices.IndexFunc(list, func(f File) bool { return f.ID == id })
	to := at + 1
	if forward {
		to = at - 1
	}
	if to < 0 || to >= len(list) {
		return nil
	}
	list[at], list[to] = list[to], list[at]
	return place(ctx, tx, list)
}

// Order puts the files of a slot into the order of their numbers; those not named
// come last, as they were, and numbers that are not of the slot count for nothing.
func (s *Store) Order(ctx context.Context, tx *db.Tx, c application.Case, in form.Key, ids []int64) error {
	c, err := s.writable(ctx, tx, c, in)
	if err != nil {
		return err
	}
	list, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	list = slices.DeleteFunc(list, func(f File) bool { return f.Slot != in })
	at := func(f File) int {
		if i := slices.Index(ids, f.ID); i >= 0 {
			return i
		}
		return len(ids)
	}
	slices.SortStableFunc(list, func(a, b File) int { return at(a) - at(b) })
	return place(ctx, tx, list)
}

// place writes down the order of a slot's files.
func place(ctx context.Context, tx *db.Tx, list []File) error {
	var ids []int64
	for _, f := range list {
		ids = append(ids, f.ID)
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE material SET place = at.n FROM unnest($1::bigint[]) WITH ORDINALITY at (id, n) WHERE material.id = at.id`,
		pq.Int64Array(ids))
	return err
}

// Carry puts the files of an entry's slots into those of another; the bytes
// are the same.
func (s *Store) Carry(ctx context.Context, tx *db.Tx, from, to int64, slots []string) error {
	_, err := tx.ExecContext(ctx, `
		INSERT INTO material (entry_id, slot, name, size, sha256, mime, state, finding, facts, place, by_kind, by_id, at)
		SELECT $2, slot, name, size, sha256, mime, state, finding, facts, place, by_kind, by_id, at FROM material
		WHERE entry_id = $1 AND slot = ANY($3) AND removed_at IS NULL AND state = 'ready' ORDER BY place, id`, from, to, pq.StringArray(slots))
	return err
}

// Find a file of an entry, or of a letter for it.
func (s *Store) Find(ctx context.Context, q db.Querier, id, entry int64) (f File, err error) {
	err = q.GetContext(ctx, &f, `
		SELECT `+columns+` FROM material
		WHERE id = $1 AND sha256 <> '' AND (entry_id = $2 OR referee_id IN (SELECT id FROM referee WHERE entry_id = $2))`, id, entry)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return f, err
}

// Part is an entry's files, in their order, as a walk reads them.
var Part = application.Part{
	JSON: `(SELECT COALESCE(json_agg(json_build_object('Slot', slot, 'ID', id, 'Name', name, 'Size', size, 'State', state, 'Finding', finding, 'Facts', facts, 'Upload', upload, 'Head', head, 'Arrived', arrived) ORDER BY place, id), '[]')
	       FROM material WHERE material.entry_id = e.id AND removed_at IS NULL)`,
	Fill: func(raw []byte, filled *form.Filled) error {
		var list []struct {
			Slot    form.Key
			ID      int64
			Name    string
			Size    int64
			State   slot.State
			Finding slot.Fault
			Facts   slot.Facts
			Upload  string
			Head    string
			Arrived int64
		}
		err := json.Unmarshal(raw, &list)
		filled.Files = map[form.Key][]slot.File{}
		for _, f := range list {
			filled.Files[f.Slot] = append(filled.Files[f.Slot],
				slot.File{ID: f.ID, Name: f.Name, Size: f.Size, State: f.State, Finding: f.Finding, Facts: f.Facts,
					Upload: f.Upload, Head: f.Head, Arrived: f.Arrived})
		}
		return err
	},
}

// Slotted is a file as a walk judges it.
func (f File) Slotted() slot.File {
	return slot.File{ID: f.ID, Name: f.Name, Size: f.Size, State: f.State, Finding: f.Finding, Facts: f.Facts.Facts}
}
