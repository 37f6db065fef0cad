package application

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/register"
	"ulvant/core/seal"
	"ulvant/internal/platform/db"
)

// Standing is what lists show of an entry.
type Standing struct {
	State     lifecycle.State  `json:"state"`
	Move      lifecycle.Move   `json:"move"`
	Obstacles pq.StringArray   `json:"obstacles"`
	Done      int              `json:"done"`
	Required  int              `json:"required"`
	Asked     *int64           `json:"asked"`
	Place     string           `json:"place"`
	Verdict   form.Outcome     `json:"verdict"`
	Letter    form.LetterState `json:"letter"`
}

// Codes of what stands in the way.
func (s Standing) Codes() []form.Code {
	out := make([]form.Code, len(s.Obstacles))
	for i, o := range s.Obstacles {
		out[i] = form.Code(o)
	}
	return out
}

// Standing reads the row of an entry.
func (s *Store) Standing(ctx context.Context, q db.Querier, entry int64) (st Standing, err error) {
	err = q.GetContext(ctx, &st,
		`SELECT state, move, obstacles, done, required, asked, place, verdict, letter FROM standing WHERE entry_id = $1`,
		entry)
	return st, err
}

// Filled gathers all that a walk reads of a case: live answers for a draft.
// at is when it is looked at, for what hangs on the day.
func (s *Store) Filled(ctx context.Context, q db.Querier, c Case, f *form.Form, at time.Time) (*form.Filled, error) {
	var content []byte
	if err := q.GetContext(ctx, &content, `SELECT `+s.content()+` FROM entry e WHERE e.id = $1`, c.EntryID); err != nil {
		return nil, err
	}
	filled, _, err := s.filled(ctx, q, c, f, at, content)
	return filled, err
}

// filled reads content, and what hangs on the design besides.
func (s *Store) filled(ctx context.Context, q db.Querier, c Case, f *form.Form, at time.Time,
	content []byte) (*form.Filled, []Answer, error) {
	filled := &form.Filled{Lead: c.LeadName, Stage: form.Key(c.Stage), Today: calendar.DateOf(at, f.Zone),
		Paying: form.Paying{At: at}}
	rows, err := s.read(content, filled)
	if err != nil {
		return nil, nil, err
	}
	if c.SealID != nil && c.State.Is(lifecycle.Queried) { // what hangs on the day of sending stays as it was
		sealed, err := s.Sealed(ctx, q, *c.SealID)
		if err != nil {
			return nil, nil, err
		}
		filled.Today, filled.Others, filled.Paying = sealed.Decoded.Day, sealed.Decoded.Others,
			sealed.Decoded.Filled("").Paying
	}
	if f.AsksSigner() {
		if filled.Signers, err = s.Signers(ctx, q, c.ID); err != nil {
			return nil, nil, err
		}
	}
	if err := s.earlier(ctx, q, c, f, filled); err != nil {
		return nil, nil, err
	}
	if f.CountsOthers() && !c.State.Is(lifecycle.Queried) {
		if filled.Others, err = s.Others(ctx, q, c.LeadID, c.RoundID, c.ID, at); err != nil {
			return nil, nil, err
		}
	}
	return filled, rows, nil
}

// Answer is one row of answers.
type Answer struct {
	Question form.Key       `json:"question"`
	Row      string         `json:"row_key" db:"row_key"`
	Column   form.Key       `json:"column_key" db:"column_key"`
	Version  int            `json:"version"`
	EditID   string         `json:"edit_id" db:"edit_id"`
	Value    string         `json:"value"`
	Non      form.NonAnswer `json:"non"`
	ByID     int64          `json:"by_id" db:"by_id"`
	At       time.Time      `json:"at"`
}

// AnswerColumns are those of an Answer, as it is read and written.
const AnswerColumns = `question, row_key, column_key, version, edit_id, value, non, by_id, at`

