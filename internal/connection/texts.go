package connection

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/likeness"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// manyHave is how many texts have a mark that says nothing any more: what stands
// in the guidance, or in everybody's papers.
const manyHave = 40

// takeTexts keeps the long answers of an entry and finds texts like them: of other
// applications, of whoever; of one lead's own, those of other rounds, since the
// same may be asked for twice.
func (s *Store) takeTexts(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, filled *form.Filled,
	path *form.Path) error {
	var kept []string
	for _, key := range f.Prose(path) {
		text := filled.Answers[form.Place{Question: key}].Raw
		if likeness.Short(text) {
			continue
		}
		kept = append(kept, string(key))
		var id int64
		if err := tx.QueryRowxContext(ctx, `
			INSERT INTO prose (application_id, entry_id, lead_id, question, words) VALUES ($1, $2, $3, $4, $5)
			ON CONFLICT (entry_id, question) DO UPDATE SET words = EXCLUDED.words, lead_id = EXCLUDED.lead_id RETURNING id`,
			c.ID, c.EntryID, c.LeadID, string(key), likeness.Words(text)).Scan(&id); err != nil {
			return err
		}
		if err := s.takeText(ctx, tx, c, id, text); err != nil {
			return err
		}
	}
	_, err := tx.ExecContext(ctx, `DELETE FROM prose WHERE entry_id = $1 AND NOT question = ANY($2)`, c.EntryID, arr(kept))
	return err
}

func (s *Store) takeText(ctx context.Context, tx *db.Tx, c application.Case, id int64, text string) error {
	marks := likeness.Marks(text)
	if _, err := tx.ExecContext(ctx, `DELETE FROM prose_mark WHERE prose_id = $1`, id); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO prose_mark (mark, prose_id) SELECT m, $2 FROM unnest($1::bigint[]) m`,
		marks, id); err != nil {
		return err
	}
	near, err := s.near(ctx, tx, c, id, marks)
	if err != nil {
		return err
	}
	var ones, others []int64
	var contained []float64
	var shared []int
	for _, n := range near {
		other, err := s.text(ctx, tx, n.EntryID, n.Question)
		if err != nil {
			return err
		}
		_, share := likeness.Compare(text, other)
		words := 0
		for _, p := range likeness.Passages(text, other, likeness.Sure) {
			words += p.Words
		}
		if likeness.Enough(share, words) {
			ones, others = append(ones, min(id, n.ID)), append(others, max(id, n.ID))
			contained, shared = append(contained, share), append(shared, words)
		}
	}
	if _, err := tx.ExecContext(ctx, `
		DELETE FROM likeness l WHERE (l.one = $1 OR l.other = $1)
		  AND NOT EXISTS (SELECT FROM unnest($2::bigint[], $3::bigint[]) AS n(one, other) WHERE n.one = l.one AND n.other = l.other)`, id, ones, others); err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO likeness (one, other, contained, shared, found_at)
		SELECT n.one, n.other, n.contained, n.shared, $5 FROM unnest($1::bigint[], $2::bigint[], $3::float8[], $4::int[]) AS n(one, other, contained, shared)
		ON CONFLICT (one, other) DO UPDATE SET contained = EXCLUDED.contained, shared = EXCLUDED.shared`, ones, others, contained, shared, tx.At)
	return err
}

// nearby is a text that has marks in common with one.
type nearby struct {
	ID       int64
	EntryID  int64 `db:"entry_id"`
	Question string
	N        int
}

// near finds the texts that share most marks with one, ten at the most. An
// application is not held against its own other stages, nor against the one it
// says that it takes up again.
func (s *Store) near(ctx context.Context, tx *db.Tx, c application.Case, id int64, marks []int64) (out []nearby,
	err error) {
	err = tx.SelectContext(ctx, &out, `
		WITH hit AS MATERIALIZED (
		  SELECT m, l.prose_id, count(*) OVER (PARTITION BY m) AS have FROM unnest($1::bigint[]) m
		  CROSS JOIN LATERAL (SELECT x.prose_id FROM prose_mark x WHERE x.mark = m LIMIT $2 + 1) l)
		SELECT p.id, p.entry_id, p.question, count(*) AS n FROM hit JOIN prose p ON p.id = hit.prose_id
		WHERE hit.have <= $2 AND p.id <> $3 AND p.application_id <> $4
		  AND p.application_id IS DISTINCT FROM (SELECT resubmits FROM application WHERE id = $4)
		  AND NOT EXISTS (SELECT FROM application b WHERE b.id = p.application_id AND b.resubmits = $4)
		GROUP BY p.id HAVING count(*) >= 2 ORDER BY n DESC, p.id LIMIT 10`, marks, manyHave, id, c.ID)
	return out, err
}

// text of an answer, as it is sealed.
func (s *Store) text(ctx context.Context, q db.Querier, entry int64, question string) (string, error) {
	var text string
	err := q.GetContext(ctx, &text, `
		SELECT COALESCE((SELECT a->>'value' FROM jsonb_array_elements(convert_from(s.document, 'UTF8')::jsonb->'answers') a WHERE a->>'question' = $2 LIMIT 1), '')
		FROM entry e JOIN seal s ON s.id = e.seal_id WHERE e.id = $1`, entry, question)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	return text, err
}

