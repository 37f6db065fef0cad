package application

import (
	"context"
	"database/sql"
	"errors"
	"regexp"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/seal"
	"ulvant/internal/platform/db"
)

// Standing is what lists show of an entry.
type Standing struct {
	State     lifecycle.State
	Move      lifecycle.Move
	Obstacles pq.StringArray
	Done      int
	Required  int
	Asked     *int64
	Place     string
	Verdict   form.Outcome
	Letter    form.LetterState
}

// Standing reads the row of an entry.
func (s *Store) Standing(ctx context.Context, q db.Querier, entry int64) (st Standing, err error) {
	err = q.GetContext(ctx, &st, `SELECT state, move, obstacles, done, required, asked, place, verdict, letter FROM standing WHERE entry_id = $1`, entry)
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
func (s *Store) filled(ctx context.Context, q db.Querier, c Case, f *form.Form, at time.Time, content []byte) (*form.Filled, []Answer, error) {
	filled := &form.Filled{Lead: c.LeadName, Stage: form.Key(c.Stage), Today: calendar.DateOf(at, f.Zone)}
	rows, err := s.read(content, filled)
	if err != nil {
		return nil, nil, err
	}
	if c.SealID != nil && c.State.Is(lifecycle.Queried) { // what hangs on the day of sending stays as it was
		sealed, err := s.Sealed(ctx, q, *c.SealID)
		if err != nil {
			return nil, nil, err
		}
		filled.Today, filled.Others = sealed.Decoded.Day, sealed.Decoded.Others
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
	Question form.Key
	Row      string   `db:"row_key"`
	Column   form.Key `db:"column_key"`
	Version  int
	EditID   string `db:"edit_id"`
	Value    string
	Non      form.NonAnswer
	ByID     int64 `db:"by_id"`
	At       time.Time
}

// Place of the answer.
func (a Answer) Place() form.Place {
	return form.Place{Question: a.Question, Row: a.Row, Column: a.Column}
}

// Answers of an entry.
func (s *Store) Answers(ctx context.Context, q db.Querier, entry int64) (rows []Answer, err error) {
	err = q.SelectContext(ctx, &rows, `
		SELECT question, row_key, column_key, version, edit_id, value, non, by_id, at FROM answer WHERE entry_id = $1`, entry)
	return rows, err
}

// Walk gathers and walks a case from its live answers, which nothing changes
// once it is sent; pages about a sent case draw its seal (Sealed).
// at is when it is looked at, for what hangs on the day.
func (s *Store) Walk(ctx context.Context, q db.Querier, c Case, at time.Time) (*form.Form, *form.Filled, *form.Path, error) {
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
func (s *Store) stand(ctx context.Context, tx *db.Tx, c Case, f *form.Form, filled *form.Filled, path *form.Path) error {
	st := Standing{State: c.State, Move: lifecycle.MoveIn(c.State), Obstacles: pq.StringArray{}, Done: path.Done, Required: path.All, Verdict: path.Verdict()}
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
	_, err := tx.ExecContext(ctx, `
		INSERT INTO standing (entry_id, round_id, application_id, state, move, obstacles, done, required, asked, place, verdict, letter, sent_at, changed_at, valid_until, stage, latest, words)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, to_tsvector('simple', $18))
		ON CONFLICT (entry_id) DO UPDATE SET state = $4, move = $5, obstacles = $6, done = $7, required = $8, asked = $9, place = $10, verdict = $11,
		  letter = $12, sent_at = COALESCE(standing.sent_at, $13), changed_at = $14, valid_until = $15, latest = $17, words = to_tsvector('simple', $18)`,
		c.EntryID, c.RoundID, c.ID, st.State, st.Move, st.Obstacles, st.Done, st.Required, st.Asked, st.Place, st.Verdict, st.Letter, sentAt, tx.At, until, c.Stage, c.Latest,
		parted.ReplaceAllString(strings.Join([]string{c.Title, c.LeadName, c.LeadEmail, st.Place}, " "), " "))
	return err
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
		if err := s.DB.SelectContext(ctx, &entries, `SELECT entry_id FROM standing WHERE valid_until <= $1 ORDER BY valid_until LIMIT 100`, at); err != nil || len(entries) == 0 {
			return err
		}
		for _, e := range entries {
			err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
				c, err := s.ByEntry(ctx, tx, e)
				if err == nil {
					c, err = s.Lock(ctx, tx, c, true)
				}
				if err == nil {
					_, err = s.Refresh(ctx, tx, c)
				}
				return err
			})
			if err != nil {
				return err
			}
		}
	}
}

// PutSeal stores a seal and ties it to its entry.
func (s *Store) PutSeal(ctx context.Context, tx *db.Tx, c Case, document []byte, sum [32]byte, signature []byte) (id int64, err error) {
	err = tx.QueryRowxContext(ctx, `
		INSERT INTO seal (entry_id, number, at, by_id, document, sha256, signature)
		SELECT $1, COALESCE(max(number), 0) + 1, $2, $3, $4, $5, $6 FROM seal WHERE entry_id = $1 RETURNING id`,
		c.EntryID, tx.At, tx.By.ID, document, sum[:], signature).Scan(&id)
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