// Place of the answer.
func (a Answer) Place() form.Place {
	return form.Place{Question: a.Question, Row: a.Row, Column: a.Column}
}

// Answers of an entry.
func (s *Store) Answers(ctx context.Context, q db.Querier, entry int64) (rows []Answer, err error) {
	err = q.SelectContext(ctx, &rows, `
		SELECT `+AnswerColumns+` FROM answer WHERE entry_id = $1`, entry)
	return rows, err
}

// Walk gathers and walks a case from its live answers, which nothing changes
// once it is sent; pages about a sent case draw its seal (Sealed).
// at is when it is looked at, for what hangs on the day.
func (s *Store) Walk(ctx context.Context, q db.Querier, c Case, at time.Time) (*form.Form, *form.Filled, *form.Path,
	error) {
	f, err := s.Rounds.Form(ctx, q, c.DesignID)
	if err != nil {
		return nil, nil, nil, err
	}
	filled, err := s.Filled(ctx, q, c, f, at)
	if err != nil {
		return nil, nil, nil, err
	}
	return f, filled, f.Walk(filled), nil
}

// parted is what parts words that are to be found by; internal/desk parts what
// is looked for in the same way.
var parted = regexp.MustCompile(`[^\p{L}\p{N}]+`)

// Refresh works an entry's standing out again, in the transaction of its
// cause. It locks the standing row before it reads answers, so that of two
// saves at once the later sees the earlier.
func (s *Store) Refresh(ctx context.Context, tx *db.Tx, c Case) (*form.Path, error) {
	var locked int64
	err := tx.GetContext(ctx, &locked, `SELECT entry_id FROM standing WHERE entry_id = $1 FOR UPDATE`, c.EntryID)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return nil, err
	}
	f, filled, path, err := s.Walk(ctx, tx, c, tx.At)
	if err != nil {
		return nil, err
	}
	return path, s.stand(ctx, tx, c, f, filled, path)
}

// stand writes what lists show of an entry that was just walked.
func (s *Store) stand(ctx context.Context, tx *db.Tx, c Case, f *form.Form, filled *form.Filled,
	path *form.Path) error {
	return putStandings(ctx, tx, standingOf(tx, c, f, filled, path))
}

// standingOf is what lists show of an entry that was just walked.
func standingOf(tx *db.Tx, c Case, f *form.Form, filled *form.Filled, path *form.Path) standingRow {
	st := Standing{State: c.State, Move: lifecycle.MoveIn(c.State), Obstacles: pq.StringArray{}, Done: path.Done,
		Required: path.All, Verdict: path.Verdict()}
	var until, sentAt *time.Time
	if c.State.Writing() {
		closes := c.Window(f).Closes
		if tx.At.Before(closes) {
			until = &closes
			if c.State.Is(lifecycle.Drafting) {
				st.Move = form.MoveOf(path.Obstacles)
			}
			for _, o := range path.Obstacles {
				st.Obstacles = append(st.Obstacles, string(o.Code))
			}
		} else {
			st.State, st.Move = lifecycle.Lapsed, lifecycle.Nobody
		}
	} else if c.State.Is(lifecycle.ToCheck) {
		sentAt = &c.StateAt
	} else if c.State.Is(lifecycle.Queried) {
		if due := c.Window(f).Closes; tx.At.Before(due) {
			until = &due
		}
		for _, o := range path.Obstacles {
			st.Obstacles = append(st.Obstacles, string(o.Code))
		}
	}
	st.Asked, st.Place, st.Letter = shown(f, path, filled)
	row := standingRow{EntryID: c.EntryID, RoundID: c.RoundID, ApplicationID: c.ID, Standing: st, SentAt: sentAt,
		ChangedAt:  tx.At,
		ValidUntil: until, Stage: c.Stage, Latest: c.Latest,
		Words: parted.ReplaceAllString(strings.Join([]string{c.Title, c.LeadName, c.LeadEmail, st.Place}, " "), " ")}
	if c.State.Sealed() && !c.State.Is(lifecycle.Queried) { // while it is handed back, what was sent stays known
		row.Facts, row.Bodies = register.Facts(f, filled, path), register.Bodies(f, path)
	}
	return row
}

