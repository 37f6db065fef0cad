package application

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
)

// Query is the office's question to one applicant: some answers of what was
// sent can be changed until a day, and nothing else.
type Query struct {
	ID        int64
	EntryID   int64     `db:"entry_id"`
	AskedAt   time.Time `db:"asked_at"`
	ByID      int64     `db:"by_id"`
	Text      string
	Questions pq.StringArray
	DueAt     time.Time `db:"due_at"`
	SealID    int64     `db:"seal_id"` // as it stood when it was asked
	Ended     Ended
	EndedAt   *time.Time `db:"ended_at"`
	Reply     string
	SeenAt    *time.Time `db:"seen_at"` // when the office put the answer aside
}

// Keys of the questions that it reopens.
func (q Query) Keys() []form.Key {
	out := make([]form.Key, 0, len(q.Questions))
	for _, k := range q.Questions {
		out = append(out, form.Key(k))
	}
	return out
}

// Ended says how a query came to its end.
type Ended string

// The ends; "" is open.
const (
	Answered  Ended = "answered"
	TakenBack Ended = "taken back"
	RanOut    Ended = "ran out"
)

const queryColumns = `id, entry_id, asked_at, by_id, text, questions, due_at, seal_id, ended, ended_at, reply, seen_at`

// Bounds of a query.
const (
	MostQueryText = 4000 // bytes
	MostQueryDays = 60   // working days until it is due
)

// OpenQuery of an entry; ErrNotFound when none is open.
func (s *Store) OpenQuery(ctx context.Context, q db.Querier, entry int64) (out Query, err error) {
	err = q.GetContext(ctx, &out, `SELECT `+queryColumns+` FROM query WHERE entry_id = $1 AND ended = ''`, entry)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return out, err
}

// Queries of an entry, the latest first.
func (s *Store) Queries(ctx context.Context, q db.Querier, entry int64) (out []Query, err error) {
	err = q.SelectContext(ctx, &out, `SELECT `+queryColumns+` FROM query WHERE entry_id = $1 ORDER BY id DESC`, entry)
	return out, err
}

// Ask hands an application back: the applicant can answer the named questions
// again, until a number of working days is over, and is told so by mail.
func (s *Store) Ask(ctx context.Context, tx *db.Tx, c Case, text string, questions []form.Key, days int) (Query,
	error) {
	text = strings.TrimSpace(text)
	switch {
	case text == "" || len(text) > MostQueryText:
		return Query{}, refusal.Unfit("Say what you need to know, in up to 4,000 characters.")
	case days < 1 || days > MostQueryDays:
		return Query{}, refusal.Unfit("Give them from 1 to 60 working days.")
	case len(questions) == 0:
		return Query{}, refusal.Unfit("Tick at least one question that they may answer again.")
	}
	c, err := s.Lock(ctx, tx, c, false)
	if err != nil {
		return Query{}, err
	}
	if c.SealID == nil {
		return Query{}, refusal.Unfit("It is not sent yet").But("there is nothing to hand back.")
	}
	f, err := s.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return Query{}, err
	}
	sealed, err := s.Sealed(ctx, tx, *c.SealID)
	if err != nil {
		return Query{}, err
	}
	path, keys := f.Walk(sealed.Decoded.Filled(c.LeadName)), pq.StringArray{}
	for _, k := range questions {
		if st := path.Find(k); st == nil || st.Asked != condition.Yes {
			return Query{}, refusal.Unfit("One of the questions is not part of this application.")
		}
		keys = append(keys, string(k))
	}
	if c.State.Is(lifecycle.TurnedDown) { // its refusal must not go out meanwhile
		if _, err := s.Post.CancelOf(ctx, tx, c.ID, "not-eligible"); err != nil {
			return Query{}, err
		}
	}
	due := dueAfter(tx.At, days, f)
	var q Query
	if err := tx.GetContext(ctx, &q, `
		INSERT INTO query (entry_id, asked_at, by_id, text, questions, due_at, seal_id) VALUES ($1, $2, $3, $4, $5, $6, $7) ON CONFLICT DO NOTHING RETURNING `+queryColumns,
		c.EntryID, tx.At, tx.By.ID, text, keys, due, *c.SealID); err != nil {
		if errors.Is(err, sql.ErrNoRows) {
			return q, refusal.Unfit("A query is open already. Take it back first, or wait for the answer.")
		}
		return q, err
	}
	if c, err = s.ByEntry(ctx, tx, c.EntryID); err != nil {
		return q, err
	}
	if _, _, err := s.Transition(ctx, tx, c, lifecycle.HandBack,
		map[string]string{"questions": strconv.Itoa(len(keys)), "due": strconv.FormatInt(due.Unix(), 10)}); err != nil {
		return q, err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "query", Account: c.LeadID, Application: c.ID, Round: c.RoundID,
		To: c.LeadEmail, ToName: c.LeadName, ReplyTo: f.Design.Contact,
		Subject: "A question about “" + c.Title + "”",
		Body: fmt.Sprintf("Dear %s,\n\nabout “%s” (%s) in %s we need to know:\n\n%s\n\nWe have opened these questions "+
			"for you again: %s. Everything else stays as you sent it.\n\nSign in, answer, and press “Send it back” by %s. If we do not hear from you by then, we go on with what you sent.\n",
			c.LeadName, c.Title, c.Ref, c.RoundName, text, labels(f, questions), calendar.WallOf(due, f.Zone).Words())})
	return q, err
}

// dueAfter is the end of the day so many working days from now, to the second.
func dueAfter(at time.Time, days int, f *form.Form) time.Time {
	day := calendar.AddWorkingDays(calendar.DateOf(at, f.Zone), days, f.Off)
	t, _ := calendar.At(day, 17, 0).In(f.Zone)
	return t
}

func labels(f *form.Form, keys []form.Key) string {
	var out []string
	for _, k := range keys {
		if q := f.Question(k); q != nil {
			out = append(out, "“"+q.Label+"”")
		}
	}
	return strings.Join(out, ", ")
}

// EndQuery closes the open query of an entry, with the applicant's own words.
func (s *Store) EndQuery(ctx context.Context, tx *db.Tx, entry int64, how Ended, reply string) (q Query, err error) {
	err = tx.GetContext(ctx, &q,
		`UPDATE query SET ended = $2, ended_at = $3, reply = $4 WHERE entry_id = $1 AND ended = '' RETURNING `+queryColumns,
		entry, how, tx.At, reply)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return q, err
}

// SeeQuery puts an answered query aside: the office has read the answer.
func (s *Store) SeeQuery(ctx context.Context, tx *db.Tx, entry, id int64) error {
	_, err := tx.ExecContext(ctx,
		`UPDATE query SET seen_at = $3 WHERE id = $2 AND entry_id = $1 AND ended = 'answered' AND seen_at IS NULL`, entry,
		id, tx.At)
	return err
}

// DueQueries lists the entries whose query ran out by a time.
func (s *Store) DueQueries(ctx context.Context, at time.Time) (entries []int64, err error) {
	err = s.DB.SelectContext(ctx, &entries,
		`SELECT entry_id FROM query WHERE ended = '' AND due_at <= $1 ORDER BY due_at`, at)
	return entries, err
}
