package decision

import (
	"context"
	"database/sql"
	"errors"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Between is what somebody proposes to decide between two meetings: it is recorded when
// a second person who decides agrees to it.
type Between struct {
	ID      int64
	EntryID int64 `db:"entry_id"`
	AppID   int64 `db:"application_id"`
	Ref     string
	Title   string
	Outcome lifecycle.State
	Amount  int64
	Why     string
	ByID    int64 `db:"by_id"`
	By      string
	At      time.Time
	Stage   form.Key
}

const selectBetween = `
	SELECT b.id, b.entry_id, a.id AS application_id, a.ref, a.title, b.outcome, b.amount, b.why, b.by_id, p.name AS by, b.at, b.stage
	FROM between_meetings b JOIN entry e ON e.id = b.entry_id JOIN application a ON a.id = e.application_id JOIN account p ON p.id = b.by_id `

// Betweens of a round that wait for a second person, the oldest first.
func (s *Store) Betweens(ctx context.Context, q db.Querier, round int64) (out []Between, err error) {
	err = q.SelectContext(ctx, &out, selectBetween+`WHERE b.round_id = $1 AND b.how = '' ORDER BY b.id`, round)
	return out, err
}

// Propose a decision between meetings, for a case by its number.
func (s *Store) Propose(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, stage form.Key, ref string,
	outcome lifecycle.State,
	amount int64, why string) error {
	why = strings.TrimSpace(why)
	if why == "" || len(why) > 1000 {
		return refusal.In("why", "Say why it cannot wait for the next meeting, in up to 1,000 characters.")
	}
	c, err := s.Cases.FindStage(ctx, tx, strings.TrimSpace(ref), string(stage))
	if errors.Is(err, application.ErrNotFound) || err == nil && c.RoundID != r.ID {
		return refusal.In("ref", "There is no application of this round with this number.")
	}
	if err != nil {
		return err
	}
	event, ok := lifecycle.OutcomeEvent(outcome)
	if !ok {
		return refusal.In("outcome", "Choose an outcome.")
	}
	if _, err := lifecycle.Next(c.State, event, f.ReadAfter(stage)); err != nil {
		if _, err := lifecycle.Revise(c.State, event); err != nil {
			return err
		}
	}
	res, err := tx.ExecContext(ctx, `
		INSERT INTO between_meetings (round_id, stage, entry_id, outcome, amount, why, by_id, at) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)
		ON CONFLICT (entry_id) WHERE how = '' DO NOTHING`, r.ID, stage, c.EntryID, outcome, amount, why, tx.By.ID, tx.At)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return refusal.Unfit("something is proposed for this case already")
	}
	return trail.Write(ctx, tx, "between-proposed", c.ID, r.ID, map[string]string{"outcome": string(outcome), "why": why})
}

// Settle what is proposed: agreed to by somebody else, who records it with that; refused
// by somebody else; or taken back by whoever proposed it.
func (s *Store) Settle(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, id int64, agrees bool) error {
	var b Between
	err := tx.GetContext(ctx, &b, selectBetween+`WHERE b.id = $1 AND b.round_id = $2 AND b.how = '' FOR UPDATE OF b`, id,
		r.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return refusal.Missing("this proposal is settled already")
	}
	if err != nil {
		return err
	}
	how, verb := "refused", say.Verb("between-refused")
	var act int64
	switch {
	case agrees && b.ByID == tx.By.ID:
		return refusal.Unfit("you have proposed it").But("somebody else who decides must agree to it")
	case agrees:
		c, err := s.Cases.ByEntry(ctx, tx, b.EntryID)
		if err != nil {
			return err
		}
		var second string
		if err := tx.GetContext(ctx, &second, `SELECT name FROM account WHERE id = $1`, tx.By.ID); err != nil {
			return err
		}
		kept, err := s.stillGiven(ctx, tx, b.EntryID) // they speak of the sum alone
		if err != nil {
			return err
		}
		how, verb = "agreed", "between-agreed"
		if act, err = s.Record(ctx, tx, r, f, Sitting{Stage: b.Stage, Note: "Between meetings, " + b.By + " and " + second,
			Reason: b.Why,
			Choices: []Choice{{EntryID: b.EntryID, Version: c.Version, Outcome: b.Outcome,
				Amount: b.Amount, Gifts: kept}}}); err != nil {
			return err
		}
	case b.ByID == tx.By.ID:
		how, verb = "taken back", "between-taken-back"
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE between_meetings SET how = $2, ended_by = $3, ended_at = $4, act_id = NULLIF($5, 0) WHERE id = $1`, id, how,
		tx.By.ID, tx.At, act); err != nil {
		return err
	}
	return trail.Write(ctx, tx, verb, b.AppID, r.ID, map[string]string{"outcome": string(b.Outcome)})
}