// standingRow is a row of the table standing.
type standingRow struct {
	EntryID       int64 `json:"entry_id"`
	RoundID       int64 `json:"round_id"`
	ApplicationID int64 `json:"application_id"`
	Standing
	SentAt     *time.Time `json:"sent_at"`
	ChangedAt  time.Time  `json:"changed_at"`
	ValidUntil *time.Time `json:"valid_until"`
	Stage      string     `json:"stage"`
	Latest     bool       `json:"latest"`
	Words      string     `json:"words"`
	// Facts are what the register knows of what was sent; nil leaves them as they are.
	Facts  map[string]any `json:"facts"`
	Bodies []string       `json:"bodies,omitempty"`
}

// putStandings writes rows, in one statement however many they are.
func putStandings(ctx context.Context, tx *db.Tx, rows ...standingRow) error {
	raw, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		WITH n AS MATERIALIZED (
		  SELECT * FROM jsonb_to_recordset($1::jsonb) AS n(entry_id bigint, round_id bigint, application_id bigint, state text, move text, obstacles text[],
		    done int, required int, asked bigint, place text, verdict text, letter text, sent_at timestamptz, changed_at timestamptz,
		    valid_until timestamptz, stage text, latest boolean, words text, facts jsonb, bodies text[])),
		k AS (INSERT INTO known (entry_id, round_id, facts, bodies)
		  SELECT entry_id, round_id, facts, COALESCE(bodies, '{}') FROM n WHERE jsonb_typeof(facts) = 'object'
		  ON CONFLICT (entry_id) DO UPDATE SET facts = excluded.facts, bodies = excluded.bodies)
		INSERT INTO standing (entry_id, round_id, application_id, state, move, obstacles, done, required, asked, place, verdict, letter,
		  sent_at, changed_at, valid_until, stage, latest, words, known)
		SELECT n.entry_id, n.round_id, n.application_id, n.state, n.move, n.obstacles, n.done, n.required, n.asked, n.place, n.verdict, n.letter,
		  n.sent_at, n.changed_at, n.valid_until, n.stage, n.latest, to_tsvector('simple', n.words), true FROM n
		ON CONFLICT (entry_id) DO UPDATE SET state = excluded.state, move = excluded.move, obstacles = excluded.obstacles, done = excluded.done,
		  required = excluded.required, asked = excluded.asked, place = excluded.place, verdict = excluded.verdict, letter = excluded.letter,
		  sent_at = COALESCE(standing.sent_at, excluded.sent_at), changed_at = excluded.changed_at, valid_until = excluded.valid_until,
		  latest = excluded.latest, words = excluded.words, known = true`, string(raw))
	return err
}

// atOnce is how many entries are read and written together.
const atOnce = 200

// RefreshAll works the standings of many locked entries out again, and gives
// their cases back.
func (s *Store) RefreshAll(ctx context.Context, tx *db.Tx, entries []int64) (cases []Case, err error) {
	for part := range slices.Chunk(entries, atOnce) {
		if _, err := tx.ExecContext(ctx, `SELECT FROM standing WHERE entry_id = ANY($1) ORDER BY entry_id FOR UPDATE`,
			part); err != nil {
			return nil, err
		}
		read, rows, err := s.walkAll(ctx, tx, part)
		if err != nil {
			return nil, err
		}
		if err := putStandings(ctx, tx, rows...); err != nil {
			return nil, err
		}
		cases = append(cases, read...)
	}
	return cases, nil
}

// walkAll walks many entries, and gives what lists show of each in the same order.
func (s *Store) walkAll(ctx context.Context, tx *db.Tx, entries []int64) ([]Case, []standingRow, error) {
	var read []struct {
		Case
		Content []byte
	}
	if err := tx.SelectContext(ctx, &read,
		`SELECT `+caseColumns+`, `+s.content()+fromCase+`WHERE e.id = ANY($1) ORDER BY e.id`, entries); err != nil {
		return nil, nil, err
	}
	if len(read) != len(entries) { // what is swept again and again must not be passed over in silence
		return nil, nil, fmt.Errorf("of %d entries %d are there: %w", len(entries), len(read), ErrNotFound)
	}
	cases, rows := make([]Case, len(read)), make([]standingRow, len(read))
	for i, r := range read {
		f, err := s.Rounds.Form(ctx, tx, r.DesignID)
		if err != nil {
			return nil, nil, err
		}
		filled, _, err := s.filled(ctx, tx, r.Case, f, tx.At, r.Content)
		if err != nil {
			return nil, nil, err
		}
		cases[i], rows[i] = r.Case, standingOf(tx, r.Case, f, filled, f.Walk(filled))
	}
	return cases, rows, nil
}

// shown picks what lists show beside an application: the sum asked, the listed
// choice, and the letter that is furthest behind.
func shown(f *form.Form, path *form.Path, filled *form.Filled) (asked *int64, place string, letter form.LetterState) {
	for i := range path.Questions {
		q, st := f.Question(path.Questions[i].Key), path.Questions[i]
		if q.Key == f.Design.Request && st.Presence == condition.Given {
			asked = &st.Value.Number.Num
		}
		if q.Key == f.Design.Listed.Question && st.Presence == condition.Given {
			for _, o := range f.Options(q) {
				if string(o.Key) == st.Value.Text {
					place = o.Label
				}
			}
		}
	}
	behind := []form.LetterState{form.Declined, form.ToAsk, form.Asked, form.Accepted, form.Uploaded, form.SentIn}
	rank := len(behind)
	for _, list := range filled.Referees {
		for _, r := range list {
			for i, b := range behind {
				if r.Letter == b && i < rank {
					rank, letter = i, b
				}
			}
		}
	}
	return asked, place, letter
}

// Sweep refreshes standings whose time has passed: drafts of stages that closed.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	for {
		var entries []int64
		if err := s.DB.SelectContext(ctx, &entries,
			`SELECT entry_id FROM standing WHERE valid_until <= $1 ORDER BY valid_until LIMIT 100`, at); err != nil ||
			len(entries) == 0 {
			return err
		}
		err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			if _, err := tx.ExecContext(ctx, `
				SELECT a.id FROM application a JOIN entry e ON e.application_id = a.id WHERE e.id = ANY($1) ORDER BY a.id FOR SHARE OF a`, entries); err != nil {
				return err
			}
			_, err := s.RefreshAll(ctx, tx, entries)
			return err
		})
		if err != nil {
			return err
		}
	}
}

// PutSeal stores a seal and ties it to its entry.
func (s *Store) PutSeal(ctx context.Context, tx *db.Tx, c Case, document []byte, sum [32]byte,
	signature []byte) (id int64, err error) {
	err = tx.QueryRowxContext(ctx, `
		INSERT INTO seal (entry_id, number, at, by_id, document, sha256, signature)
		SELECT @entry_id, COALESCE(max(number), 0) + 1, @at, @by_id, @document, @sha256, @signature FROM seal WHERE entry_id = @entry_id RETURNING id`,
		db.Named{"entry_id": c.EntryID, "at": tx.At, "by_id": tx.By.ID, "document": document, "sha256": sum[:],
			"signature": signature}).Scan(&id)
	if err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx, `UPDATE entry SET seal_id = $2 WHERE id = $1`, c.EntryID, id)
	return id, err
}

// Seal is a stored seal.
type Seal struct {
	ID        int64
	EntryID   int64 `db:"entry_id"`
	At        time.Time
	Document  []byte
	SHA256    []byte `db:"sha256"`
	Signature []byte
	Decoded   seal.Document `db:"-"`
}
