// Package application keeps cases: the application, its entry for each stage,
// who is what to it, its answers and seals, every change of state (by
// core/lifecycle alone), and its standing, which lists show.
package application

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"strconv"
	"time"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/identifier"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Case is an application with its current entry, its lead and its round.
type Case struct {
	ID        int64
	Ref       string
	RoundID   int64 `db:"round_id"`
	Title     string
	EntryID   int64 `db:"entry_id"`
	Stage     string
	DesignID  int64 `db:"design_id"`
	State     lifecycle.State
	Told      lifecycle.State // the state as the applicant knows it: a decision is told by its letter
	StateAt   time.Time       `db:"state_at"`
	Version   int
	SealID    *int64     `db:"seal_id"`
	LeadID    int64      `db:"lead_id"`
	LeadName  string     `db:"lead_name"`
	LeadEmail string     `db:"lead_email"`
	RoundKey  string     `db:"round_key"`
	RoundName string     `db:"round_name"`
	CreatedAt time.Time  `db:"created_at"`
	Latest    bool       // no later stage has been reached
	MoreUntil *time.Time `db:"more_until"` // the time this one was given; nil: its stage's
	QueryDue  *time.Time `db:"query_due"`  // of the query that is open; nil: none
}

// Query is what an address of the case needs to name this stage: "" for the
// latest.
func (c Case) Query() string {
	if c.Latest {
		return ""
	}
	return "?stage=" + c.Stage
}

// Part is what another package knows of an entry and a walk reads. JSON is an
// SQL expression over e, the entry, so that a case is read whole in one
// statement; Fill reads what it makes.
type Part struct {
	JSON string
	Fill func(raw []byte, filled *form.Filled) error
}

// Store of cases.
type Store struct {
	DB      *db.DB
	Rounds  *round.Store
	Post    *post.Office
	Parts   []Part
	Signers func(ctx context.Context, q db.Querier, application int64) ([]string,
		error) // who may sign for whoever applies; nil: the lead alone
}

// ErrNotFound: no such case, or not one for the asker.
var ErrNotFound = refusal.Missing("there is no such application")

// ErrLastStage: there is no stage to go on to.
var ErrLastStage = refusal.New("this is the last stage of the round").But("nobody can be invited on")

// Columns of a case as CaseOf selects them, for those who join it.
const Columns = `id, ref, round_id, title, created_at, entry_id, stage, design_id, state, told, state_at, version, seal_id, more_until, query_due, lead_id, lead_name, lead_email, round_key, round_name, latest`

const caseColumns = `
	       a.id, a.ref, a.round_id, a.title, a.created_at, e.id AS entry_id, e.stage, e.design_id, e.state, COALESCE(NULLIF(e.told, ''), e.state) AS told, e.state_at, e.version, e.seal_id, e.more_until,
	       (SELECT due_at FROM query WHERE query.entry_id = e.id AND query.ended = '') AS query_due,
	       p.id AS lead_id, p.name AS lead_name, p.email AS lead_email, r.key AS round_key, r.name AS round_name,
	       NOT EXISTS (SELECT FROM entry later WHERE later.application_id = a.id AND later.id > e.id) AS latest`

const fromCase = `
	FROM application a
	JOIN entry e ON e.application_id = a.id
	JOIN relation l ON l.application_id = a.id AND l.kind = 'lead'
	JOIN account p ON p.id = l.account_id
	JOIN round r ON r.id = a.round_id `

const selectCase = `
	SELECT ` + caseColumns + fromCase

// CaseOf selects the case of the reference number $2, in the stage $3, or in
// the latest it has reached when that is empty.
const CaseOf = selectCase + `WHERE a.ref = $2 AND ($3 = '' OR e.stage = $3) ORDER BY e.id DESC LIMIT 1`

// Find a case by its reference number, in the latest stage it has reached.
func (s *Store) Find(ctx context.Context, q db.Querier, ref string) (c Case, err error) {
	return one(ctx, q, selectCase+`WHERE a.ref = $1 ORDER BY e.id DESC LIMIT 1`, ref)
}

