package material

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
)

// Shelved is a file that a person or an organisation keeps for several applications.
// On the shelf it is part of none of them.
type Shelved struct {
	ID        int64
	AccountID *int64 `db:"account_id"`
	ProfileID *int64 `db:"profile_id"`
	Holder    string // the organisation's name; "" for a person's own
	Name      string
	Size      int64
	SHA256    string `db:"sha256"`
	MIME      string `db:"mime"`
	Facts     Facts
	Scan      slot.Scan
	GoodUntil *time.Time `db:"good_until"` // the last day; nil: always good
	At        time.Time
	Uses      Uses // where it is attached
	Paper     string
}

// Uses are the applications that a file is attached to, in the order of their numbers.
type Uses []struct{ Ref, Title, State string }

// Scan reads them from the database.
func (u *Uses) Scan(src any) error {
	switch v := src.(type) {
	case []byte:
		return json.Unmarshal(v, u)
	case string:
		return json.Unmarshal([]byte(v), u)
	}
	return fmt.Errorf("uses of a file cannot be read from a %T", src)
}

// OutOfDate reports a file that is not good on a day any more.
func (s Shelved) OutOfDate(today calendar.Date) bool {
	return s.GoodUntil != nil && calendar.DateOf(*s.GoodUntil, time.UTC) < today
}

// File is it as a slot judges it.
func (s Shelved) File() slot.File {
	return slot.File{ID: s.ID, Name: s.Name, Size: s.Size, State: slot.Ready, Facts: s.Facts.Facts}
}

// ErrNotShelved: no such file, or on a shelf of somebody else.
var ErrNotShelved = refusal.Missing("there is no such file on a shelf of yours")

// onShelf is what an account may use: its own, and those of organisations it acts for.
const onShelf = `
	SELECT s.id, s.account_id, s.profile_id, COALESCE(p.name, '') AS holder, s.name, s.size, s.sha256, s.mime, s.facts, s.scan,
	  s.good_until, s.at,
	  (SELECT COALESCE(json_agg(json_build_object('Ref', u.ref, 'Title', u.title, 'State', u.state) ORDER BY u.ref), '[]') FROM (
	     SELECT DISTINCT a.ref, a.title, e.state FROM material m JOIN entry e ON e.id = m.entry_id JOIN application a ON a.id = e.application_id
	     WHERE m.shelved_id = s.id AND m.removed_at IS NULL) u) AS uses
	FROM shelved s LEFT JOIN profile p ON p.id = s.profile_id
	WHERE s.removed_at IS NULL AND (s.account_id = $1 OR s.profile_id IN (SELECT profile_id FROM profile_member WHERE account_id = $1))`

// Shelf lists the files that an account may use, its own first.
func (s *Store) Shelf(ctx context.Context, q db.Querier, account int64) (out []Shelved, err error) {
	err = q.SelectContext(ctx, &out, onShelf+` ORDER BY s.profile_id NULLS FIRST, s.name, s.id`, account)
	return out, err
}

// Shelved finds one that an account may use.
func (s *Store) Shelved(ctx context.Context, q db.Querier, account, id int64) (out Shelved, err error) {
	err = q.GetContext(ctx, &out, onShelf+` AND s.id = $2`, account, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotShelved
	}
	return out, err
}

