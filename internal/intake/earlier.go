package intake

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
)

// Earlier is an earlier version of an answer.
type Earlier struct {
	form.Place
	Version int
	Value   string
	Non     form.NonAnswer
	By      string
	At      time.Time
}

// keepEarlier keeps answers that are about to be written over, and the latest
// so many of each place.
func keepEarlier(ctx context.Context, tx *db.Tx, entry int64, old []application.Answer) error {
	if len(old) == 0 {
		return nil
	}
	raw, err := json.Marshal(old)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO answer_before (entry_id, question, row_key, column_key, version, value, non, by_id, at)
		SELECT $1, n.question, n.row_key, n.column_key, n.version, n.value, n.non, n.by_id, n.at
		FROM jsonb_to_recordset($2::jsonb) AS n(`+answerColumns+`) ON CONFLICT DO NOTHING`, entry, string(raw)); err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		DELETE FROM answer_before b USING (
		  SELECT question, row_key, column_key, version, row_number() OVER (PARTITION BY question, row_key, column_key ORDER BY version DESC) AS nth
		  FROM answer_before WHERE entry_id = $1 AND (question, row_key, column_key) IN (
		    SELECT n.question, n.row_key, n.column_key FROM jsonb_to_recordset($2::jsonb) AS n(`+answerColumns+`))) AS x
		WHERE b.entry_id = $1 AND b.question = x.question AND b.row_key = x.row_key AND b.column_key = x.column_key AND b.version = x.version AND x.nth > $3`,
		entry, string(raw), form.MostEarlier)
	return err
}

// EarlierOf lists the earlier versions of a question's answers, the latest first.
func (s *Store) EarlierOf(ctx context.Context, q db.Querier, entry int64, question form.Key) (out []Earlier,
	err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT b.question, b.row_key AS row, b.column_key AS column, b.version, b.value, b.non, COALESCE(p.name, '') AS by, b.at
		FROM answer_before b LEFT JOIN account p ON p.id = b.by_id
		WHERE b.entry_id = $1 AND b.question = $2 ORDER BY b.at DESC, b.version DESC`, entry, question)
	return out, err
}

// WithEarlier lists the questions of an entry that have earlier versions.
func (s *Store) WithEarlier(ctx context.Context, q db.Querier, entry int64) (map[form.Key]bool, error) {
	var keys []form.Key
	err := q.SelectContext(ctx, &keys, `SELECT DISTINCT question FROM answer_before WHERE entry_id = $1`, entry)
	out := map[form.Key]bool{}
	for _, k := range keys {
		out[k] = true
	}
	return out, err
}

// BringBack makes an earlier version of an answer the one that stands; what
// stood is kept as an earlier one.
func (s *Store) BringBack(ctx context.Context, tx *db.Tx, c application.Case, at form.Place, version int) error {
	w, err := s.Cases.OpenWhole(ctx, tx, c)
	if err != nil {
		return err
	}
	if !w.Takes(at.Question) {
		return application.ErrNotReopened
	}
	var old struct {
		Value string
		Non   form.NonAnswer
	}
	err = tx.GetContext(ctx, &old, `
		SELECT value, non FROM answer_before WHERE entry_id = $1 AND question = $2 AND row_key = $3 AND column_key = $4 AND version = $5`,
		c.EntryID, at.Question, at.Row, at.Column, version)
	if errors.Is(err, sql.ErrNoRows) {
		return application.ErrNotFound
	}
	if err != nil {
		return err
	}
	now := w.Answer(at)
	if now == nil {
		return application.ErrNotFound
	}
	if err := keepEarlier(ctx, tx, c.EntryID, []application.Answer{*now}); err != nil {
		return err
	}
	_, _, err = s.Save(ctx, tx, c, []Edit{{Place: at, Version: now.Version, EditID: rand.Text(), Value: old.Value,
		Non: old.Non}})
	return err
}