// RefOf is the reference number of an application.
func (s *Store) RefOf(ctx context.Context, q db.Querier, application int64) (ref string, err error) {
	err = q.GetContext(ctx, &ref, `SELECT ref FROM application WHERE id = $1`, application)
	return ref, err
}

// FindStage finds a case by its reference number in a stage.
func (s *Store) FindStage(ctx context.Context, q db.Querier, ref, stage string) (c Case, err error) {
	return one(ctx, q, selectCase+`WHERE a.ref = $1 AND e.stage = $2`, ref, stage)
}

// ByEntry finds the case of an entry.
func (s *Store) ByEntry(ctx context.Context, q db.Querier, entry int64) (Case, error) {
	return one(ctx, q, selectCase+`WHERE e.id = $1`, entry)
}

// ByEntries reads the cases of many entries.
func (s *Store) ByEntries(ctx context.Context, q db.Querier, entries []int64) (map[int64]Case, error) {
	var list []Case
	if err := q.SelectContext(ctx, &list, selectCase+`WHERE e.id = ANY($1)`, entries); err != nil {
		return nil, err
	}
	out := make(map[int64]Case, len(list))
	for _, c := range list {
		out[c.EntryID] = c
	}
	return out, nil
}

func one(ctx context.Context, q db.Querier, query string, args ...any) (c Case, err error) {
	err = q.GetContext(ctx, &c, query, args...)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return c, err
}

// Lock takes the application's row, the first lock of every use case; shared
// for saves, so that none is kept beside a send. It reads the case again.
func (s *Store) Lock(ctx context.Context, tx *db.Tx, c Case, shared bool) (Case, error) {
	mode := `FOR UPDATE`
	if shared {
		mode = `FOR SHARE`
	}
	var id int64
	if err := tx.GetContext(ctx, &id, `SELECT id FROM application WHERE id = $1 `+mode, c.ID); err != nil {
		return c, err
	}
	return s.ByEntry(ctx, tx, c.EntryID)
}

// Relations an account has to a case, as far as this package knows.
func (s *Store) Relations(ctx context.Context, q db.Querier, application, account int64) (access.Relations, error) {
	var kinds []string
	if err := q.SelectContext(ctx, &kinds, `SELECT kind FROM relation WHERE application_id = $1 AND account_id = $2`,
		application, account); err != nil {
		return 0, err
	}
	var r access.Relations
	for _, k := range kinds {
		r |= access.PartOf(k)
	}
	return r, nil
}

