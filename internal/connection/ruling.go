package connection

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"ulvant/core/connected"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// End of a connection: who it is, and where.
type End struct {
	Name    string
	Body    bool
	Part    connected.Part
	Ref     string // of the case; "" for whoever judges
	Title   string
	Round   string
	CaseID  int64 `db:"case_id"`
	RoundID int64 `db:"round_id"`
	Account int64
}

// Found is a connection as it is shown, with what a person said of it.
type Found struct {
	ID       int64
	Same     bool
	Raw      []byte               `db:"evidence"`
	Evidence []connected.Evidence `db:"-"`
	FoundAt  time.Time            `db:"found_at"`
	Matters  *bool                // nil: nobody has ruled
	Note     string
	By       string
	At       *time.Time
	A        End `db:"a"`
	B        End `db:"b"` // who judges, where one of them does
}

// end selects one end, of the party with an alias.
func end(p string) string {
	return strings.ReplaceAll(`@.name AS "@.name", @.body AS "@.body", @.part AS "@.part", COALESCE(@a.ref, '') AS "@.ref", COALESCE(@a.title, '') AS "@.title",
	       COALESCE((SELECT name FROM round WHERE id = @a.round_id), '') AS "@.round", COALESCE(@.application_id, 0) AS "@.case_id",
	       COALESCE(@a.round_id, 0) AS "@.round_id", COALESCE(@.account_id, 0) AS "@.account"`, "@", p)
}

func endFrom(p string) string {
	return strings.ReplaceAll(` LEFT JOIN application @a ON @a.id = @.application_id`, "@", p)
}

var selectFound = `
	SELECT c.id, c.same, c.evidence, c.found_at, u.matters, COALESCE(u.note, '') AS note, COALESCE((SELECT name FROM account WHERE id = u.by_id), '') AS by, u.at,
	       ` + end("a") + `, ` + end("b") + `
	FROM connection c JOIN party a ON a.id = c.one JOIN party b ON b.id = c.other` + endFrom("a") + endFrom("b") + `
	LEFT JOIN ruling u ON u.one = LEAST(a.mark, b.mark) AND u.other = GREATEST(a.mark, b.mark)`

func (f *Found) read() error {
	if !f.A.Part.OfCase() {
		f.A, f.B = f.B, f.A
	}
	return json.Unmarshal(f.Raw, &f.Evidence)
}

// Which connections are listed.
type Which struct {
	Round int64 // those of its cases; 0: all
	Case  int64 // of one application alone; 0: all
	Ruled bool  // what a person has ruled on too; else what is open alone
	Most  int
}

