package material

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"io"
	"os"
	"time"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/inspect"
)

// Made is what is made of a file for looking at it.
type Made string

// What is made. None of it carries what the file says of who made it.
const (
	Clean Made = "clean" // the file itself, without its properties
	Small Made = "small" // a picture beside its name, as JPEG
	Large Made = "large" // a picture that fills a window, as JPEG
	Words Made = "words" // what is written in it, as JSON
)

// Rendition is the fingerprint of what is made of a stored file; inspect.ErrKept
// when it cannot be made. It is made once, by a bounded child, when it is first
// asked for: pictures when they arrive.
func (s *Store) Rendition(ctx context.Context, at time.Time, f File, made Made) (sum string, err error) {
	err = s.DB.GetContext(ctx, &sum, `SELECT sha256 FROM rendition WHERE made_of = $1 AND made = $2`, f.SHA256, made)
	if errors.Is(err, sql.ErrNoRows) {
		var all map[Made]string
		if all, err = s.make(ctx, at, f.SHA256, made); err == nil {
			sum = all[made]
		}
	}
	if err == nil && sum == "" {
		err = inspect.ErrKept
	}
	return sum, err
}

// WordsOf a stored file; inspect.ErrKept when they cannot be read.
func (s *Store) WordsOf(ctx context.Context, at time.Time, sha256 string) (w inspect.Words, err error) {
	sum, err := s.Rendition(ctx, at, File{SHA256: sha256}, Words)
	if err != nil {
		return w, err
	}
	b, err := os.ReadFile(s.Files.Path(sum))
	if err == nil {
		err = json.Unmarshal(b, &w)
	}
	return w, err
}

// make keeps what a child makes of a file; "" for what it cannot.
func (s *Store) make(ctx context.Context, at time.Time, of string, made Made) (map[Made]string, error) {
	parts := map[Made][]byte{}
	var err error
	switch made {
	case Clean:
		return s.makeClean(ctx, at, of)
	case Words:
		var w inspect.Words
		if w, err = s.Bench.Words(ctx, s.Files.Path(of)); err == nil {
			parts[Words], err = json.Marshal(w)
		}
	default:
		parts[Small], parts[Large], err = s.Bench.Render(ctx, s.Files.Path(of))
	}
	kept := errors.Is(err, inspect.ErrKept)
	if err != nil && !kept {
		return nil, err
	}
	if kept && len(parts) == 0 {
		parts[made] = nil
	}
	return s.keepMade(ctx, at, of, parts, kept)
}

// makeClean keeps a file without its properties: it goes from the child to the folder and
// is nowhere whole between them, as films are large.
func (s *Store) makeClean(ctx context.Context, at time.Time, of string) (map[Made]string, error) {
	from, to := io.Pipe()
	done := make(chan error, 1)
	go func() {
		err := s.Bench.Clean(ctx, s.Files.Path(of), to)
		to.CloseWithError(err) // nil ends it as a file ends
		done <- err
	}()
	sum, _, err := s.Files.Put(from)
	from.CloseWithError(err)
	switch cerr := <-done; {
	case errors.Is(cerr, inspect.ErrKept):
		return s.keepSums(ctx, at, of, map[Made]string{Clean: ""})
	case cerr != nil && err == nil, errors.Is(err, cerr) && err != nil:
		return nil, cerr
	case err != nil:
		return nil, err
	}
	return s.keepSums(ctx, at, of, map[Made]string{Clean: sum})
}

// keepMade keeps what was made of a stored file; kept: that nothing could be.
func (s *Store) keepMade(ctx context.Context, at time.Time, of string, parts map[Made][]byte, kept bool) (
	sums map[Made]string, err error) {
	sums = map[Made]string{}
	for name, b := range parts {
		if sums[name] = ""; kept {
			continue
		}
		if sums[name], _, err = s.Files.Put(bytes.NewReader(b)); err != nil {
			return nil, err
		}
	}
	return s.keepSums(ctx, at, of, sums)
}

func (s *Store) keepSums(ctx context.Context, at time.Time, of string, sums map[Made]string) (map[Made]string, error) {
	return sums, s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		for name, sum := range sums {
			if _, err := tx.ExecContext(ctx,
				`INSERT INTO rendition (made_of, made, sha256) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, of, name,
				sum); err != nil {
				return err
			}
		}
		return nil
	})
}

// unmake deletes what was made of a file that is erased.
func (s *Store) unmake(ctx context.Context, of string) error {
	var sums []string
	if err := s.DB.SelectContext(ctx, &sums, `
		WITH gone AS (DELETE FROM rendition WHERE made_of = $1 RETURNING sha256)
		SELECT sha256 FROM gone WHERE NOT EXISTS (
		  SELECT FROM rendition WHERE rendition.sha256 = gone.sha256 AND rendition.made_of <> $1)`, of); err != nil {
		return err
	}
	for _, sum := range sums {
		if sum == "" || sum == of {
			continue
		}
		if err := s.Files.Remove(sum); err != nil {
			return err
		}
	}
	return nil
}
