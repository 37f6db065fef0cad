package panel

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// lock a meeting that is not over.
func (s *Store) lock(ctx context.Context, tx *db.Tx, r round.Round, id int64) (Sitting, error) {
	var found int64
	err := tx.GetContext(ctx, &found, `SELECT id FROM panel_sitting WHERE id = $1 AND round_id = $2 FOR UPDATE`, id, r.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return Sitting{}, ErrNone
	}
	if err != nil {
		return Sitting{}, err
	}
	x, err := s.Find(ctx, tx, r.ID, id)
	if err == nil && x.EndedAt != nil {
		err = ErrEnded
	}
	return x, err
}

// item of a meeting; nil where the case is not on its agenda.
func (x *Sitting) item(entry int64) *Item {
	i := slices.IndexFunc(x.Items, func(it Item) bool { return it.EntryID == entry })
	if i < 0 {
		return nil
	}
	return &x.Items[i]
}

// ErrNotOn: the case is not on the agenda.
var ErrNotOn = refusal.New("this case is not on the agenda")

// Take up a case: the room sees it, and its time begins.
func (s *Store) Take(ctx context.Context, tx *db.Tx, r round.Round, id, entry int64) error {
	x, err := s.lock(ctx, tx, r, id)
	if err != nil {
		return err
	}
	if x.item(entry) == nil {
		return ErrNotOn
	}
	if x.EntryID != nil && *x.EntryID != entry {
		if _, err := tx.ExecContext(ctx,
			`UPDATE panel_item SET talked_at = COALESCE(talked_at, $3) WHERE sitting_id = $1 AND entry_id = $2`, id,
			*x.EntryID, tx.At); err != nil {
			return err
		}
	}
	_, err = tx.ExecContext(ctx, `
		UPDATE panel_sitting SET entry_id = $2, since = $3, begun_at = COALESCE(begun_at, $3), version = version + 1 WHERE id = $1`, id, entry, tx.At)
	return err
}

// Note what is said of a case; it goes into the minutes.
func (s *Store) Note(ctx context.Context, tx *db.Tx, r round.Round, id, entry int64, notes string) error {
	x, err := s.lock(ctx, tx, r, id)
	if err != nil {
		return err
	}
	if len(notes) > 20_000 {
		return refusal.In("notes", "The notes hold 20,000 characters.")
	}
	if entry == 0 {
		_, err = tx.ExecContext(ctx, `UPDATE panel_sitting SET notes = $2 WHERE id = $1`, id, strings.TrimSpace(notes))
		return err
	}
	if x.item(entry) == nil {
		return ErrNotOn
	}
	_, err = tx.ExecContext(ctx, `UPDATE panel_item SET notes = $3 WHERE sitting_id = $1 AND entry_id = $2`, id, entry,
		strings.TrimSpace(notes))
	return err
}

// StepOut takes a member out of the room for a case, with a reason: by themselves, or
// by the chair. A vote they gave on it is gone.
func (s *Store) StepOut(ctx context.Context, tx *db.Tx, r round.Round, id, entry, account int64, why string) error {
	x, err := s.lock(ctx, tx, r, id)
	if err != nil {
		return err
	}
	it := x.item(entry)
	switch why = strings.TrimSpace(why); {
	case it == nil:
		return ErrNotOn
	case !slices.ContainsFunc(x.Members, func(m Member) bool { return m.Account == account }):
		return ErrNoMember
	case why == "" || len(why) > 1000:
		return refusal.In("why", "Say in a few words why; it stands in the minutes that they were out.")
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO panel_out (sitting_id, entry_id, account_id, why, at) VALUES ($1, $2, $3, $4, $5) ON CONFLICT DO NOTHING`, id, entry, account, why,
		tx.At); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM panel_vote WHERE sitting_id = $1 AND entry_id = $2 AND account_id = $3`,
		id, entry, account); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "panel-out", it.AppID, r.ID, map[string]string{"reader": strconv.FormatInt(account, 10),
		"why": why})
}

// ComeBack takes it back that a member is out of the room for a case.
func (s *Store) ComeBack(ctx context.Context, tx *db.Tx, r round.Round, id, entry, account int64) error {
	x, err := s.lock(ctx, tx, r, id)
	if err != nil {
		return err
	}
	it := x.item(entry)
	if it == nil {
		return ErrNotOn
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM panel_out WHERE sitting_id = $1 AND entry_id = $2 AND account_id = $3`,
		id, entry, account); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "panel-back", it.AppID, r.ID, map[string]string{"reader": strconv.FormatInt(account, 10)})
}

// CastVote of a member on the case that is talked about; it can be changed until
// another is taken up.
func (s *Store) CastVote(ctx context.Context, tx *db.Tx, r round.Round, id, entry int64, vote string) error {
	x, err := s.lock(ctx, tx, r, id)
	if err != nil {
		return err
	}
	it := x.item(entry)
	switch {
	case it == nil:
		return ErrNotOn
	case !slices.ContainsFunc(x.Members, func(m Member) bool { return m.Account == tx.By.ID && m.Here }):
		return ErrNoMember
	case it.OutOf(tx.By.ID):
		return refusal.New("you are out of the room for this case")
	case !x.Votes:
		return refusal.New("nothing is voted on at this meeting")
	case x.EntryID == nil || *x.EntryID != entry:
		return refusal.New("another case is talked about now")
	case vote != For && vote != Against && vote != Neither:
		return refusal.In("vote", "A vote is for, against or neither.")
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO panel_vote (sitting_id, entry_id, account_id, vote, at) VALUES ($1, $2, $3, $4, $5)
		ON CONFLICT (sitting_id, entry_id, account_id) DO UPDATE SET vote = excluded.vote, at = excluded.at`, id, entry, tx.By.ID, vote, tx.At)
	return err
}

