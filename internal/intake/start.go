package intake

import (
	"context"
	"database/sql"
	"time"

	"github.com/lib/pq"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
)

// Start an application with the answers given in "could this be for me".
func (s *Store) Start(ctx context.Context, tx *db.Tx, roundKey, title string,
	answers map[form.Place]form.Answer) (application.Case, error) {
	r, err := s.Cases.Rounds.Find(ctx, tx, roundKey)
	if err != nil {
		return application.Case{}, err
	}
	if r.DesignID == nil {
		return application.Case{}, sql.ErrNoRows
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, *r.DesignID)
	if err != nil {
		return application.Case{}, err
	}
	if p := f.Window().Phase(tx.At); p == calendar.Closed {
		return application.Case{}, ErrClosed
	} else if p == calendar.Before {
		return application.Case{}, refusal.New("this round is not open yet")
	}
	if f.CountsOthers() {
		others, err := s.Cases.Others(ctx, tx, tx.By.ID, r.ID, 0, tx.At)
		if err != nil {
			return application.Case{}, err
		}
		if full := f.Full(answers, others, calendar.DateOf(tx.At, f.Zone)); len(full) > 0 {
			return application.Case{}, refusal.Unfit(full[0].Reason)
		}
	}
	c, err := s.Cases.Start(ctx, tx, r, f, tx.By.ID, title)
	if err != nil {
		return c, err
	}
	var edits []Edit
	for p, a := range answers {
		edits = append(edits, Edit{Place: p, EditID: "from-check", Value: a.Raw, Non: a.Non})
	}
	if len(edits) > 0 {
		_, _, err = s.Save(ctx, tx, c, edits)
	}
	return c, err
}

// StartFrom begins an application with what an earlier one of the applicant's
// own says to the same questions; answers given now come before. Statements,
// signatures, files and letters are given anew.
func (s *Store) StartFrom(ctx context.Context, tx *db.Tx, roundKey, title, earlier string,
	answers map[form.Place]form.Answer) (application.Case, error) {
	from, err := s.Cases.Find(ctx, tx, earlier)
	if err != nil {
		return from, err
	}
	part, err := s.Cases.Relations(ctx, tx, from.ID, tx.By.ID)
	if err != nil {
		return from, err
	}
	if !part.Has(access.Lead) && !part.Has(access.Teammate) {
		return from, application.ErrNotFound
	}
	c, err := s.Start(ctx, tx, roundKey, title, answers)
	if err != nil {
		return c, err
	}
	edits, err := s.copied(ctx, tx, c, from)
	if err != nil {
		return c, err
	}
	for len(edits) > 0 {
		n := min(len(edits), MostEdits)
		if _, _, err := s.Save(ctx, tx, c, edits[:n]); err != nil {
			return c, err
		}
		edits = edits[n:]
	}
	return c, nil
}

// copied are the answers of an earlier case that fit a new one: to a question
// of the same key and kind, in a place that is there.
func (s *Store) copied(ctx context.Context, tx *db.Tx, c, from application.Case) (edits []Edit, err error) {
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return nil, err
	}
	was, err := s.Cases.Rounds.Form(ctx, tx, from.DesignID)
	if err != nil {
		return nil, err
	}
	rows, err := s.Cases.Answers(ctx, tx, from.EntryID)
	if err != nil {
		return nil, err
	}
	have, err := s.Cases.Answers(ctx, tx, c.EntryID)
	if err != nil {
		return nil, err
	}
	given := map[form.Key]bool{}
	for _, a := range have {
		given[a.Question] = true
	}
	for _, a := range rows {
		q, old := f.Question(a.Question), was.Question(a.Question)
		if q == nil || old == nil || q.Kind != old.Kind || given[a.Question] || !f.CarriesOver(q) ||
			f.Accepts(a.Place()) != "" {
			continue
		}
		edits = append(edits, Edit{Place: a.Place(), EditID: "from-earlier", Value: a.Value, Non: a.Non})
	}
	return edits, nil
}

// NotOpen refuses to begin a stage before its day.
type NotOpen struct{ Opens time.Time }

// Error says so.
func (e NotOpen) Error() string { return "this stage is not open yet" }

// TakeUp begins a stage that the case was invited to, with what is asked
// again as it was answered before. Taking up what was taken up changes nothing.
func (s *Store) TakeUp(ctx context.Context, tx *db.Tx, c application.Case) error {
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil || c.State.Is(lifecycle.Drafting) {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	stage := form.Key(c.Stage)
	switch w := f.StageWindow(stage); w.Phase(tx.At) {
	case calendar.Before:
		return NotOpen{w.Opens}
	case calendar.Closed:
		return ErrClosed
	}
	stages, err := s.Cases.Stages(ctx, tx, c.ID)
	if err != nil {
		return err
	}
	keys := pq.StringArray{}
	for _, q := range f.Carried(stage) {
		keys = append(keys, string(q.Key))
	}
	for _, before := range stages {
		if before.EntryID >= c.EntryID {
			break
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO answer (entry_id, `+application.AnswerColumns+`)
			SELECT $1, question, row_key, column_key, 1, 'carried', value, non, by_id, at FROM answer WHERE entry_id = $2 AND question = ANY($3)
			ON CONFLICT (entry_id, question, row_key, column_key) DO UPDATE SET value = excluded.value, non = excluded.non, at = excluded.at`,
			c.EntryID, before.EntryID, keys); err != nil {
			return err
		}
		if err := s.Materials.Carry(ctx, tx, before.EntryID, c.EntryID, keys); err != nil {
			return err
		}
	}
	_, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.TakeUp, map[string]string{"stage": c.Stage})
	return err
}