// Alike is two texts that share much, as they are shown.
type Alike struct {
	ID        int64
	Contained float64 // of the shorter, in the other; 0 to 1
	Shared    int     // words in shared passages
	Matters   *bool   // what a person said; nil: nothing yet
	Note      string
	By        string
	At        *time.Time
	A         AlikeText `db:"a"`
	B         AlikeText `db:"b"`
}

// AlikeText is one side.
type AlikeText struct {
	EntryID  int64 `db:"entry_id"`
	Ref      string
	Title    string
	Round    string
	RoundID  int64 `db:"round_id"`
	DesignID int64 `db:"design_id"`
	Lead     string
	LeadID   int64      `db:"lead_id"`
	Question string     // its key
	SentAt   *time.Time `db:"sent_at"`
	Text     string     `db:"-"`
}

// aside selects one side, of the text with an alias. What is only shown is looked up
// row by row: thirteen tables in one join take 30 ms to plan, and none to read.
func aside(p string) string {
	return strings.ReplaceAll(`@.entry_id AS "@.entry_id", @a.ref AS "@.ref", @a.title AS "@.title",
	       (SELECT name FROM round WHERE id = @a.round_id) AS "@.round", @a.round_id AS "@.round_id",
	       (SELECT design_id FROM entry WHERE id = @.entry_id) AS "@.design_id",
	       (SELECT name FROM account WHERE id = @.lead_id) AS "@.lead", @.lead_id AS "@.lead_id", @.question AS "@.question",
	       (SELECT seal.at FROM entry JOIN seal ON seal.id = entry.seal_id WHERE entry.id = @.entry_id) AS "@.sent_at"`, "@", p)
}

func asideFrom(p string) string {
	return strings.ReplaceAll(` JOIN application @a ON @a.id = @.application_id`, "@", p)
}

var selectAlike = `
	SELECT x.id, x.contained, x.shared, x.matters, x.note, COALESCE((SELECT name FROM account WHERE id = x.by_id), '') AS by, x.at,
	       ` + aside("a") + `, ` + aside("b") + `
	FROM likeness x JOIN prose a ON a.id = x.one JOIN prose b ON b.id = x.other` + asideFrom("a") + asideFrom("b")

// AlikeIn lists what texts of a round are like, those not ruled on first; of one
// entry alone where it is not 0.
func (s *Store) AlikeIn(ctx context.Context, q db.Querier, round, entry int64, most int) (out []Alike, err error) {
	err = q.SelectContext(ctx, &out, selectAlike+`
		WHERE ($2 = 0 AND (aa.round_id = $1 OR ba.round_id = $1) OR $2 <> 0 AND (a.entry_id = $2 OR b.entry_id = $2))
		ORDER BY x.matters IS NOT NULL, x.contained DESC, x.id LIMIT $3`, round, entry, most)
	return out, err
}

// ErrNoLikeness: it is not there, or no longer.
var ErrNoLikeness = refusal.Missing("these texts are not alike any more")

// Alike finds one, with both texts.
func (s *Store) Alike(ctx context.Context, q db.Querier, id int64) (out Alike, err error) {
	err = q.GetContext(ctx, &out, selectAlike+` WHERE x.id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNoLikeness
	}
	if err != nil {
		return out, err
	}
	for _, t := range []*AlikeText{&out.A, &out.B} {
		if t.Text, err = s.text(ctx, q, t.EntryID, t.Question); err != nil {
			return out, err
		}
	}
	return out, nil
}

// RuleAlike keeps what a person says of two texts, with a note; it can be said
// otherwise later, and the trail of both cases has each time.
func (s *Store) RuleAlike(ctx context.Context, tx *db.Tx, round, id int64, matters bool, note string) (entries []int64,
	err error) {
	if note, err = noted(note); err != nil {
		return nil, err
	}
	switch x, err := s.Alike(ctx, tx, id); {
	case err != nil:
		return nil, err
	case x.A.RoundID != round && x.B.RoundID != round: // another’s
		return nil, ErrNoLikeness
	}
	var rows []struct {
		EntryID int64 `db:"entry_id"`
		App     int64 `db:"application_id"`
		Round   int64 `db:"round_id"`
	}
	if err := tx.SelectContext(ctx, &rows, `
		WITH x AS (UPDATE likeness SET matters = $2, note = $3, by_id = $4, at = $5 WHERE id = $1 RETURNING one, other)
		SELECT p.entry_id, p.application_id, a.round_id FROM x JOIN prose p ON p.id IN (x.one, x.other) JOIN application a ON a.id = p.application_id`,
		id, matters, note, tx.By.ID, tx.At); err != nil {
		return nil, err
	}
	for _, r := range rows {
		if err := trail.Write(ctx, tx, "ruled-alike", r.App, r.Round,
			map[string]string{"matters": yes(matters)}); err != nil {
			return nil, err
		}
		entries = append(entries, r.EntryID)
	}
	slices.Sort(entries)
	return slices.Compact(entries), nil
}

func yes(b bool) string {
	if b {
		return "yes"
	}
	return "no"
}

// noted refuses a ruling without its reason.
func noted(note string) (string, error) {
	note = strings.TrimSpace(note)
	if note == "" || len(note) > 2000 {
		return "", refusal.In("note", "Say in a note why; it is kept with the ruling.")
	}
	return note, nil
}
