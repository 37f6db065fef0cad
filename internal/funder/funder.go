// Package funder keeps what holds for the whole office. It is read when the program
// starts and kept at hand; a change counts at once here, and in other processes on
// the same database within seconds.
package funder

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"log/slog"
	"sync/atomic"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/funder"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/holidays"
)

// Store keeps the settings of the whole office.
type Store struct {
	DB  *db.DB
	now atomic.Pointer[kept]
}

// kept is what was read, with what is made of it.
type kept struct {
	funder.Settings
	Version int // 0: nobody has said anything yet
	zone    *time.Location
	off     func(calendar.Date) bool
}

// Load reads them anew.
func (s *Store) Load(ctx context.Context) error {
	var row struct {
		Settings []byte
		Version  int
	}
	k := kept{Settings: funder.Blank()}
	err := s.DB.GetContext(ctx, &row, `SELECT settings, version FROM funder`)
	switch {
	case errors.Is(err, sql.ErrNoRows):
	case err != nil:
		return err
	default:
		if old := s.now.Load(); old != nil && old.Version == row.Version {
			return nil
		}
		k.Settings, k.Version = funder.Settings{}, row.Version
		if err := json.Unmarshal(row.Settings, &k.Settings); err != nil {
			return err
		}
	}
	return s.use(k)
}

func (s *Store) use(k kept) error {
	days, err := holidays.ParseDays(k.Closed)
	if err != nil {
		return err
	}
	if k.off, err = holidays.Off(k.Country, days, k.Week()); err != nil {
		return err
	}
	k.zone = k.Location()
	s.now.Store(&k)
	return nil
}

// lookEvery is how often a process looks whether another changed something.
const lookEvery = 10 * time.Second

// Keep reads them anew until ctx ends.
func (s *Store) Keep(ctx context.Context) {
	for tick := time.NewTicker(lookEvery); ; {
		select {
		case <-ctx.Done():
			tick.Stop()
			return
		case <-tick.C:
			if err := s.Load(ctx); err != nil && ctx.Err() == nil {
				slog.Warn("what holds for the office could not be read; what was read before holds", "error", err)
			}
		}
	}
}

// Now is what holds.
func (s *Store) Now() funder.Settings { return s.now.Load().Settings }

// Version counts the changes; 0 when nobody has said anything yet.
func (s *Store) Version() int { return s.now.Load().Version }

// Name of the funder.
func (s *Store) Name() string { return s.now.Load().Name }

// Zone of its clocks.
func (s *Store) Zone() *time.Location { return s.now.Load().zone }

// Off reports a day that is no working day, weekends among them.
func (s *Store) Off(d calendar.Date) bool { return s.now.Load().off(d) }

// Under puts the foot of letters under a text.
func (s *Store) Under(body string) string { return s.now.Load().Under(body) }

// Mail is the address to which people write; otherwise the one given.
func (s *Store) Mail(otherwise string) string {
	if m := s.now.Load().Settings.Mail; m != "" {
		return m
	}
	return otherwise
}

// Set changes them. version is the one that was changed: of two who change at once
// the later is told. What was set counts when the transaction does, see Load.
func (s *Store) Set(ctx context.Context, tx *db.Tx, version int, now funder.Settings) error {
	if err := now.Check(holidays.Known, func(days string) error {
		_, err := holidays.ParseDays(days)
		return err
	}); err != nil {
		return err
	}
	raw, err := json.Marshal(now)
	if err != nil {
		return err
	}
	res, err := tx.ExecContext(ctx, `
		INSERT INTO funder (settings, version, by_id, at) VALUES ($1, $2 + 1, $3, $4)
		ON CONFLICT (one) DO UPDATE SET settings = $1, version = $2 + 1, by_id = $3, at = $4 WHERE funder.version = $2`,
		string(raw), version, tx.By.ID, tx.At)
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return refusal.In("name", "Somebody else changed this meanwhile. Look at what holds now, and say it again.")
	}
	return nil
}

// Changed is who changed them last, and when; nil when nobody did.
func (s *Store) Changed(ctx context.Context) (*Change, error) {
	var c Change
	err := s.DB.GetContext(ctx, &c,
		`SELECT COALESCE(p.name, 'the command line') AS by, f.at FROM funder f LEFT JOIN account p ON p.id = f.by_id`)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	return &c, err
}

// Change of the settings.
type Change struct {
	By string
	At time.Time
}