// List of connections: what nobody has ruled on first, then the strongest.
func (s *Store) List(ctx context.Context, q db.Querier, w Which) (out []Found, err error) {
	if err := q.SelectContext(ctx, &out, selectFound+`
		WHERE ($1 = 0 OR aa.round_id = $1 OR ba.round_id = $1) AND ($2 = 0 OR a.application_id = $2 OR b.application_id = $2) AND ($3 OR u.matters IS NULL)
		ORDER BY u.matters IS NOT NULL, c.same DESC, c.bits DESC, c.id LIMIT $4`, w.Round, w.Case, w.Ruled, w.Most); err != nil {
		return nil, err
	}
	for i := range out {
		if err := out[i].read(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// ErrNoConnection: it is not there, or no longer.
var ErrNoConnection = refusal.Missing("this connection is not found any more")

// Find one.
func (s *Store) Find(ctx context.Context, q db.Querier, id int64) (f Found, err error) {
	err = q.GetContext(ctx, &f, selectFound+` WHERE c.id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNoConnection
	}
	if err != nil {
		return f, err
	}
	return f, f.read()
}

// Rule keeps what a person who rules in a round says of two, one of them there, with a note: for every place where the same
// two meet, now and later. Said otherwise later, that holds. It gives the entries of
// cases that they meet in, whose checks may read it.
func (s *Store) Rule(ctx context.Context, tx *db.Tx, round, id int64, matters bool, note string) (entries []int64,
	err error) {
	if note, err = noted(note); err != nil {
		return nil, err
	}
	f, err := s.Find(ctx, tx, id)
	if err != nil {
		return nil, err
	}
	if f.A.RoundID != round && f.B.RoundID != round { // another’s
		return nil, ErrNoConnection
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO ruling (one, other, matters, note, by_id, at)
		SELECT LEAST(a.mark, b.mark), GREATEST(a.mark, b.mark), $2, $3, $4, $5 FROM connection c JOIN party a ON a.id = c.one JOIN party b ON b.id = c.other WHERE c.id = $1
		ON CONFLICT (one, other) DO UPDATE SET matters = EXCLUDED.matters, note = EXCLUDED.note, by_id = EXCLUDED.by_id, at = EXCLUDED.at`,
		id, matters, note, tx.By.ID, tx.At); err != nil {
		return nil, err
	}
	for _, e := range []End{f.A, f.B} {
		if e.CaseID == 0 {
			continue
		}
		if err := trail.Write(ctx, tx, "ruled-connection", e.CaseID, e.RoundID,
			map[string]string{"one": f.A.Name, "other": f.B.Name, "matters": yes(matters)}); err != nil {
			return nil, err
		}
	}
	err = tx.SelectContext(ctx, &entries, `
		SELECT DISTINCT e.id FROM connection c JOIN party a ON a.id = c.one JOIN party b ON b.id = c.other
		JOIN entry e ON e.application_id IN (a.application_id, b.application_id)
		WHERE (LEAST(a.mark, b.mark), GREATEST(a.mark, b.mark)) = (SELECT LEAST(x.mark, y.mark), GREATEST(x.mark, y.mark) FROM connection z JOIN party x ON x.id = z.one JOIN party y ON y.id = z.other WHERE z.id = $1)
		ORDER BY e.id`, id)
	return slices.Compact(entries), err
}

// Bar is a reader who may not read a case, by a connection that nobody has ruled of
// no matter.
type Bar struct {
	Application int64 `db:"application_id"`
	Account     int64 `db:"account_id"`
}

// Bars lists them, among some applications and accounts.
func (s *Store) Bars(ctx context.Context, q db.Querier, applications, accounts []int64) (out []Bar, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT DISTINCT k.application_id, j.account_id
		FROM party j JOIN connection c ON j.id IN (c.one, c.other) JOIN party k ON k.id = CASE WHEN c.one = j.id THEN c.other ELSE c.one END
		LEFT JOIN ruling u ON u.one = LEAST(j.mark, k.mark) AND u.other = GREATEST(j.mark, k.mark)
		WHERE j.application_id IS NULL AND j.account_id = ANY($2) AND k.application_id = ANY($1) AND u.matters IS DISTINCT FROM false`, applications, accounts)
	return out, err
}

// Unruled is how much of a round nobody has ruled on: connections that keep somebody
// from reading or a case from going on, and texts.
type Unruled struct {
	RoundID   int64  `db:"round_id"`
	RoundKey  string `db:"round_key"`
	RoundName string `db:"round_name"`
	Programme string
	N         int
	Since     time.Time
}

// OpenOf lists the rounds in which something waits for a ruling; what is over for
// more than a year is left.
func (s *Store) OpenOf(ctx context.Context, q db.Querier, at time.Time) (out []Unruled, err error) {
	err = q.SelectContext(ctx, &out, `
		WITH open AS (
		  SELECT x.round_id, c.found_at FROM connection c JOIN party a ON a.id = c.one JOIN party b ON b.id = c.other
		  JOIN application x ON x.id IN (a.application_id, b.application_id)
		  LEFT JOIN ruling u ON u.one = LEAST(a.mark, b.mark) AND u.other = GREATEST(a.mark, b.mark) WHERE u.matters IS NULL
		  UNION ALL
		  SELECT x.round_id, l.found_at FROM likeness l JOIN prose a ON a.id = l.one JOIN prose b ON b.id = l.other
		  JOIN application x ON x.id IN (a.application_id, b.application_id) WHERE l.matters IS NULL)
		SELECT r.id AS round_id, r.key AS round_key, r.name AS round_name, r.programme, count(*) AS n, min(o.found_at) AS since
		FROM open o JOIN round r ON r.id = o.round_id WHERE r.closes_at > $1 GROUP BY r.id ORDER BY r.id`, at.AddDate(-1, 0, 0))
	return out, err
}

// Open counts, of the cases of a round, what nobody has ruled on.
func (s *Store) Open(ctx context.Context, q db.Querier, round int64) (open struct{ Connections, Texts int },
	err error) {
	err = q.GetContext(ctx, &open, `
		SELECT (SELECT count(*) FROM connection c JOIN party a ON a.id = c.one JOIN party b ON b.id = c.other
		        LEFT JOIN ruling u ON u.one = LEAST(a.mark, b.mark) AND u.other = GREATEST(a.mark, b.mark)
		        WHERE u.matters IS NULL AND EXISTS (SELECT FROM application x WHERE x.round_id = $1 AND x.id IN (a.application_id, b.application_id))) AS connections,
		       (SELECT count(*) FROM likeness l JOIN prose a ON a.id = l.one JOIN prose b ON b.id = l.other
		        WHERE l.matters IS NULL AND EXISTS (SELECT FROM application x WHERE x.round_id = $1 AND x.id IN (a.application_id, b.application_id))) AS texts`, round)
	return open, err
}
