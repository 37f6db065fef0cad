package application

import (
	"context"
	"strings"
	"time"

	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// Support that an applicant asked for: large print, somebody to read with, a call.
type Support struct {
	ID      int64
	AskedAt time.Time `db:"asked_at"`
	By      string
	Text    string
	EndedAt *time.Time `db:"ended_at"`
	EndedBy string     `db:"ended_by"`
	Note    string
}

// mostSupport is how many wishes of one case may be open.
const mostSupport = 3

// Supports of a case, the latest first.
func (s *Store) Supports(ctx context.Context, q db.Querier, c Case) (out []Support, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT s.id, s.asked_at, p.name AS by, s.text, s.ended_at, COALESCE(e.name, '') AS ended_by, s.note
		FROM support s JOIN account p ON p.id = s.by_id LEFT JOIN account e ON e.id = s.ended_by WHERE s.application_id = $1 ORDER BY s.id DESC`, c.ID)
	return out, err
}

// AskSupport asks the office for support; it reaches whoever looks after the case.
func (s *Store) AskSupport(ctx context.Context, tx *db.Tx, c Case, text string) error {
	if text = strings.TrimSpace(text); text == "" || len(text) > 2000 {
		return refusal.Unfit("Say in a few words what would help, in up to 2,000 characters.")
	}
	c, err := s.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	var open int
	if err := tx.GetContext(ctx, &open, `SELECT count(*) FROM support WHERE application_id = $1 AND ended_at IS NULL`,
		c.ID); err != nil {
		return err
	}
	if open >= mostSupport {
		return refusal.Unfit("You have asked three times already").But("the office writes to you.")
	}
	if _, err := tx.ExecContext(ctx,
		`INSERT INTO support (application_id, asked_at, by_id, text) VALUES ($1, $2, $3, $4)`, c.ID, tx.At,
		tx.By.ID, text); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "asked-for-support", c.ID, c.RoundID, nil)
}

// EndSupport says what was done for whoever asked; they are told by mail.
func (s *Store) EndSupport(ctx context.Context, tx *db.Tx, c Case, id int64, note string) error {
	if note = strings.TrimSpace(note); note == "" || len(note) > 2000 {
		return refusal.Unfit("Say what was done or agreed; the applicant reads it.")
	}
	var who struct {
		ID          int64
		Name, Email string
	}
	if err := tx.GetContext(ctx, &who, `
		WITH x AS (UPDATE support SET ended_at = $3, ended_by = $4, note = $5 WHERE id = $1 AND application_id = $2 AND ended_at IS NULL RETURNING by_id)
		SELECT p.id, p.name, p.email FROM x JOIN account p ON p.id = x.by_id`, id, c.ID, tx.At, tx.By.ID, note); err != nil {
		return refusal.Unfit("somebody has seen to it meanwhile")
	}
	if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "support", Account: who.ID, Application: c.ID, Round: c.RoundID,
		To:     who.Email,
		ToName: who.Name, Subject: "You asked for support: " + c.Title,
		Body: "Dear " + who.Name + ",\n\nyou asked for support with “" + c.Title + "” (" + c.Ref +
			"). The office writes:\n\n" + note +
			"\n\nIf that does not help, ask again on the page of your application.\n"}); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "gave-support", c.ID, c.RoundID, nil)
}
