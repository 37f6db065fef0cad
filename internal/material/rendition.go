package material

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
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

// make keeps what a child makes of a file; "" for what it cannot.
func (s *Store) make(ctx context.Context, at time.Time, of string, made Made) (map[Made]string, error) {
	parts := map[Made][]byte{}
	var err error
	if made == Clean {
		parts[Clean], err = s.Bench.Clean(ctx, s.Files.Path(of))
	} else {
		parts[Small], parts[Large], err = s.Bench.Render(ctx, s.Files.Path(of))
	}
	kept := errors.Is(err, inspect.ErrKept)
	if err != nil && !kept {
		return nil, err
	}
	sums := map[Made]string{}
	for name, b := range parts {
		if sums[name] = ""; kept {
			continue
		}
		if sums[name], _, err = s.Files.Put(bytes.NewReader(b)); err != nil {
			return nil, err
		}
	}
	return sums, s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		for name, sum := range sums {
			if _, err := tx.ExecContext(ctx,
				`INSERT INTO rendition (made_of, made, sha256) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, of, name, sum); err != nil {
				return err
			}
		}
		return nil
	})
}

// unmake deletes what was made of a file that is erased.
func (s *Store) unmake(ctx context.Context, of string) error {
	var sums []string
	if err := s.DB.SelectContext(ctx, &sums, `DELETE FROM rendition WHERE made_of = $1 RETURNING sha256`, of); err != nil {
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