// Shelve puts a file onto a shelf: the account's own, or that of an organisation it
// acts for when profile is not 0. It is opened first; what cannot be is refused.
// paper is the key of a paper that an organisation shows, whose file takes the
// place of the one there was; "" for any other file.
func (s *Store) Shelve(ctx context.Context, by db.Actor, at time.Time, profile int64, paper, name string,
	goodUntil calendar.Date, size int64, r io.Reader) (id int64, err error) {
	if size > slot.MostPlain {
		what, remedy := say.FileFault(form.Obstacle{Name: CleanName(name), Detail: string(slot.TooLarge), Have: size,
			Limit: slot.MostPlain})
		return 0, refusal.Unfit("The file " + what + ". " + remedy)
	}
	sum, n, err := s.Files.Put(r)
	if err != nil {
		return 0, fmt.Errorf("the file could not be stored: %w", err)
	}
	look := s.Look
	if look == nil {
		look = s.Bench.Look
	}
	found, err := look(ctx, s.Files.Path(sum))
	if err != nil {
		return 0, err
	}
	scanned := slot.NotScanned
	if found.Fault == "" {
		if scanned = s.scan(ctx, File{SHA256: sum}); scanned == slot.Infected {
			found.Fault = slot.Virus
		}
	}
	if found.Fault != "" {
		what, remedy := say.FileFault(form.Obstacle{Name: CleanName(name), Detail: string(found.Fault)})
		return 0, refusal.Unfit("The file " + what + ". " + remedy)
	}
	facts, err := json.Marshal(found.Facts)
	if err != nil {
		return 0, err
	}
	return id, s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		if err := s.room(ctx, tx, Owner{}, by, n); err != nil {
			return err
		}
		if paper != "" {
			if _, err := tx.ExecContext(ctx, `
				UPDATE shelved s SET removed_at = $3 WHERE s.profile_id = $1 AND s.paper = $2 AND s.removed_at IS NULL
				AND EXISTS (SELECT FROM profile_member m WHERE m.profile_id = s.profile_id AND m.account_id = $4)`, profile, paper, tx.At,
				tx.By.ID); err != nil {
				return err
			}
		}
		return s.shelve(ctx, tx, profile, goodUntil, Shelved{Name: CleanName(name), Size: n, SHA256: sum, MIME: found.MIME,
			Scan: scanned, Paper: paper}, string(facts), &id)
	})
}

// shelve writes a file down, on a shelf that whoever acts may fill.
func (s *Store) shelve(ctx context.Context, tx *db.Tx, profile int64, goodUntil calendar.Date, f Shelved, facts string,
	id *int64) error {
	var until *string
	if !goodUntil.IsZero() {
		iso := goodUntil.String()
		until = &iso
	}
	err := tx.GetContext(ctx, id, `
		INSERT INTO shelved (account_id, profile_id, name, size, sha256, mime, facts, scan, good_until, by_id, at, paper)
		SELECT CASE WHEN who.profile = 0 THEN who.account END, NULLIF(who.profile, 0), @name, CAST(@size AS bigint), @sha256, @mime,
		  CAST(@facts AS jsonb), @scan, CAST(@until AS date), who.account, CAST(@at AS timestamptz), @paper
		FROM (SELECT CAST(@account AS bigint) AS account, CAST(@profile AS bigint) AS profile) who
		WHERE who.profile = 0 OR EXISTS (SELECT FROM profile_member m WHERE m.profile_id = who.profile AND m.account_id = who.account)
		RETURNING id`, db.Named{"account": tx.By.ID, "profile": profile, "name": f.Name, "size": f.Size, "sha256": f.SHA256,
		"mime": f.MIME, "facts": facts, "scan": f.Scan, "until": until, "at": tx.At, "paper": f.Paper})
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotShelved
	}
	return err
}

// ShelveAttached keeps a file that is in a slot on the shelf of whoever acts, too.
func (s *Store) ShelveAttached(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	f, err := s.Find(ctx, tx, id, c.EntryID)
	if err != nil || f.EntryID == nil || f.State != slot.Ready {
		return ErrNotFound
	}
	var there bool
	if err := tx.GetContext(ctx, &there,
		`SELECT EXISTS (SELECT FROM shelved WHERE account_id = $1 AND sha256 = $2 AND removed_at IS NULL)`, tx.By.ID,
		f.SHA256); err != nil || there {
		return err
	}
	facts, err := json.Marshal(f.Facts.Facts)
	if err != nil {
		return err
	}
	var kept int64
	if err := s.shelve(ctx, tx, 0, 0, Shelved{Name: f.Name, Size: f.Size, SHA256: f.SHA256, MIME: f.MIME, Scan: f.Scan},
		string(facts), &kept); err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `UPDATE material SET shelved_id = $2 WHERE id = $1`, id, kept)
	return err
}

