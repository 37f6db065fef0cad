// Package guidance keeps the files that the office puts beside a round: some to read, some
// templates to be filled in for a slot. Each has versions, which only grow; whoever has a
// draft is told of a new one. A template carries its mark inside (core/slot), so that it is
// recognised when it comes back.
package guidance

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/inspect"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/post"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Paper is one file of a round in all its versions.
type Paper struct {
	ID       int64
	RoundID  int64    `db:"round_id"`
	Title    string   // as people read it
	Slot     form.Key // whose template it is; "" for one to read
	Versions []Version
}

// Version is one state of a file.
type Version struct {
	GuidanceID int64 `db:"guidance_id"`
	Number     int   // from 1
	Changed    string
	Name       string
	MIME       string `db:"mime"`
	Size       int64  // bytes
	SHA256     string `db:"sha256"` // of what is given out
	Original   string // of what was put up
	At         time.Time
	ByID       int64 `db:"by_id"`
}

// Last is the version that holds.
func (p Paper) Last() Version { return p.Versions[len(p.Versions)-1] }

// Template is the paper as what comes back is compared with it.
func (p Paper) Template() slot.Template {
	t := slot.Template{ID: p.ID}
	for _, v := range p.Versions {
		t.Hashes = append(t.Hashes, v.Original[:16])
	}
	return t
}

// Store of papers.
type Store struct {
	DB        *db.DB
	Rounds    *round.Store
	Cases     *application.Store
	Materials *material.Store
	Post      *post.Office
	Jobs      *jobs.Queue
}

// ErrNotFound: no such paper, or not of this round.
var ErrNotFound = refusal.Missing("there is no such file")

// Bounds.
const (
	mostTitle   = 120
	mostChanged = 500
	mostPapers  = 40 // of a round
)

// New is a paper, or a new version of one, as it is put up.
type New struct {
	Paper   int64 // 0 for a new one
	Title   string
	Slot    form.Key
	Changed string // what is different; needed from the second version on
	Name    string // of the file
	Tell    bool   // whoever has a draft
}

// Put a file up. Its kind is found out by opening it, as with any file; a template must
// be of a kind that can carry its mark.
func (s *Store) Put(ctx context.Context, by db.Actor, at time.Time, r round.Round, f *form.Form, n New,
	body io.Reader) (p Paper, err error) {
	n.Title, n.Changed, n.Name = strings.TrimSpace(n.Title), strings.TrimSpace(n.Changed), material.CleanName(n.Name)
	if n.Paper != 0 {
		if p, err = s.Find(ctx, s.DB, r.ID, n.Paper); err != nil {
			return p, err
		}
		n.Title, n.Slot = p.Title, p.Slot
	}
	switch q := f.Question(n.Slot); {
	case n.Title == "" || len(n.Title) > mostTitle:
		return p, refusal.Unfit("Say in up to 120 characters what the file is called.")
	case n.Paper != 0 && n.Changed == "" || len(n.Changed) > mostChanged:
		return p, refusal.Unfit("Say in up to 500 characters what is different from the version before.")
	case n.Slot != "" && (q == nil || !q.TakesFiles()):
		return p, refusal.Unfit("A template belongs to a question that takes files.")
	}
	v, err := s.stored(ctx, n, body)
	if err != nil {
		return p, err
	}
	if n.Paper != 0 && p.Last().Original == v.Original {
		return p, refusal.Unfit("This is the file that is there already.")
	}
	v.Name, v.Changed, v.At, v.ByID, v.Number = n.Name, n.Changed, at, by.ID, len(p.Versions)+1
	if n.Paper == 0 {
		v.Changed = ""
	}
	err = s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT FROM round WHERE id = $1 FOR UPDATE`, r.ID); err != nil {
			return err
		}
		if err := s.number(ctx, tx, r, n, &p, &v); err != nil {
			return err
		}
		if n.Slot != "" {
			if err := s.mark(ctx, &v); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO guidance_version (guidance_id, number, changed, name, mime, size, sha256, original, at, by_id)
			VALUES (@guidance, @number, @changed, @name, @mime, @size, @sha256, @original, @at, @by)`,
			db.Named{"guidance": v.GuidanceID, "number": v.Number, "changed": v.Changed, "name": v.Name, "mime": v.MIME,
				"size": v.Size, "sha256": v.SHA256, "original": v.Original, "at": v.At, "by": v.ByID}); err != nil {
			return err
		}
		p.Versions = append(p.Versions, v)
		if n.Tell {
			if err := s.Jobs.Enqueue(ctx, tx, changed{Guidance: p.ID, Number: v.Number}, tx.At); err != nil {
				return err
			}
		}
		return trail.Write(ctx, tx, "guidance-put", 0, r.ID, map[string]string{"title": p.Title,
			"number": fmt.Sprint(v.Number)})
	})
	return p, err
}

