// Package bulk does one thing to many cases, in four steps that a person sees: it
// is said what is to be done; it is drawn, which is doing it to each case in a
// transaction that is taken back, so that what is shown is what would happen and
// no second reading of a rule; it is held, and can be stopped as a whole or for
// single cases; then it is done, each case in a transaction of its own, so that one
// that cannot be does not keep the others. What left nothing but the house's own
// marks can be undone afterwards.
package bulk

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/check"
	"ulvant/internal/colleague"
	"ulvant/internal/intake"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/work"
	"ulvant/internal/post"
)

// Store does it.
type Store struct {
	DB         *db.DB
	Cases      *application.Store
	Checks     *check.Store
	Colleagues *colleague.Store
	Intake     *intake.Store
	People     *people.Store
	Post       *post.Office
	Jobs       *jobs.Queue
	Work       *work.Store
}

// Stage of an act on many.
type Stage string

// The stages.
const (
	Asked   Stage = "asked"   // its cases are chosen; what exactly is to be said
	Drawing Stage = "drawing" // being drawn, by a job
	Drawn   Stage = "drawn"
	Held    Stage = "held" // until it is due; can be stopped
	Stopped Stage = "stopped"
	Doing   Stage = "doing"
	Done    Stage = "done"
	Undoing Stage = "undoing"
	Undone  Stage = "undone"
)

// Outcome for one case.
type Outcome string

// The outcomes: as drawn, and as done.
const (
	Would    Outcome = "would"
	WouldNot Outcome = "not"
	StopOne  Outcome = "stopped"
	Did      Outcome = "did"
	Failed   Outcome = "failed" // it could not be done any more when it came to it
	TakenOff Outcome = "undone"
	Stands   Outcome = "stands" // it could not be undone
)

// Bulk is one act on many cases.
type Bulk struct {
	ID      int64
	Round   int64 `db:"round"` // 0: it began in the register of all rounds
	ByID    int64 `db:"by_id"`
	Act     Act
	Args    json.RawMessage
	BegunAt time.Time `db:"begun_at"`
	Says    string    // which cases, as a sentence
	Back    string    // the register it came from, as an address
	Stage   Stage
	DueAt   *time.Time `db:"due_at"`
	DidAt   *time.Time `db:"did_at"`
	WorkID  int64      `db:"work_id"` // that draws, does or undoes it; 0 for none
}

const columns = `id, COALESCE(round_id, 0) AS round, by_id, act, COALESCE(args, 'null') AS args, begun_at, says, back, stage, due_at, did_at, COALESCE(work_id, 0) AS work_id`

// Told is what it was told; nothing yet is the zero Args.
func (b Bulk) Told() (a Args, err error) {
	if len(b.Args) > 0 {
		err = json.Unmarshal(b.Args, &a)
	}
	return a, err
}

// Mail as it was drawn.
type Mail struct {
	To      string `json:"to"`
	Name    string `json:"name"`
	Subject string `json:"subject"`
	Body    string `json:"body"`
}

// One case of it.
type One struct {
	EntryID int64 `db:"entry_id"`
	Ref     string
	Title   string
	Lead    string
	Number  int
	Outcome Outcome
	Says    string
	Odd     bool
	Mails   Mails
	Undo    []byte
}

// Mails are kept as JSON.
type Mails []Mail

// Scan reads them.
func (m *Mails) Scan(from any) error {
	switch v := from.(type) {
	case nil:
		return nil
	case []byte:
		return json.Unmarshal(v, m)
	case string:
		return json.Unmarshal([]byte(v), m)
	}
	return errors.New("mails cannot be read")
}

// MostCases of one act on many.
const MostCases = 10_000

