package profile

import (
	"context"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/profile"
	"ulvant/internal/platform/db"
)

// Paper that an organisation shows by its legal form, with its file on the shelf.
type Paper struct {
	profile.Paper
	ID        int64 // of the file; 0 while there is none
	Name      string
	GoodUntil *time.Time `db:"good_until"`
	At        time.Time
	Good      bool
}

// Papers of an organisation, by its legal form, as of a time.
func (s *Store) Papers(ctx context.Context, q db.Querier, p Profile, at time.Time) (out []Paper, err error) {
	var files []struct {
		ID        int64
		Paper     string
		Name      string
		GoodUntil *time.Time `db:"good_until"`
		At        time.Time
	}
	if err := q.SelectContext(ctx, &files,
		`SELECT id, paper, name, good_until, at FROM shelved WHERE profile_id = $1 AND paper <> '' AND removed_at IS NULL`,
		p.ID); err != nil {
		return nil, err
	}
	today := calendar.DateOf(at, s.Zone())
	for _, want := range p.Facts.Form.Papers() {
		x := Paper{Paper: want}
		for _, f := range files {
			if f.Paper == want.Key {
				x.ID, x.Name, x.GoodUntil, x.At = f.ID, f.Name, f.GoodUntil, f.At
				x.Good = f.GoodUntil == nil || calendar.DateOf(*f.GoodUntil, time.UTC) >= today
			}
		}
		out = append(out, x)
	}
	return out, nil
}

// shown is how the papers of an organisation stand.
func (s *Store) shown(ctx context.Context, q db.Querier, p Profile, at time.Time) (map[string]profile.Shown, error) {
	list, err := s.Papers(ctx, q, p, at)
	out := map[string]profile.Shown{}
	for _, x := range list {
		out[x.Key] = profile.Shown{There: x.ID != 0, Good: x.Good}
	}
	return out, err
}
