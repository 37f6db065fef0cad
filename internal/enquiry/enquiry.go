// Package enquiry keeps questions that people ask about a round. The office
// answers each once; what it makes public stands on the round's page for all,
// without the name of whoever asked.
package enquiry

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"ulvant/core/refusal"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Enquiry is one question.
type Enquiry struct {
	ID         int64
	RoundID    int64 `db:"round_id"`
	ByID       int64 `db:"by_id"`
	At         time.Time
	Text       string
	Answer     string
	AnsweredAt *time.Time `db:"answered_at"`
	Public     bool
	Name       string // of who asked; for the office and themselves
}

// Store of enquiries.
type Store struct {
	DB     *db.DB
	Rounds *round.Store
	People *people.Store
	Post   *post.Office
}

// Bounds.
const (
	mostText = 2000 // bytes, of a question
	mostOpen = 5    // of one person's in one round that are not answered
)

// ErrNotFound: no such question.
var ErrNotFound = refusal.Missing("there is no such question")

const columns = `e.id, e.round_id, e.by_id, e.at, e.text, e.answer, e.answered_at, e.public, p.name`

// Ask a question about a round.
func (s *Store) Ask(ctx context.Context, tx *db.Tx, r round.Round, text string) error {
	text = strings.TrimSpace(text)
	if text == "" || len(text) > mostText {
		return refusal.Unfit("Ask in up to 2,000 characters.")
	}
	var open int
	if err := tx.GetContext(ctx, &open,
		`SELECT count(*) FROM enquiry WHERE round_id = $1 AND by_id = $2 AND answered_at IS NULL`, r.ID,
		tx.By.ID); err != nil {
		return err
	}
	if open >= mostOpen {
		return refusal.Unfit("Five of your questions wait for an answer already. Wait for one of them first.")
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO enquiry (round_id, by_id, at, text) VALUES ($1, $2, $3, $4)`, r.ID,
		tx.By.ID, tx.At, text); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "enquired", 0, r.ID, nil)
}

// Answer a question, by mail to who asked, and for all to see when public.
// question is the text as it is made public: the office may take out what
// would tell who asked. Answering again corrects the answer.
func (s *Store) Answer(ctx context.Context, tx *db.Tx, r round.Round, id int64, question, answer string,
	public bool) error {
	question, answer = strings.TrimSpace(question), strings.TrimSpace(answer)
	if answer == "" || len(answer) > 2*mostText || question == "" || len(question) > mostText {
		return refusal.Unfit("Write the question and an answer").But("nothing was kept.")
	}
	var e Enquiry
	err := tx.GetContext(ctx, &e,
		`SELECT `+columns+` FROM enquiry e JOIN account p ON p.id = e.by_id WHERE e.id = $1 AND e.round_id = $2 FOR UPDATE OF e`, id, r.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE enquiry SET text = @text, answer = @answer, public = @public, answered_at = @answered_at, answered_by = @answered_by WHERE id = @id`,
		db.Named{"id": id, "text": question, "answer": answer, "public": public, "answered_at": tx.At,
			"answered_by": tx.By.ID}); err != nil {
		return err
	}
	who, err := s.People.Find(ctx, tx, e.ByID)
	if err != nil {
		return err
	}
	where := ""
	if public {
		where = "\n\nQuestion and answer stand on the round's page too, without your name.\n"
	}
	if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "enquiry-answered", Account: who.ID, Round: r.ID, To: who.Email,
		ToName:  who.Name,
		Subject: "Your question about " + r.Name, Body: fmt.Sprintf("Dear %s,\n\nyou asked:\n\n%s\n\nOur answer:\n\n%s%s\n",
			who.Name, question, answer, where)}); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "answered-enquiry", 0, r.ID, nil)
}

// Public lists what everybody can read about a round, in order.
func (s *Store) Public(ctx context.Context, q db.Querier, roundID int64) (out []Enquiry, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT `+columns+` FROM enquiry e JOIN account p ON p.id = e.by_id WHERE e.round_id = $1 AND e.public AND e.answered_at IS NOT NULL ORDER BY e.id`, roundID)
	return out, err
}

// Of lists all questions of a round, those that wait first.
func (s *Store) Of(ctx context.Context, q db.Querier, roundID int64) (out []Enquiry, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT `+columns+` FROM enquiry e JOIN account p ON p.id = e.by_id WHERE e.round_id = $1 ORDER BY (e.answered_at IS NOT NULL), e.id`, roundID)
	return out, err
}

// By lists what an account asked about a round.
func (s *Store) By(ctx context.Context, q db.Querier, roundID, account int64) (out []Enquiry, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT `+columns+` FROM enquiry e JOIN account p ON p.id = e.by_id WHERE e.round_id = $1 AND e.by_id = $2 ORDER BY e.id`, roundID, account)
	return out, err
}
