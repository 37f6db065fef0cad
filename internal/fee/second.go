package fee

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// No act of money is one person's alone: letting somebody off a fee, and putting in
// a transfer that was found at the bank, are proposed by one and done when a second
// agrees. What is given back has its own proposals, see GiveBack.

// WishAct is what is proposed.
type WishAct string

// The acts.
const (
	WishLetOff WishAct = "let off"
	WishPaidIn WishAct = "paid in"
)

// Wish is what somebody proposed about a fee.
type Wish struct {
	ID   int64
	Act  WishAct
	Args []byte
	ByID int64 `db:"by_id"`
	At   time.Time
	Told Told `db:"-"`
}

// Told is what the act needs: a reason to let off, or a transfer.
type Told struct {
	Reason    string    `json:"reason,omitempty"`
	Amount    int64     `json:"amount,omitempty"` // minor units
	Day       time.Time `json:"day,omitzero"`
	Reference string    `json:"reference,omitempty"`
}

// Says what is proposed, in the middle of a sentence.
func (w Wish) Says(currency string) string {
	if w.Act == WishLetOff {
		return "to ask no fee, because " + w.Told.Reason
	}
	return "to put in a transfer of " + money.Format(w.Told.Amount, currency) + ", the bank’s reference “" +
		w.Told.Reference + "”"
}

// Wishes of an entry that wait for a second person, the oldest first.
func (s *Store) Wishes(ctx context.Context, q db.Querier, entry int64) (out []Wish, err error) {
	if err := q.SelectContext(ctx, &out,
		`SELECT id, act, args, by_id, at FROM fee_wish WHERE entry_id = $1 AND ended_at IS NULL ORDER BY id`,
		entry); err != nil {
		return nil, err
	}
	for i := range out {
		if err := json.Unmarshal(out[i].Args, &out[i].Told); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// do what a wish is for.
func (s *Store) do(ctx context.Context, tx *db.Tx, c application.Case, act WishAct, t Told) error {
	if act == WishLetOff {
		return s.Waive(ctx, tx, c, t.Reason)
	}
	return s.PaidIn(ctx, tx, c, t.Amount, t.Day, t.Reference)
}

// Propose keeps it for a second person. What could not be done is refused at once:
// it is tried, and taken back.
func (s *Store) Propose(ctx context.Context, tx *db.Tx, c application.Case, act WishAct, t Told) error {
	if _, err := tx.ExecContext(ctx, `SAVEPOINT wish`); err != nil {
		return err
	}
	if err := s.do(ctx, tx, c, act, t); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `ROLLBACK TO SAVEPOINT wish`); err != nil {
		return err
	}
	raw, err := json.Marshal(t)
	if err != nil {
		return err
	}
	r, err := tx.ExecContext(ctx, `
		INSERT INTO fee_wish (entry_id, round_id, act, args, by_id, at) VALUES (@entry, @round, @act, @args, @by, @at) ON CONFLICT DO NOTHING`,
		db.Named{"entry": c.EntryID, "round": c.RoundID, "act": act, "args": string(raw), "by": tx.By.ID, "at": tx.At})
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return refusal.New("this is proposed already").But("somebody else must agree")
	}
	return trail.Write(ctx, tx, "fee-wished", c.ID, c.RoundID, map[string]string{"what": string(act)})
}

// Answer is a second person's word on what was proposed: yes does it. Whoever
// proposed it can take it back. releases is whether the asker may agree at all.
func (s *Store) Answer(ctx context.Context, tx *db.Tx, c application.Case, id int64, yes, releases bool) error {
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	var w Wish
	err = tx.GetContext(ctx, &w,
		`UPDATE fee_wish SET ended_at = $3, ended_by = $4, agreed = $5 WHERE id = $1 AND entry_id = $2 AND ended_at IS NULL RETURNING id, act, args, by_id, at`,
		id, c.EntryID, tx.At, tx.By.ID, yes)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return refusal.New("nothing is proposed there any more")
	case err != nil:
		return err
	case yes && w.ByID == tx.By.ID:
		return refusal.New("you proposed it yourself").But("somebody else must agree")
	case !releases && (yes || w.ByID != tx.By.ID):
		return refusal.New("this is for somebody who releases money")
	}
	if err := json.Unmarshal(w.Args, &w.Told); err != nil {
		return err
	}
	if !yes {
		return trail.Write(ctx, tx, "fee-wish-ended", c.ID, c.RoundID, map[string]string{"what": string(w.Act)})
	}
	return s.do(ctx, tx, c, w.Act, w.Told)
}
