// Package survey keeps what people answer after sending, apart from their
// cases: one row says that a case's survey is in, another, drawn by lot, what
// was answered, and nothing joins the two.
package survey

import (
	"context"
	"encoding/json"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
)

// Store of answered surveys.
type Store struct{ DB *db.DB }

// ErrDone: this case's survey is in.
var ErrDone = refusal.New("this survey was answered already").But("it cannot be taken back, because nobody knows " +
	"which one it is")

// ErrNothing: nothing was answered.
var ErrNothing = refusal.New("nothing is answered yet").But("answer one question at least, or leave the page")

// mostText is how long one answer may be, in bytes, whatever its limits say.
const mostText = 20_000

// ErrLong: an answer is longer than any survey takes.
var ErrLong = refusal.New("one of the answers is longer than a survey takes").But("shorten it")

// Stopped is a survey with something in it that cannot be kept.
type Stopped struct{ Path *form.Path }

// Error says so.
func (Stopped) Error() string { return "something in the survey cannot be kept as it stands" }

// Done reports a case whose survey is in.
func (s *Store) Done(ctx context.Context, q db.Querier, application int64) (done bool, err error) {
	err = q.GetContext(ctx, &done, `SELECT EXISTS (SELECT FROM surveyed WHERE application_id = $1)`, application)
	return done, err
}

// Keep an answered survey of a case that was sent. sent is what was sealed,
// which the survey's conditions may read and which is not kept with it.
func (s *Store) Keep(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form,
	answers map[form.Place]form.Answer, sent *form.Filled) error {
	for _, a := range answers {
		if len(a.Raw) > mostText {
			return ErrLong
		}
	}
	path := f.Walk(form.Surveyed(answers, sent))
	if len(path.Obstacles) > 0 {
		return Stopped{path}
	}
	if !path.Wants() {
		return ErrNothing
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO surveyed (application_id) VALUES ($1) ON CONFLICT DO NOTHING`, c.ID)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrDone
	}
	kept := []answer{}
	for at, a := range answers {
		if st := path.Find(at.Question); st != nil && st.Asked == condition.Yes && !a.Empty() {
			kept = append(kept, answer{at, a})
		}
	}
	raw, err := json.Marshal(kept)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO survey (round_id, design_id, day, answers) VALUES ($1, $2, $3, $4)`,
		c.RoundID, c.DesignID, calendar.DateOf(tx.At, f.Zone).String(), raw)
	return err
}

// answer as the table holds it.
type answer struct {
	form.Place
	form.Answer
}

// Of are the answered surveys of a round, in an order that tells nothing.
func (s *Store) Of(ctx context.Context, q db.Querier, round int64) ([]map[form.Place]form.Answer, error) {
	var rows [][]byte
	if err := q.SelectContext(ctx, &rows, `SELECT answers FROM survey WHERE round_id = $1 ORDER BY id`,
		round); err != nil {
		return nil, err
	}
	out := make([]map[form.Place]form.Answer, len(rows))
	for i, raw := range rows {
		var list []answer
		if err := json.Unmarshal(raw, &list); err != nil {
			return nil, err
		}
		out[i] = map[form.Place]form.Answer{}
		for _, a := range list {
			out[i][a.Place] = a.Answer
		}
	}
	return out, nil
}
