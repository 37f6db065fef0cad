// Package trail keeps all that happened to a case or a round: append-only,
// ids not names, verbs from say.Catalogue, written in the transaction of the
// act itself.
package trail

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"ulvant/core/say"
	"ulvant/internal/platform/db"
)

// Row is one thing that happened.
type Row struct {
	ID      int64
	At      time.Time
	ByKind  string `db:"by_kind"`
	ByID    int64  `db:"by_id"`
	Verb    say.Verb
	Figures json.RawMessage
}

// Write adds a row. application or round may be 0.
func Write(ctx context.Context, tx *db.Tx, verb say.Verb, application, round int64, figures map[string]string) error {
	if _, ok := say.Catalogue[verb]; !ok {
		return fmt.Errorf("the trail has no verb %q", verb)
	}
	if figures == nil {
		figures = map[string]string{}
	}
	raw, err := json.Marshal(figures)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO trail (at, by_kind, by_id, verb, application_id, round_id, figures)
		VALUES ($1, $2, $3, $4, NULLIF($5, 0), NULLIF($6, 0), $7)`,
		tx.At, tx.By.Kind, tx.By.ID, verb, application, round, string(raw))
	return err
}

// WriteAll adds many rows at once: verbs, applications, rounds and figures (as
// JSON) of the same length.
func WriteAll(ctx context.Context, tx *db.Tx, verbs []string, applications, rounds []int64, figures []string) error {
	for _, v := range verbs {
		if _, ok := say.Catalogue[say.Verb(v)]; !ok {
			return fmt.Errorf("the trail has no verb %q", v)
		}
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO trail (at, by_kind, by_id, verb, application_id, round_id, figures)
		SELECT $1, $2, $3, n.verb, NULLIF(n.application, 0), NULLIF(n.round, 0), n.figures::jsonb
		FROM unnest($4::text[], $5::bigint[], $6::bigint[], $7::text[]) AS n(verb, application, round, figures)`,
		tx.At, tx.By.Kind, tx.By.ID, verbs, applications, rounds, figures)
	return err
}

// Erase blanks who is named in the figures of a case's rows; what happened, when
// and by whose number stays.
func Erase(ctx context.Context, tx *db.Tx, application int64) error {
	_, err := tx.ExecContext(ctx, `SELECT erase_particulars($1)`, application)
	return err
}

// quarter is how long one person's writing in one section is one row.
const quarter = 15 * time.Minute

// Wrote adds a row for writing in a section, one a quarter of an hour.
func Wrote(ctx context.Context, tx *db.Tx, application, round int64, section string) error {
	_, err := tx.ExecContext(ctx, `
		INSERT INTO trail (at, by_kind, by_id, verb, application_id, round_id, figures)
		SELECT $1, $2, $3, 'wrote', $4, $5, jsonb_build_object('section', $6::text)
		WHERE NOT EXISTS (SELECT FROM trail WHERE application_id = $4 AND verb = 'wrote' AND by_id = $3 AND at > $7 AND figures->>'section' = $6)`,
		tx.At, tx.By.Kind, tx.By.ID, application, round, section, tx.At.Add(-quarter))
	return err
}

// Of lists what happened to a case, oldest first.
func Of(ctx context.Context, q db.Querier, application int64) (rows []Row, err error) {
	err = q.SelectContext(ctx, &rows, `
		SELECT id, at, by_kind, by_id, verb, figures FROM trail WHERE application_id = $1 ORDER BY id`, application)
	return rows, err
}
