package application

import (
	"context"
	"maps"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// openNext gives a case that was invited on its entry in the next stage; one
// that is there already stays.
func (s *Store) openNext(ctx context.Context, tx *db.Tx, entry int64) error {
	c, err := s.ByEntry(ctx, tx, entry)
	if err != nil || !c.Latest {
		return err
	}
	r, err := s.Rounds.ByID(ctx, tx, c.RoundID)
	if err != nil {
		return err
	}
	f, err := s.Rounds.Form(ctx, tx, *r.DesignID)
	if err != nil {
		return err
	}
	next := f.NextStage(form.Key(c.Stage))
	if next == nil {
		return ErrLastStage
	}
	if _, err := tx.ExecContext(ctx, `UPDATE standing SET latest = false WHERE entry_id = $1`, c.EntryID); err != nil {
		return err
	}
	_, err = s.enter(ctx, tx, c.ID, next.Key, *r.DesignID, lifecycle.Invited)
	return err
}

// CloseNext takes an invitation to the next stage back, when the decision to
// invite is revised: an entry that nobody took up goes. ErrTakenUp when it was
// taken up already.
func (s *Store) CloseNext(ctx context.Context, tx *db.Tx, c Case) error {
	latest, err := s.Of(ctx, tx, c.ID)
	if err != nil || latest.EntryID == c.EntryID {
		return err
	}
	if !latest.State.Is(lifecycle.Offered) {
		return ErrTakenUp
	}
	for _, sql := range []string{`DELETE FROM standing WHERE entry_id = $1`, `DELETE FROM entry WHERE id = $1`} {
		if _, err := tx.ExecContext(ctx, sql, latest.EntryID); err != nil {
			return err
		}
	}
	if _, err := tx.ExecContext(ctx, `UPDATE standing SET latest = true WHERE entry_id = $1`, c.EntryID); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "uninvited", c.ID, c.RoundID, nil)
}

// ErrTakenUp: somebody has begun the stage they were invited to.
var ErrTakenUp = refusal.New("the next stage has been begun already").But("write to the applicant instead")

// goOn invites a case on by itself when the next stage is open to all who get
// through this one: nothing is decided, so nothing waits for a letter.
func (s *Store) goOn(ctx context.Context, tx *db.Tx, c Case, f *form.Form, step lifecycle.Step) (Case, lifecycle.Step,
	error) {
	stage := form.Key(c.Stage)
	next := f.NextStage(stage)
	through := step.Event == lifecycle.FindEligible && !f.ReadAfter(stage) || step.Event == lifecycle.FinishRead
	if next == nil || next.Invited || !through {
		return c, step, nil
	}
	c, on, err := s.Transition(ctx, tx, c, lifecycle.InviteOn, nil)
	if err != nil {
		return c, step, err
	}
	if _, err := s.SendLetter(ctx, tx, c, form.Key(on.Letter), f.StageValues(next), tx.At); err != nil {
		return c, step, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE entry SET told = '' WHERE id = $1`, c.EntryID); err != nil {
		return c, step, err
	}
	if err := s.openNext(ctx, tx, c.EntryID); err != nil {
		return c, step, err
	}
	c.Latest, c.Told = false, c.State
	return c, step, nil
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
	if err := q.SelectContext(ctx, &list,
		`SELECT stage, state, seal_id FROM entry WHERE application_id = $1 AND id < $2 ORDER BY id`, c.ID,
		c.EntryID); err != nil {
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
		sealed, err := s.Now(ctx, q, *e.SealID)
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
		WHERE a.round_id = $1 AND last.state <> ALL($2) ORDER BY a.id`, roundID, lifecycle.With(lifecycle.Gone))
	return out, err
}

// Stages lists the stages a case has reached, in order, for going from one to
// another.
func (s *Store) Stages(ctx context.Context, q db.Querier, application int64) (out []Case, err error) {
	err = q.SelectContext(ctx, &out, selectCase+`WHERE a.id = $1 ORDER BY e.id`, application)
	return out, err
}