// Here says who is there.
func (s *Store) Here(ctx context.Context, tx *db.Tx, r round.Round, id, account int64, here bool) error {
	if _, err := s.lock(ctx, tx, r, id); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `UPDATE panel_member SET here = $3 WHERE sitting_id = $1 AND account_id = $2`, id,
		account, here)
	return err
}

// End the meeting; its minutes stand from then on.
func (s *Store) End(ctx context.Context, tx *db.Tx, r round.Round, id int64) error {
	x, err := s.lock(ctx, tx, r, id)
	if err != nil {
		return err
	}
	if x.EntryID != nil {
		if _, err := tx.ExecContext(ctx,
			`UPDATE panel_item SET talked_at = COALESCE(talked_at, $3) WHERE sitting_id = $1 AND entry_id = $2`, id,
			*x.EntryID, tx.At); err != nil {
			return err
		}
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE panel_sitting SET ended_at = $2, begun_at = COALESCE(begun_at, $2), entry_id = NULL, since = NULL, version = version + 1 WHERE id = $1`, id,
		tx.At); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "panel-ended", 0, r.ID, map[string]string{"name": x.Name})
}

// Answer of a second body to a meeting that is over: it confirms, or sends it back with
// a reason. Nobody who sat answers for it.
func (s *Store) Answer(ctx context.Context, tx *db.Tx, r round.Round, id int64, confirms bool, why string) error {
	x, err := s.lock(ctx, tx, r, id)
	if err == nil {
		return refusal.Unfit("the meeting is not over")
	}
	if !errors.Is(err, ErrEnded) {
		return err
	}
	why = strings.TrimSpace(why)
	switch {
	case slices.ContainsFunc(x.Members, func(m Member) bool { return m.Account == tx.By.ID }):
		return refusal.Unfit("you sat in this meeting").But("somebody who did not must confirm it")
	case x.Said == "confirmed":
		return refusal.Unfit("it is confirmed already")
	case len(why) > 2000 || !confirms && why == "":
		return refusal.In("why", "Say why it is sent back, in up to 2,000 characters.")
	}
	said, verb := "confirmed", "panel-confirmed"
	if !confirms {
		said, verb = "sent back", "panel-sent-back"
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE panel_sitting SET said = $2, said_at = $3, said_by = $4, said_why = $5 WHERE id = $1`, id, said, tx.At,
		tx.By.ID, why); err != nil {
		return err
	}
	return trail.Write(ctx, tx, say.Verb(verb), 0, r.ID, map[string]string{"name": x.Name, "why": why})
}

// Move of the order: a case goes so many places up, or down where places is below 0,
// with a reason. Moves are applied one after another to the order as the scores have it.
type Move struct {
	ID      int64
	EntryID int64 `db:"entry_id"`
	Places  int
	Why     string
	By      string
}

// Moves of a stage that stand, in their sequence.
func (s *Store) Moves(ctx context.Context, q db.Querier, round int64, stage form.Key) (out []Move, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT m.id, m.entry_id, m.places, m.why, p.name AS by FROM panel_move m JOIN account p ON p.id = m.by_id
		WHERE m.round_id = $1 AND m.stage = $2 AND m.undone_at IS NULL ORDER BY m.id`, round, stage)
	return out, err
}

// MoveCase moves a case in the order.
func (s *Store) MoveCase(ctx context.Context, tx *db.Tx, r round.Round, stage form.Key, sitting, entry int64,
	places int, why string) error {
	why = strings.TrimSpace(why)
	switch {
	case places == 0 || places < -500 || places > 500:
		return refusal.In("places", "Move it by 1 to 500 places, up or down.")
	case why == "" || len(why) > 1000:
		return refusal.In("why", "Say why it is moved, in up to 1,000 characters; the reason stands beside it.")
	}
	var app int64
	err := tx.GetContext(ctx, &app, `
		SELECT a.id FROM entry e JOIN application a ON a.id = e.application_id WHERE e.id = $1 AND a.round_id = $2 AND e.stage = $3`, entry, r.ID, stage)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotOn
	}
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO panel_move (round_id, stage, sitting_id, entry_id, places, why, by_id, at) VALUES ($1, $2, NULLIF($3, 0), $4, $5, $6, $7, $8)`, r.ID,
		stage, sitting, entry, places, why, tx.By.ID, tx.At); err != nil {
		return err
	}
	way := strconv.Itoa(places) + " up"
	if places < 0 {
		way = strconv.Itoa(-places) + " down"
	}
	return trail.Write(ctx, tx, "panel-moved", app, r.ID, map[string]string{"way": way, "why": why})
}

// UndoMove takes a move back.
func (s *Store) UndoMove(ctx context.Context, tx *db.Tx, r round.Round, id int64) error {
	res, err := tx.ExecContext(ctx,
		`UPDATE panel_move SET undone_at = $3 WHERE id = $1 AND round_id = $2 AND undone_at IS NULL`, id, r.ID, tx.At)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return refusal.Missing("this move is not there any more")
	}
	return nil
}
