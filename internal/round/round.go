// Package round keeps rounds and their designs: the one being worked on, and
// the numbered ones that were published and never change.
package round

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"sync"
	"time"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// Round is one run of a programme.
type Round struct {
	ID        int64
	Key       string
	Name      string
	Programme string
	Currency  string // ISO 4217
	Working   json.RawMessage
	DesignID  *int64    `db:"design_id"`
	OpensAt   time.Time `db:"opens_at"`
	ClosesAt  time.Time `db:"closes_at"`
	AnswerAt  time.Time `db:"answer_at"`
	ChangedAt time.Time `db:"changed_at"`
}

// Columns of a round.
const Columns = `id, key, name, programme, currency, working, design_id, opens_at, closes_at, answer_at, changed_at`

// light leaves the design being worked on out where a published one is there:
// lists and a case's pages need it not, and it is most of the row.
const light = `id, key, name, programme, currency, CASE WHEN design_id IS NULL THEN working ELSE 'null' END AS working, design_id, opens_at, closes_at, answer_at, changed_at`

// Light selects rounds without it, for a look-up that finds more at once.
const Light = `SELECT ` + light + ` FROM round`

// ErrNotFound: no such round.
var ErrNotFound = refusal.Missing("there is no such round")

// ErrTaken: the key belongs to another round.
var ErrTaken = refusal.New("another round has this name already").But("give it a name of its own")

// Store of rounds. Compiled designs are kept in memory: they never change.
type Store struct {
	DB    *db.DB
	mu    sync.Mutex
	forms map[int64]*form.Form
	// Proofs of the designs being worked on.
	Proofs Proofs
	// Off are the funder's holidays and closed days; nil: weekends alone.
	Off func(calendar.Date) bool
}

// Create a round with the design being worked on.
func (s *Store) Create(ctx context.Context, tx *db.Tx, d *form.Design) (id int64, err error) {
	f, raw, err := compile(d)
	if err != nil {
		return 0, err
	}
	opens, closes, answer := instants(f)
	err = tx.QueryRowxContext(ctx, `
		INSERT INTO round (key, name, programme, currency, working, opens_at, closes_at, answer_at, created_at, changed_at)
		VALUES (@key, @name, @programme, @currency, @working, @opens_at, @closes_at, @answer_at, @created_at, @created_at) ON CONFLICT (key) DO NOTHING RETURNING id`,
		db.Named{"key": d.Key, "name": d.Name, "programme": d.Programme, "currency": d.Currency, "working": string(raw),
			"opens_at": opens, "closes_at": closes, "answer_at": answer, "created_at": tx.At}).Scan(&id)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, ErrTaken
	}
	if err != nil {
		return 0, err
	}
	return id, trail.Write(ctx, tx, "round-made", 0, id, nil)
}

func instants(f *form.Form) (opens, closes, answer time.Time) {
	w := f.Window()
	return w.Opens, w.Closes, f.At(form.AnswerOn)
}

func compile(d *form.Design) (*form.Form, []byte, error) {
	f, err := form.Compile(d)
	if err != nil {
		return nil, nil, err
	}
	raw, err := json.Marshal(d)
	return f, raw, err
}