// Begin keeps which cases something is to be done to; nothing happens yet.
func (s *Store) Begin(ctx context.Context, tx *db.Tx, b Bulk, entries []int64) (id int64, err error) {
	if _, ok := acts[b.Act]; !ok {
		return 0, refusal.Missing("there is no such act")
	}
	switch {
	case len(entries) == 0:
		return 0, refusal.Unfit("Choose at least one application first.")
	case len(entries) > MostCases:
		return 0, refusal.Unfit("That is more than 10,000 applications. Ask for fewer, and take them in parts.")
	}
	if err := tx.GetContext(ctx, &id, `
		INSERT INTO bulk (round_id, by_id, act, begun_at, says, back, stage) VALUES (NULLIF(@round, 0), @by, @act, @at, @says, @back, 'asked') RETURNING id`,
		db.Named{"round": b.Round, "by": tx.By.ID, "act": b.Act, "at": tx.At, "says": b.Says, "back": b.Back}); err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO bulked (bulk_id, entry_id, number) SELECT $1, n.id, n.place FROM unnest($2::bigint[]) WITH ORDINALITY AS n(id, place)`, id, entries)
	return id, err
}

// ErrNone: there is no such act, or it is somebody else's.
var ErrNone = refusal.Missing("there is no such act")

// Find one that an account began.
func (s *Store) Find(ctx context.Context, q db.Querier, id, account int64) (b Bulk, err error) {
	err = q.GetContext(ctx, &b, `SELECT `+columns+` FROM bulk WHERE id = $1 AND by_id = $2`, id, account)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNone
	}
	return b, err
}

// Lately lists those that an account began and put to work, the latest first.
func (s *Store) Lately(ctx context.Context, q db.Querier, account int64, most int) (out []Bulk, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT `+columns+` FROM bulk WHERE by_id = $1 AND stage NOT IN ('asked', 'drawing', 'drawn') ORDER BY id DESC LIMIT $2`,
		account, most)
	return out, err
}

// HeldBy lists those of an account that wait and can still be stopped.
func (s *Store) HeldBy(ctx context.Context, q db.Querier, account int64) (out []Bulk, err error) {
	err = q.SelectContext(ctx, &out, `SELECT `+columns+` FROM bulk WHERE by_id = $1 AND stage = 'held' ORDER BY due_at`,
		account)
	return out, err
}

// Tally counts the cases of an act by outcome.
type Tally map[Outcome]int

// N of all of them.
func (t Tally) N() (n int) {
	for _, k := range t {
		n += k
	}
	return n
}

// Tally of an act.
func (s *Store) Tally(ctx context.Context, q db.Querier, id int64) (Tally, error) {
	var rows []struct {
		Outcome Outcome
		N       int
	}
	err := q.SelectContext(ctx, &rows, `SELECT outcome, count(*) AS n FROM bulked WHERE bulk_id = $1 GROUP BY outcome`, id)
	out := Tally{}
	for _, r := range rows {
		out[r.Outcome] = r.N
	}
	return out, err
}

// Of lists the cases of an act with some outcomes, the odd ones first.
func (s *Store) Of(ctx context.Context, q db.Querier, id int64, outcomes []Outcome, offset,
	most int) (out []One, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT x.entry_id, a.ref, a.title, p.name AS lead, x.number, x.outcome, x.says, x.odd, x.mails
		FROM bulked x JOIN entry e ON e.id = x.entry_id JOIN application a ON a.id = e.application_id
		JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id
		WHERE x.bulk_id = $1 AND x.outcome = ANY($2) ORDER BY x.odd DESC, x.number LIMIT $4 OFFSET $3`, id, outcomes, offset, most)
	return out, err
}

// about is what each case is about, for what the roles of whoever acts allow.
func (s *Store) about(ctx context.Context, q db.Querier, entries []int64) (map[int64]access.About, error) {
	var rows []struct {
		EntryID   int64 `db:"entry_id"`
		Round     int64 `db:"round_id"`
		Programme string
		Place     string
		Bodies    []byte
	}
	err := q.SelectContext(ctx, &rows, `
		SELECT st.entry_id, st.round_id, r.programme, st.place, to_json(ARRAY(SELECT DISTINCT unnest(n.bodies) FROM known n JOIN entry o ON o.id = n.entry_id WHERE o.application_id = st.application_id)) AS bodies
		FROM standing st JOIN round r ON r.id = st.round_id WHERE st.entry_id = ANY($1)`, entries)
	out := map[int64]access.About{}
	for _, r := range rows {
		a := access.About{Programme: r.Programme, Round: r.Round, Place: r.Place}
		if err := json.Unmarshal(r.Bodies, &a.Bodies); err != nil {
			return nil, err
		}
		out[r.EntryID] = a
	}
	return out, err
}
