package reading

import (
	"context"
	"encoding/json"
	"strconv"
	"strings"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// Reopen opens the marks that a reader has sent, with a reason: what they were is
// kept, the reader is told, and the case waits for them again.
func (s *Store) Reopen(ctx context.Context, tx *db.Tx, c application.Case, account int64, why string) error {
	if why = strings.TrimSpace(why); why == "" || len(why) > 1000 {
		return refusal.In("why", "Say why, in up to 1,000 characters; the reader is told it.")
	}
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	g, err := s.Find(ctx, tx, c.EntryID, account)
	if err != nil {
		return err
	}
	if g.SentAt == nil {
		return refusal.Unfit("these marks are not sent")
	}
	_, closed := lifecycle.Next(c.State, lifecycle.TakeBack, true)
	if closed != nil && !c.State.Is(lifecycle.BeingRead) {
		return refusal.Newf("it is %s now; its marks stand", c.State)
	}
	marks, err := s.Marks(ctx, tx, c.EntryID, account)
	if err != nil {
		return err
	}
	raw, err := json.Marshal(map[string]any{"marks": marks, "note": g.Note})
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO mark_before (entry_id, account_id, at, by_id, why, marks) VALUES ($1, $2, $3, $4, $5, $6)`, c.EntryID, account, tx.At,
		tx.By.ID, why, string(raw)); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE assignment SET sent_at = NULL, reopened_at = $3, reopened_why = $4, version = version + 1 WHERE entry_id = $1 AND account_id = $2`,
		c.EntryID, account, tx.At, why); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "marks-reopened", c.ID, c.RoundID,
		map[string]string{"reader": strconv.FormatInt(account, 10), "why": why}); err != nil {
		return err
	}
	var email string
	if err := tx.GetContext(ctx, &email, `SELECT email FROM account WHERE id = $1`, account); err != nil {
		return err
	}
	title, err := s.titleFor(ctx, tx, c)
	if err != nil {
		return err
	}
	subject, body := say.MarksReopened(g.Name, title, why, s.Post.Name())
	if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "marks-reopened", Account: account, Round: c.RoundID, To: email,
		ToName:  g.Name,
		Subject: subject, Body: body + "\n" + s.Post.BaseURL + "/reading/" + c.Ref + "\n"}); err != nil {
		return err
	}
	if closed == nil {
		_, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.TakeBack, nil)
	}
	return err
}

// Before are the marks of a reader as they were when they were opened again, the
// first first.
func (s *Store) Before(ctx context.Context, q db.Querier, entry, account int64) (out []map[form.Key]int, err error) {
	var rows [][]byte
	if err := q.SelectContext(ctx, &rows,
		`SELECT marks->'marks' FROM mark_before WHERE entry_id = $1 AND account_id = $2 ORDER BY at`, entry,
		account); err != nil {
		return nil, err
	}
	for _, raw := range rows {
		m := map[form.Key]int{}
		if err := json.Unmarshal(raw, &m); err != nil {
			return nil, err
		}
		out = append(out, m)
	}
	return out, nil
}