// number gives the paper and its version their numbers.
func (s *Store) number(ctx context.Context, tx *db.Tx, r round.Round, n New, p *Paper, v *Version) error {
	if n.Paper == 0 {
		var has int
		if err := tx.GetContext(ctx, &has, `SELECT count(*) FROM guidance WHERE round_id = $1 AND removed_at IS NULL`,
			r.ID); err != nil {
			return err
		}
		if has >= mostPapers {
			return refusal.Unfit("A round has at most forty such files. Take one away first.")
		}
		p.RoundID, p.Title, p.Slot = r.ID, n.Title, n.Slot
		if err := tx.GetContext(ctx, &p.ID, `INSERT INTO guidance (round_id, title, slot) VALUES ($1, $2, $3) RETURNING id`,
			r.ID, n.Title, n.Slot); err != nil {
			return err
		}
	} else { // somebody may have put one up meanwhile
		again, err := s.Find(ctx, tx, r.ID, n.Paper)
		if err != nil {
			return err
		}
		if len(again.Versions) != len(p.Versions) {
			return refusal.Unfit("Somebody has put up another version meanwhile. Look at it first.")
		}
	}
	v.GuidanceID = p.ID
	return nil
}

// stored keeps the bytes and finds out what they are.
func (s *Store) stored(ctx context.Context, n New, body io.Reader) (v Version, err error) {
	b, err := io.ReadAll(io.LimitReader(body, slot.MostPlain+1))
	switch {
	case err != nil:
		return v, err
	case len(b) == 0:
		return v, refusal.Unfit("The file is empty.")
	case len(b) > slot.MostPlain:
		return v, refusal.Unfit("The file is larger than 8 MB.")
	}
	sum, size, err := s.Materials.Files.Put(bytes.NewReader(b))
	if err != nil {
		return v, err
	}
	found, err := s.Materials.Bench.Look(ctx, s.Materials.Files.Path(sum))
	switch {
	case err != nil:
		return v, err
	case found.Fault != "":
		return v, refusal.Unfit("The file could not be opened, or is of a kind that is not taken: PDF, a picture, a text or a sheet.")
	case n.Slot != "" && !slot.Marks(found.Kind, n.Name):
		return v, refusal.Unfit("A template is a PDF, a text (DOCX, ODT) or a workbook (XLSX, ODS): others cannot be known again.")
	}
	hash := sha256.Sum256(b)
	return Version{MIME: found.MIME, Size: size, SHA256: sum, Original: hex.EncodeToString(hash[:])}, nil
}

// mark puts the mark of a template into the file that is given out.
func (s *Store) mark(ctx context.Context, v *Version) error {
	m := slot.Mark{Template: v.GuidanceID, Version: v.Number, Hash: v.Original[:16]}
	b, err := s.Materials.Bench.Marked(ctx, s.Materials.Files.Path(v.SHA256), m.String())
	if errors.Is(err, inspect.ErrKept) {
		return refusal.Unfit("This file cannot carry a template’s mark. Save it anew from the program it was made with.")
	}
	if err != nil {
		return err
	}
	v.SHA256, v.Size, err = s.Materials.Files.Put(bytes.NewReader(b))
	return err
}

// Of lists the papers of a round in the order in which they were put up, each with its
// versions; those taken away are left out.
func (s *Store) Of(ctx context.Context, q db.Querier, roundID int64) (out []Paper, err error) {
	if err := q.SelectContext(ctx, &out,
		`SELECT id, round_id, title, slot FROM guidance WHERE round_id = $1 AND removed_at IS NULL ORDER BY id`,
		roundID); err != nil ||
		len(out) == 0 {
		return nil, err
	}
	var versions []Version
	if err := q.SelectContext(ctx, &versions, `
		SELECT v.guidance_id, v.number, v.changed, v.name, v.mime, v.size, v.sha256, v.original, v.at, v.by_id
		FROM guidance_version v JOIN guidance g ON g.id = v.guidance_id WHERE g.round_id = $1 AND g.removed_at IS NULL
		ORDER BY v.guidance_id, v.number`, roundID); err != nil {
		return nil, err
	}
	for i := range out {
		for _, v := range versions {
			if v.GuidanceID == out[i].ID {
				out[i].Versions = append(out[i].Versions, v)
			}
		}
	}
	return slices.DeleteFunc(out, func(p Paper) bool { return len(p.Versions) == 0 }), nil
}

// Find a paper of a round that was not taken away.
func (s *Store) Find(ctx context.Context, q db.Querier, roundID, id int64) (Paper, error) {
	list, err := s.Of(ctx, q, roundID)
	if err != nil {
		return Paper{}, err
	}
	if i := slices.IndexFunc(list, func(p Paper) bool { return p.ID == id }); i >= 0 {
		return list[i], nil
	}
	return Paper{}, ErrNotFound
}

// Bytes of a version as it is given out.
func (s *Store) Bytes(v Version) ([]byte, error) {
	return os.ReadFile(s.Materials.Files.Path(v.SHA256))
}

// Remove takes a paper away, with a reason; what came back for it keeps what was said of it.
func (s *Store) Remove(ctx context.Context, tx *db.Tx, r round.Round, id int64, why string) error {
	if why = strings.TrimSpace(why); why == "" || len(why) > mostChanged {
		return refusal.Unfit("Say in up to 500 characters why it is taken away.")
	}
	var title string
	err := tx.GetContext(ctx, &title,
		`UPDATE guidance SET removed_at = $3 WHERE id = $1 AND round_id = $2 AND removed_at IS NULL RETURNING title`, id,
		r.ID, tx.At)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	if err != nil {
		return err
	}
	return trail.Write(ctx, tx, "guidance-removed", 0, r.ID, map[string]string{"title": title, "why": why})
}