// PaperOf finds a paper that an organisation shows, for the office.
func (s *Store) PaperOf(ctx context.Context, q db.Querier, profile, id int64) (out Shelved, err error) {
	err = q.GetContext(ctx, &out, `
		SELECT id, account_id, profile_id, name, size, sha256, mime, facts, scan, good_until, at, paper FROM shelved
		WHERE id = $2 AND profile_id = $1 AND paper <> '' AND removed_at IS NULL`, profile, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotShelved
	}
	return out, err
}

// TakeOff takes a file off its shelf; where it is attached it stays.
func (s *Store) TakeOff(ctx context.Context, tx *db.Tx, id int64) error {
	if _, err := s.Shelved(ctx, tx, tx.By.ID, id); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `UPDATE shelved SET removed_at = $2 WHERE id = $1`, id, tx.At)
	return err
}

// EmptyShelf takes everything off a person's own shelf; what is attached stays where
// it is, and an organisation's shelf is not theirs to empty.
func (s *Store) EmptyShelf(ctx context.Context, tx *db.Tx, account int64) error {
	_, err := tx.ExecContext(ctx,
		`UPDATE shelved SET removed_at = $2 WHERE account_id = $1 AND removed_at IS NULL`, account, tx.At)
	return err
}

// Attach puts a file of a shelf into a slot of a draft: the same bytes, judged by the
// slot as they are now.
func (s *Store) Attach(ctx context.Context, tx *db.Tx, c application.Case, q *form.Question, id int64) error {
	x, err := s.Shelved(ctx, tx, tx.By.ID, id)
	if err != nil {
		return err
	}
	if c, err = s.writable(ctx, tx, c, q.Key); err != nil {
		return err
	}
	_, several := sizeMost(q)
	if err := s.room(ctx, tx, Owner{Entry: c.EntryID, Slot: q.Key, Instead: !several}, tx.By, x.Size); err != nil {
		return err
	}
	var f File
	if err := tx.GetContext(ctx, &f, `
		INSERT INTO material (entry_id, slot, name, size, sha256, mime, state, facts, scan, by_kind, by_id, at, shelved_id)
		SELECT @entry, @slot, name, size, sha256, mime, 'ready', facts, scan, @by_kind, @by_id, @at, id FROM shelved WHERE id = @id
		RETURNING `+columns, db.Named{"entry": c.EntryID, "slot": q.Key, "by_kind": tx.By.Kind, "by_id": tx.By.ID, "at": tx.At,
		"id": id}); err != nil {
		return err
	}
	if err := s.instead(ctx, tx, q, f); err != nil {
		return err
	}
	return s.tell(ctx, tx, c, f)
}

// sweepShelf deletes the bytes of files that were taken off a shelf a day ago and
// that nothing else holds.
func (s *Store) sweepShelf(ctx context.Context, at time.Time) error {
	var sums []string
	if err := s.DB.SelectContext(ctx, &sums, `
		SELECT DISTINCT s.sha256 FROM shelved s WHERE s.removed_at < $1 AND s.sha256 <> ''
		  AND NOT EXISTS (SELECT FROM shelved o WHERE o.sha256 = s.sha256 AND o.removed_at IS NULL)
		  AND NOT EXISTS (SELECT FROM material m WHERE m.sha256 = s.sha256 AND m.name <> '')
		  AND NOT EXISTS (SELECT FROM guidance_version g WHERE s.sha256 IN (g.sha256, g.original))`, at.Add(-keptReplaced)); err != nil {
		return err
	}
	for _, sum := range sums {
		if err := s.Files.Remove(sum); err != nil {
			return err
		}
		if err := s.unmake(ctx, sum); err != nil {
			return err
		}
		if _, err := s.DB.ExecContext(ctx, `UPDATE shelved SET sha256 = '', name = '' WHERE sha256 = $1`, sum); err != nil {
			return err
		}
	}
	return nil
}
