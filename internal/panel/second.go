package panel

import (
	"context"
	"errors"
	"slices"
	"strings"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// A second body answers for a meeting that is over: as a whole (Answer), or case by case.
// Until another meeting has talked about it again, what is sent back is not recorded.

// AnswerCase sends one case of a meeting back with a reason, or takes that back where why
// is empty. Nobody who sat answers for it.
func (s *Store) AnswerCase(ctx context.Context, tx *db.Tx, r round.Round, id, entry int64, why string) error {
	x, err := s.lock(ctx, tx, r, id)
	if err == nil {
		return refusal.Unfit("the meeting is not over")
	}
	if !errors.Is(err, ErrEnded) {
		return err
	}
	i := slices.IndexFunc(x.Items, func(it Item) bool { return it.EntryID == entry })
	switch why = strings.TrimSpace(why); {
	case i < 0:
		return ErrNotOn
	case slices.ContainsFunc(x.Members, func(m Member) bool { return m.Account == tx.By.ID }):
		return refusal.Unfit("you sat in this meeting").But("somebody who did not must confirm it")
	case len(why) > 2000:
		return refusal.In("why", "Say why it is sent back, in up to 2,000 characters.")
	case why == "" && x.Items[i].Back == "":
		return refusal.In("why", "Say why it is sent back, in up to 2,000 characters.")
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE panel_item SET back = $3, back_by = $4 WHERE sitting_id = $1 AND entry_id = $2`, id, entry, why,
		tx.By.ID); err != nil {
		return err
	}
	verb := say.Verb("panel-case-back")
	if why == "" {
		verb = "panel-case-let"
	}
	return trail.Write(ctx, tx, verb, x.Items[i].AppID, r.ID, map[string]string{"name": x.Name, "why": why})
}

// SentBack are the cases of a stage that a second body has sent back, with its reason: by
// the last meeting that talked about each.
func (s *Store) SentBack(ctx context.Context, q db.Querier, round int64, stage form.Key) (map[int64]string, error) {
	var list []struct {
		EntryID int64 `db:"entry_id"`
		Why     string
	}
	if err := q.SelectContext(ctx, &list, `
		SELECT entry_id, why FROM (
		  SELECT DISTINCT ON (i.entry_id) i.entry_id, COALESCE(NULLIF(i.back, ''), CASE WHEN s.said = 'sent back' THEN s.said_why ELSE '' END) AS why
		  FROM panel_item i JOIN panel_sitting s ON s.id = i.sitting_id
		  WHERE s.round_id = $1 AND s.stage = $2 AND s.ended_at IS NOT NULL AND i.talked_at IS NOT NULL ORDER BY i.entry_id, s.ended_at DESC, s.id DESC) l
		WHERE why <> ''`, round, stage); err != nil {
		return nil, err
	}
	out := map[int64]string{}
	for _, x := range list {
		out[x.EntryID] = x.Why
	}
	return out, nil
}
