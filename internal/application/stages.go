package application

import (
	"context"
	"maps"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
)

// InviteOn records that a case goes on to the next stage, which gets an entry
// of its own; figures go to the trail. It answers the case as it was decided.
func (s *Store) InviteOn(ctx context.Context, tx *db.Tx, c Case, figures map[string]string) (Case, lifecycle.Step, error) {
	c, step, err := s.Transition(ctx, tx, c, lifecycle.InviteOn, figures)
	if err != nil {
		return c, step, err
	}
	r, err := s.Rounds.ByID(ctx, tx, c.RoundID)
	if err != nil {
		return c, step, err
	}
	f, err := s.Rounds.Form(ctx, tx, *r.DesignID)
	if err != nil {
		return c, step, err
	}
	next := f.NextStage(form.Key(c.Stage))
	if next == nil {
		return c, step, ErrLastStage
	}
	if _, err := tx.ExecContext(ctx, `UPDATE standing SET latest = false WHERE entry_id = $1`, c.EntryID); err != nil {
		return c, step, err
	}
	if _, err := s.enter(ctx, tx, c.ID, next.Key, *r.DesignID, lifecycle.Invited); err != nil {
		return c, step, err
	}
	c.Latest = false
	return c, step, nil
}

// goOn invites a case on by itself when the next stage is open to all who get
// through this one.
func (s *Store) goOn(ctx context.Context, tx *db.Tx, c Case, f *form.Form, step lifecycle.Step) (Case, lifecycle.Step, error) {
	stage := form.Key(c.Stage)
	next := f.NextStage(stage)
	through := step.Event == lifecycle.FindEligible && !f.ReadAfter(stage) || step.Event == lifecycle.FinishRead
	if next == nil || next.Invited || !through {
		return c, step, nil
	}
	c, on, err := s.InviteOn(ctx, tx, c, nil)
	if err == nil {
		_, err = s.SendLetter(ctx, tx, c, form.Key(on.Letter), f.StageValues(next), tx.At)
	}
	return c, step, err
}

// stageBefore is one stage that a case has been through.
type stageBefore struct {
	Stage  form.Key
	State  lifecycle.State
	SealID *int64 `db:"seal_id"`
}

// earlier adds what a case has been through before its stage: the results,
// and what was sent. What a seal says stands; nothing live is read.
func (s *Store) earlier(ctx context.Context, q db.Querier, c Case, f *form.Form, filled *form.Filled) error {
	if form.Key(c.Stage) == f.FirstStage() {
		return nil
	}
	var list []stageBefore
	if err := q.SelectContext(ctx, &list, `SELECT stage, state, seal_id FROM entry WHERE application_id = $1 AND id < $2 ORDER BY id`, c.ID, c.EntryID); err != nil {
		return err
	}
	for _, e := range list {
		if filled.Results == nil {
			filled.Results = map[form.Key]string{}
		}
		filled.Results[e.Stage] = string(e.State)
		if e.SealID == nil {
			continue
		}
		sealed, err := s.Sealed(ctx, q, *e.SealID)
		if err != nil {
			return err
		}
		was := sealed.Decoded.Filled(c.LeadName)
		if filled.Earlier == nil {
			filled.Earlier = was
			continue
		}
		maps.Copy(filled.Earlier.Answers, was.Answers)
		maps.Copy(filled.Earlier.Files, was.Files)
	}
	return nil
}

// SealedCase is a case's seal in the first stage of its round, and what became
// of it.
type SealedCase struct {
	Ref, Title string
	Lead       string
	State      lifecycle.State
	Document   []byte
}

// SealedOf lists what was sent in the first stage of a round and not withdrawn,
// with what became of each in the end.
func (s *Store) SealedOf(ctx context.Context, q db.Querier, roundID int64) (out []SealedCase, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, p.name AS lead, last.state, d.document
		FROM application a
		JOIN LATERAL (SELECT seal_id FROM entry WHERE application_id = a.id ORDER BY id LIMIT 1) first ON true
		JOIN LATERAL (SELECT state FROM entry WHERE application_id = a.id ORDER BY id DESC LIMIT 1) last ON true
		JOIN seal d ON d.id = first.seal_id
		JOIN relation l ON l.application_id = a.id AND l.kind = 'lead'
		JOIN account p ON p.id = l.account_id
		WHERE a.round_id = $1 AND last.state <> 'withdrawn' ORDER BY a.id`, roundID)
	return out, err
}

// Stages lists the stages a case has reached, in order, for going from one to
// another.
func (s *Store) Stages(ctx context.Context, q db.Querier, application int64) (out []Case, err error) {
	err = q.SelectContext(ctx, &out, selectCase+`WHERE a.id = $1 ORDER BY e.id`, application)
	return out, err
}
