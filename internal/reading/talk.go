package reading

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// Talk is a discussion between the readers of a case. It is opened when all of them
// have sent: each then sees what the others gave at first, and may change their own,
// which are kept beside the first.
type Talk struct {
	OpenedAt time.Time `db:"opened_at"`
	Why      string
	Said     []Said  `db:"-"`
	First    []First `db:"-"`
}

// Said is one thing that a reader says.
type Said struct {
	Account int64 `db:"account_id"`
	At      time.Time
	Text    string
}

// First is what a reader gave before the discussion.
type First struct {
	Account int64
	Marks   map[form.Key]int
	Note    string // to the panel
}

// ErrNoTalk: none is open.
var ErrNoTalk = refusal.Missing("nobody has opened a discussion of this case")

// OpenTalk has the readers of a case talk it over, with the reason that they are told.
func (s *Store) OpenTalk(ctx context.Context, tx *db.Tx, c application.Case, why string) error {
	if why = strings.TrimSpace(why); why == "" || len(why) > 1000 {
		return refusal.In("why", "Say what they are to talk over, in up to 1,000 characters; they are told it.")
	}
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	given, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	if len(given) < 2 {
		return refusal.Unfit("fewer than two have read it").But("there is nobody to talk with")
	}
	for _, g := range given {
		if g.SentAt == nil {
			return refusal.Unfit("not all of them have sent their marks").But("open it when they have: nobody sees another’s marks before")
		}
	}
	if _, err := lifecycle.Next(c.State, lifecycle.TakeBack, true); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO talk (entry_id, opened_at, by_id, why) VALUES ($1, $2, $3, $4)
		ON CONFLICT (entry_id) DO UPDATE SET opened_at = $2, by_id = $3, why = $4`, c.EntryID, tx.At, tx.By.ID, why); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO mark_before (entry_id, account_id, at, by_id, why, marks)
		SELECT g.entry_id, g.account_id, $2, $3, $4, jsonb_build_object('note', g.note, 'marks',
		  COALESCE((SELECT jsonb_object_agg(m.criterion, m.value) FROM mark m WHERE m.entry_id = g.entry_id AND m.account_id = g.account_id), '{}'))
		FROM assignment g WHERE g.entry_id = $1`, c.EntryID, tx.At, tx.By.ID, why); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE assignment SET sent_at = NULL, reopened_at = $2, reopened_why = $3, version = version + 1 WHERE entry_id = $1`, c.EntryID, tx.At,
		why); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "talk-opened", c.ID, c.RoundID, map[string]string{"why": why}); err != nil {
		return err
	}
	title, err := s.titleFor(ctx, tx, c)
	if err != nil {
		return err
	}
	for _, g := range given {
		var email string
		if err := tx.GetContext(ctx, &email, `SELECT email FROM account WHERE id = $1`, g.AccountID); err != nil {
			return err
		}
		subject, body := say.TalkOpened(g.Name, title, why, s.Post.Name())
		if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "talk-opened", Account: g.AccountID, Round: c.RoundID,
			To: email, ToName: g.Name,
			Subject: subject, Body: body + "\n" + s.Post.BaseURL + "/reading/" + c.Ref + "\n"}); err != nil {
			return err
		}
	}
	_, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.TakeBack, nil)
	return err
}

// titleFor is how a case is called to its readers: what somebody calls their work may
// say who they are.
func (s *Store) titleFor(ctx context.Context, tx *db.Tx, c application.Case) (string, error) {
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return "", err
	}
	if f.Design.HideNames {
		return c.Ref, nil
	}
	return c.Title, nil
}

// SayInTalk adds what a reader of the case says, while it is open.
func (s *Store) SayInTalk(ctx context.Context, tx *db.Tx, c application.Case, text string) error {
	if text = strings.TrimSpace(text); text == "" || len(text) > 4000 {
		return refusal.In("said", "Write something, in up to 4,000 characters.")
	}
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	if _, err := s.Find(ctx, tx, c.EntryID, tx.By.ID); err != nil {
		return err
	}
	if !c.State.Is(lifecycle.BeingRead) {
		return ErrNoTalk
	}
	res, err := tx.ExecContext(ctx, `
		INSERT INTO talk_said (entry_id, account_id, at, text) SELECT t.entry_id, $2, $3, $4 FROM talk t
		WHERE t.entry_id = $1 AND EXISTS (SELECT FROM mark_before b WHERE b.entry_id = t.entry_id AND b.account_id = $2 AND b.at = t.opened_at)`, c.EntryID, tx.By.ID,
		tx.At, text)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNoTalk
	}
	return nil
}

// TalkOf a case; ErrNoTalk when there was none.
func (s *Store) TalkOf(ctx context.Context, q db.Querier, entry int64) (t Talk, err error) {
	err = q.GetContext(ctx, &t, `SELECT opened_at, why FROM talk WHERE entry_id = $1`, entry)
	if errors.Is(err, sql.ErrNoRows) {
		return t, ErrNoTalk
	}
	if err != nil {
		return t, err
	}
	if err := q.SelectContext(ctx, &t.Said, `SELECT account_id, at, text FROM talk_said WHERE entry_id = $1 ORDER BY id`,
		entry); err != nil {
		return t, err
	}
	t.First, err = s.firstMarks(ctx, q, entry, t.OpenedAt)
	return t, err
}

// firstMarks are what the readers of a case gave before a moment.
func (s *Store) firstMarks(ctx context.Context, q db.Querier, entry int64, at time.Time) (out []First, err error) {
	var rows []struct {
		Account int64 `db:"account_id"`
		Raw     []byte
	}
	if err := q.SelectContext(ctx, &rows, `
		SELECT account_id, marks AS raw FROM mark_before WHERE entry_id = $1 AND at = $2 ORDER BY account_id`, entry, at); err != nil {
		return nil, err
	}
	for _, r := range rows {
		var x struct {
			Marks map[form.Key]int
			Note  string
		}
		if err := json.Unmarshal(r.Raw, &x); err != nil {
			return nil, err
		}
		out = append(out, First{r.Account, x.Marks, x.Note})
	}
	return out, nil
}