// Publish makes the working design the next numbered one. Sealed entries stay
// on theirs; the caller moves drafts.
func (s *Store) Publish(ctx context.Context, tx *db.Tx, id int64) (design int64, number int, err error) {
	var now struct {
		Working []byte
		Open    bool
	}
	if err := tx.GetContext(ctx, &now,
		`SELECT working, design_id IS NOT NULL AS open FROM round WHERE id = $1 FOR UPDATE`, id); err != nil {
		return 0, 0, err
	}
	d, err := Decode(now.Working)
	if err != nil {
		return 0, 0, err
	}
	f, canonical, err := compile(d)
	if err != nil {
		return 0, 0, err
	}
	if !now.Open && !tx.At.Before(f.WritingEnds()) { // one that has closed can still be set right: letters, dates to come, a vote
		return 0, 0, refusal.Unfit("the closing lies in the past").But("set a later one before you open the round")
	}
	sum := sha256.Sum256(canonical)
	err = tx.QueryRowxContext(ctx, `
		INSERT INTO design (round_id, number, document, sha256, published_at, published_by)
		SELECT $1, COALESCE(max(number), 0) + 1, $2, $3, $4, $5 FROM design WHERE round_id = $1 RETURNING id, number`,
		id, string(canonical), sum[:], tx.At, tx.By.ID).Scan(&design, &number)
	if err != nil {
		return 0, 0, err
	}
	opens, closes, answer := instants(f)
	_, err = tx.ExecContext(ctx,
		`UPDATE round SET design_id = @design_id, name = @name, currency = @currency, opens_at = @opens_at, closes_at = @closes_at, answer_at = @answer_at WHERE id = @id`,
		db.Named{"id": id, "design_id": design, "name": d.Name, "currency": d.Currency, "opens_at": opens,
			"closes_at": closes, "answer_at": answer})
	if err != nil {
		return 0, 0, err
	}
	return design, number, trail.Write(ctx, tx, "round-opened", 0, id, map[string]string{"number": strconv.Itoa(number)})
}

// Find a round by its key.
func (s *Store) Find(ctx context.Context, q db.Querier, key string) (r Round, err error) {
	err = q.GetContext(ctx, &r, `SELECT `+Columns+` FROM round WHERE key = $1`, key)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return r, err
}

// ByID finds a round.
func (s *Store) ByID(ctx context.Context, q db.Querier, id int64) (r Round, err error) {
	err = q.GetContext(ctx, &r, `SELECT `+Columns+` FROM round WHERE id = $1`, id)
	return r, err
}

// Of finds the round of a case, without the design being worked on.
func (s *Store) Of(ctx context.Context, q db.Querier, id int64) (r Round, err error) {
	err = q.GetContext(ctx, &r, `SELECT `+light+` FROM round WHERE id = $1`, id)
	return r, err
}

// Public lists published rounds that close after a time, the next to close first.
func (s *Store) Public(ctx context.Context, after time.Time) (out []Round, err error) {
	err = s.DB.SelectContext(ctx, &out,
		`SELECT `+light+` FROM round WHERE design_id IS NOT NULL AND closes_at > $1 ORDER BY closes_at, id`, after)
	return out, err
}

// All lists every round, the latest closing first.
func (s *Store) All(ctx context.Context) (out []Round, err error) {
	err = s.DB.SelectContext(ctx, &out, `SELECT `+light+` FROM round ORDER BY closes_at DESC, id DESC`)
	return out, err
}

// Page lists rounds, the latest closing first, from one of them on.
func (s *Store) Page(ctx context.Context, only Only, from, most int) (out []Round, err error) {
	err = s.DB.SelectContext(ctx, &out,
		`SELECT `+light+` FROM round WHERE $3::bigint[] IS NULL OR id = ANY($3) ORDER BY closes_at DESC, id DESC OFFSET $1 LIMIT $2`, from, most, only)
	return out, err
}

// UnderWay lists the rounds whose answer is not longer ago than since, the next
// answer first, and how many more there are than most.
func (s *Store) UnderWay(ctx context.Context, only Only, since time.Time, most int) (out []Round, more int, err error) {
	if err = s.DB.SelectContext(ctx, &out,
		`SELECT `+light+` FROM round WHERE answer_at > $1 AND ($3::bigint[] IS NULL OR id = ANY($3)) ORDER BY (design_id IS NULL), answer_at, id LIMIT $2`, since, most, only); err != nil || len(out) < most {
		return out, 0, err
	}
	err = s.DB.GetContext(ctx, &more,
		`SELECT count(*) - $2 FROM round WHERE answer_at > $1 AND ($3::bigint[] IS NULL OR id = ANY($3))`, since, most, only)
	return out, more, err
}

// Only are the rounds that a list is kept to; nil for all, empty for none.
type Only []int64