// Start an application in a round for an account.
func (s *Store) Start(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, account int64, title string) (Case,
	error) {
	var serial int
	err := tx.QueryRowxContext(ctx, `
		INSERT INTO refserial (prefix, last) VALUES ($1, 1) ON CONFLICT (prefix) DO UPDATE SET last = refserial.last + 1 RETURNING last`,
		f.Design.Prefix).Scan(&serial)
	if err != nil {
		return Case{}, err
	}
	ref := identifier.Ref(f.Design.Prefix, serial)
	var id int64
	if err := tx.QueryRowxContext(ctx,
		`INSERT INTO application (ref, round_id, title, created_at) VALUES ($1, $2, $3, $4) RETURNING id`,
		ref, r.ID, title, tx.At).Scan(&id); err != nil {
		return Case{}, err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO relation (application_id, account_id, kind) VALUES ($1, $2, 'lead')`,
		id, account); err != nil {
		return Case{}, err
	}
	if err := trail.Write(ctx, tx, "started", id, r.ID, nil); err != nil {
		return Case{}, err
	}
	return s.enter(ctx, tx, id, cmp.Or(f.FirstStage(), "writing"), *r.DesignID, lifecycle.Draft)
}

// enter makes an application's entry in a stage.
func (s *Store) enter(ctx context.Context, tx *db.Tx, application int64, stage form.Key, design int64,
	state lifecycle.State) (Case, error) {
	var entry int64
	if err := tx.QueryRowxContext(ctx,
		`INSERT INTO entry (application_id, stage, design_id, state, state_at) VALUES ($1, $2, $3, $4, $5) RETURNING id`,
		application, stage, design, state, tx.At).Scan(&entry); err != nil {
		return Case{}, err
	}
	c, err := s.ByEntry(ctx, tx, entry)
	if err == nil {
		_, err = s.Refresh(ctx, tx, c)
	}
	return c, err
}

// Rename a draft.
func (s *Store) Rename(ctx context.Context, tx *db.Tx, c Case, title string) error {
	_, err := tx.ExecContext(ctx, `UPDATE application SET title = $2 WHERE id = $1`, c.ID, title)
	return err
}

// Transition takes a locked entry through one row of the lifecycle table:
// state, trail and standing together. figures go to the trail.
func (s *Store) Transition(ctx context.Context, tx *db.Tx, c Case, event lifecycle.Event,
	figures map[string]string) (Case, lifecycle.Step, error) {
	f, err := s.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return c, lifecycle.Step{}, err
	}
	step, err := lifecycle.Next(c.State, event, f.ReadAfter(form.Key(c.Stage)))
	if err != nil {
		return c, step, err
	}
	if err := s.supersede(ctx, tx, []int64{c.EntryID}); err != nil {
		return c, step, err
	}
	_, err = tx.ExecContext(ctx,
		`UPDATE entry SET state = $2, state_at = $3, version = version + 1, told = `+toldNow+` WHERE id = $1`, c.EntryID,
		step.To, tx.At, step.ByLetter)
	if err != nil {
		return c, step, err
	}
	if event != lifecycle.Send && event != lifecycle.SendOwing { // sending writes its own row, with the seal
		if err := trail.Write(ctx, tx, sayVerb(event), c.ID, c.RoundID, figures); err != nil {
			return c, step, err
		}
	}
	if c, err = s.ByEntry(ctx, tx, c.EntryID); err != nil {
		return c, step, err
	}
	if _, err = s.Refresh(ctx, tx, c); err != nil {
		return c, step, err
	}
	return s.goOn(ctx, tx, c, f, step)
}

// toldNow is what an applicant knows of an entry that goes to another state: the
// same as before, when they learn of it by a letter ($4); else the new one.
const toldNow = `CASE WHEN NOT $4 THEN '' WHEN told <> '' THEN told ELSE state END`

// supersede stops letters about these entries that tell of a state they leave,
// for good: a letter that no longer holds is never sent.
func (s *Store) supersede(ctx context.Context, tx *db.Tx, entries []int64) error {
	return s.Post.Supersede(ctx, tx, entries)
}

// MoveDrafts brings a round's drafts to a design that was just published.
func (s *Store) MoveDrafts(ctx context.Context, tx *db.Tx, roundID, design int64) (drafts []Case, err error) {
	var entries []int64
	err = tx.SelectContext(ctx, &entries, `
		UPDATE entry e SET design_id = $2 FROM application a
		WHERE a.id = e.application_id AND a.round_id = $1 AND e.state = ANY($3) RETURNING e.id`, roundID, design, lifecycle.With(lifecycle.Writing))
	if err != nil {
		return nil, err
	}
	return s.RefreshAll(ctx, tx, entries)
}

// SendLetter queues a letter of the design for a case, to go out at due.
func (s *Store) SendLetter(ctx context.Context, tx *db.Tx, c Case, key form.Key, extra map[string]string,
	due time.Time) (int64, error) {
	l, err := s.Letter(ctx, tx, c, key, extra)
	if err != nil {
		return 0, err
	}
	l.Due = due
	if l.Holds = string(lifecycle.Tells(string(key))); l.Holds != "" {
		l.Entry = c.EntryID
	}
	id, err := s.Post.Queue(ctx, tx, l)
	if err != nil {
		return 0, err
	}
	return id, trail.Write(ctx, tx, "letter-queued", c.ID, c.RoundID,
		map[string]string{"letter": string(key), "due": strconv.FormatInt(due.Unix(), 10)})
}
