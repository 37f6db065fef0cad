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
		VALUES (@at, @by_kind, @by_id, @verb, NULLIF(@application_id, 0), NULLIF(@round_id, 0), @figures)`,
		db.Named{"at": tx.At, "by_kind": tx.By.Kind, "by_id": tx.By.ID, "verb": verb, "application_id": application,
			"round_id": round, "figures": string(raw)})
	return err
}

// Entry is one of many rows that are added together.
type Entry struct {
	Verb               say.Verb
	Application, Round int64
	Figures            map[string]string // nil for none
}

// WriteAll adds many rows at once.
func WriteAll(ctx context.Context, tx *db.Tx, entries []Entry) error {
	if len(entries) == 0 {
		return nil
	}
	verbs, figures := make([]string, len(entries)), make([]string, len(entries))
	applications, rounds := make([]int64, len(entries)), make([]int64, len(entries))
	for i, e := range entries {
		if _, ok := say.Catalogue[e.Verb]; !ok {
			return fmt.Errorf("the trail has no verb %q", e.Verb)
		}
		if e.Figures == nil {
			e.Figures = map[string]string{}
		}
		raw, err := json.Marshal(e.Figures)
		if err != nil {
			return err
		}
		verbs[i], applications[i], rounds[i], figures[i] = string(e.Verb), e.Application, e.Round, string(raw)
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO trail (at, by_kind, by_id, verb, application_id, round_id, figures)
		SELECT @at, @by_kind, @by_id, n.verb, NULLIF(n.application, 0), NULLIF(n.round, 0), n.figures::jsonb
		FROM unnest(@verbs::text[], @applications::bigint[], @rounds::bigint[], @all_figures::text[]) AS n(verb, application, round, figures)`,
		db.Named{"at": tx.At, "by_kind": tx.By.Kind, "by_id": tx.By.ID, "verbs": verbs, "applications": applications,
			"rounds": rounds, "all_figures": figures})
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
		SELECT @at, @by_kind, @by_id, 'wrote', @application_id, @round_id, jsonb_build_object('section', @section::text)
		WHERE NOT EXISTS (SELECT FROM trail WHERE application_id = @application_id AND verb = 'wrote' AND by_id = @by_id AND at > @lately AND figures->>'section' = @section)`,
		db.Named{"at": tx.At, "by_kind": tx.By.Kind, "by_id": tx.By.ID, "application_id": application, "round_id": round,
			"section": section, "lately": tx.At.Add(-quarter)})
	return err
}

// Of lists what happened to a case, oldest first.
func Of(ctx context.Context, q db.Querier, application int64) (rows []Row, err error) {
	err = q.SelectContext(ctx, &rows, `
		SELECT id, at, by_kind, by_id, verb, figures FROM trail WHERE application_id = $1 ORDER BY id`, application)
	return rows, err
}