// Seen are the rounds that somebody at the office sees: all or a part of each, and
// those of which they see the whole.
type Seen struct {
	Rounds, Whole Only
	keys          map[string]bool // of Whole; nil for all
}

// SeesWhole reports that all of a round is seen, by its key.
func (s Seen) SeesWhole(key string) bool { return s.keys == nil || s.keys[key] }

// Seen are the rounds of a sight.
func (s *Store) Seen(ctx context.Context, sight access.Sight) (out Seen, err error) {
	if sight.All {
		return out, nil
	}
	var rows []struct {
		ID  int64
		Key string
	}
	err = s.DB.SelectContext(ctx, &rows, `SELECT id, key FROM round WHERE programme = ANY($1) OR id = ANY($2)`,
		sight.Programmes, sight.Rounds)
	out = Seen{Rounds: Only{}, Whole: Only{}, keys: map[string]bool{}}
	for _, r := range rows {
		out.Rounds = append(out.Rounds, r.ID)
		if len(sight.Parts[r.ID]) == 0 {
			out.Whole = append(out.Whole, r.ID)
			out.keys[r.Key] = true
		}
	}
	return out, err
}

// Some finds rounds by their numbers.
func (s *Store) Some(ctx context.Context, ids []int64) (out []Round, err error) {
	err = s.DB.SelectContext(ctx, &out, `SELECT `+light+` FROM round WHERE id = ANY($1)`, ids)
	return out, err
}

// Programme reports that some round is of a programme.
func (s *Store) Programme(ctx context.Context, name string) (known bool, err error) {
	err = s.DB.GetContext(ctx, &known, `SELECT EXISTS (SELECT FROM round WHERE programme = $1)`, name)
	return known, err
}

// Before lists the rounds of a programme that closed before a time, the last first.
func (s *Store) Before(ctx context.Context, programme string, closes time.Time, most int) (out []Round, err error) {
	err = s.DB.SelectContext(ctx, &out,
		`SELECT `+light+` FROM round WHERE programme = $1 AND design_id IS NOT NULL AND closes_at < $2 ORDER BY closes_at DESC, id DESC LIMIT $3`,
		programme, closes, most)
	return out, err
}

// Form is a published design, compiled, with its number.
func (s *Store) Form(ctx context.Context, q db.Querier, design int64) (*form.Form, error) {
	s.mu.Lock()
	f := s.forms[design]
	s.mu.Unlock()
	if f != nil {
		return f, nil
	}
	var raw []byte
	if err := q.GetContext(ctx, &raw, `SELECT document FROM design WHERE id = $1`, design); err != nil {
		return nil, err
	}
	d, err := Decode(raw)
	if err != nil {
		return nil, err
	}
	if f, err = form.Compile(d); err != nil {
		return nil, fmt.Errorf("design %d no longer compiles: %w", design, err)
	}
	f.Off = s.Off
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.forms == nil {
		s.forms = map[int64]*form.Form{}
	}
	s.forms[design] = f
	return f, nil
}

// Number of a published design.
func (s *Store) Number(ctx context.Context, q db.Querier, design int64) (n int, err error) {
	err = q.GetContext(ctx, &n, `SELECT number FROM design WHERE id = $1`, design)
	return n, err
}

// Published is the form that applicants meet now, or the working one when
// nothing is published yet.
func (s *Store) Published(ctx context.Context, q db.Querier, r Round) (*form.Form, error) {
	if r.DesignID != nil {
		return s.Form(ctx, q, *r.DesignID)
	}
	f, _, err := s.Working(r)
	return f, err
}

// Working is the design being worked on, as well as it compiles, and what is
// still wrong with it.
func (s *Store) Working(r Round) (*form.Form, []form.Fault, error) {
	f, faults, err := working(r)
	if f != nil {
		f.Off = s.Off
	}
	return f, faults, err
}

func working(r Round) (*form.Form, []form.Fault, error) {
	d, err := Decode(r.Working)
	if err != nil {
		return nil, nil, err
	}
	f, faults := form.Draft(d)
	return f, faults, nil
}
