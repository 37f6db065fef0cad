package desk

import (
	"context"
	"time"

	"github.com/lib/pq"

	"ulvant/core/waiting"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
)

// ReaderLoad is how far a reader is.
type ReaderLoad struct {
	AccountID   int64 `db:"account_id"`
	Name        string
	Email       string
	AcceptedAt  *time.Time `db:"accepted_at"`
	Given, Sent int
	Aside       int
	Off         bool           // declined, or taken off
	Fields      pq.StringArray // option keys
	FieldsSay   string         `db:"-"`
}

// Readers of a round and how far they are.
func (d *Desk) Readers(ctx context.Context, round int64) (out []ReaderLoad, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT r.account_id, p.name, p.email, r.accepted_at, r.fields, r.declined_at IS NOT NULL OR r.ended_at IS NOT NULL AS off, count(g.entry_id) AS given, count(g.sent_at) AS sent,
		  (SELECT count(*) FROM recusal c JOIN application ca ON ca.id = c.application_id WHERE c.account_id = r.account_id AND ca.round_id = r.round_id) AS aside
		FROM reader r JOIN account p ON p.id = r.account_id
		LEFT JOIN (assignment g JOIN application a ON a.id = g.application_id) ON g.account_id = r.account_id AND a.round_id = r.round_id
		WHERE r.round_id = $1 GROUP BY r.round_id, r.account_id, p.name, p.email ORDER BY p.name`, round)
	return out, err
}

// ReadingCase is one case being read, with how many readers it has.
type ReadingCase struct {
	Item
	Given, Marked int
	Readers       string
	EntryID       int64 `db:"entry_id"`
}

// ReadingCases lists a round's eligible, reading and read cases, so many at a
// time, those after an entry.
func (d *Desk) ReadingCases(ctx context.Context, round, after int64, most int) (out []ReadingCase, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		WITH page AS MATERIALIZED (SELECT s.entry_id FROM standing s
		  WHERE s.round_id = $1 AND s.entry_id > $2 AND s.state = ANY($4) ORDER BY s.entry_id LIMIT $3)
		SELECT `+itemColumns+`, st.entry_id, x.given, x.marked, x.readers `+itemFrom+`
		JOIN page ON page.entry_id = st.entry_id
		JOIN LATERAL (SELECT count(*) AS given, count(g.sent_at) AS marked, COALESCE(string_agg(rp.name, ', ' ORDER BY rp.name), '') AS readers
		  FROM assignment g JOIN account rp ON rp.id = g.account_id WHERE g.entry_id = st.entry_id) x ON true
		ORDER BY st.entry_id`, round, after, most, lifecycle.With(lifecycle.Admitted))
	return out, err
}

// Pending counts cases that are to be handed out, read or decided.
type Pending struct {
	Round int64 `db:"round_id"`
	waiting.Pending
}

// PendingSQL counts them by round, stage, state and readers; the EXPLAIN test
// reads it.
const PendingSQL = `
	SELECT st.round_id, st.stage, st.state, CASE WHEN st.state = ANY($3) THEN (SELECT count(*) FROM assignment g WHERE g.entry_id = st.entry_id) ELSE 0 END AS given,
	       count(*) AS n, min(st.changed_at) AS since
	FROM standing st WHERE st.state = ANY($2) AND ($1 = 0 OR st.round_id = $1) GROUP BY 1, 2, 3, 4`

// Pending of one round, or of all when round is 0.
func (d *Desk) Pending(ctx context.Context, round int64) (out []Pending, err error) {
	err = d.DB.SelectContext(ctx, &out, PendingSQL, round, lifecycle.With(lifecycle.UnderWay),
		lifecycle.With(lifecycle.BeingRead))
	return out, err
}

// ToRead is one case on a reader's desk.
type ToRead struct {
	EntryID   int64 `db:"entry_id"`
	Ref       string
	Title     string
	RoundKey  string `db:"round_key"`
	RoundName string `db:"round_name"`
	Stage     form.Key
	State     lifecycle.State
	SentAt    *time.Time `db:"sent_at"`
	Marks     int
	DesignID  int64 `db:"design_id"`
}

// ReaderDesk lists what is given to a reader: to mark first.
func (d *Desk) ReaderDesk(ctx context.Context, account int64) (out []ToRead, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT g.entry_id, a.ref, a.title, r.key AS round_key, r.name AS round_name, e.stage, e.state, g.sent_at, e.design_id,
		  (SELECT count(*) FROM mark m WHERE m.entry_id = g.entry_id AND m.account_id = g.account_id) AS marks
		FROM assignment g JOIN entry e ON e.id = g.entry_id JOIN application a ON a.id = g.application_id JOIN round r ON r.id = a.round_id
		WHERE g.account_id = $1 ORDER BY r.closes_at DESC, (g.sent_at IS NOT NULL), g.given_at, a.id`, account)
	return out, err
}

// Named is a case as a plan names it.
type Named struct {
	EntryID  int64 `db:"entry_id"`
	Ref      string
	Title    string
	FieldKey string `db:"field"` // its answer to the question that tells its field; "" for none
}

// Named reads cases by their entries.
func (d *Desk) Named(ctx context.Context, entries []int64, field form.Key) (map[int64]Named, error) {
	var rows []Named
	if err := d.DB.SelectContext(ctx, &rows, `
		SELECT e.id AS entry_id, a.ref, a.title, COALESCE(k.facts->>('q.' || $2), '') AS field
		FROM entry e JOIN application a ON a.id = e.application_id LEFT JOIN known k ON k.entry_id = e.id WHERE e.id = ANY($1)`, entries, field); err != nil {
		return nil, err
	}
	out := make(map[int64]Named, len(rows))
	for _, r := range rows {
		out[r.EntryID] = r
	}
	return out, nil
}

// Reads is one case of a reader.
type Reads struct {
	EntryID    int64 `db:"entry_id"`
	Ref        string
	Title      string
	Stage      form.Key
	State      lifecycle.State
	Marks      int
	SentAt     *time.Time `db:"sent_at"`
	ReopenedAt *time.Time `db:"reopened_at"`
}

// Query names the stage in an address.
func (r Reads) Query() string { return "?stage=" + string(r.Stage) }

// Reading lists what one reader has in a round, what waits first.
func (d *Desk) Reading(ctx context.Context, round, account int64) (out []Reads, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT g.entry_id, a.ref, a.title, e.stage, e.state, g.sent_at, g.reopened_at,
		       (SELECT count(*) FROM mark m WHERE m.entry_id = g.entry_id AND m.account_id = g.account_id) AS marks
		FROM assignment g JOIN entry e ON e.id = g.entry_id JOIN application a ON a.id = g.application_id
		WHERE g.account_id = $2 AND a.round_id = $1 ORDER BY g.sent_at IS NOT NULL, a.id LIMIT 500`, round, account)
	return out, err
}
