// Package reference asks the people who answer for an application by a link:
// referees, who write, and signatories, who confirm one thing. They have no
// account; a personal link shows what is asked. A letter that was put up is not
// sent until whoever wrote it sends it, and every list says so.
package reference

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"strconv"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/request"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Referee is one request: for a letter, or for a confirmation.
type Referee struct {
	ID         int64
	EntryID    int64 `db:"entry_id"`
	AppID      int64 `db:"application_id"`
	Question   form.Key
	Name       string
	Email      string
	Knows      string
	State      form.LetterState
	StateAt    time.Time `db:"state_at"`
	Letter     string
	LetterFile *int64 `db:"letter_file"` // the first of its pages
	Dated      *time.Time
	YearsFrom  int `db:"years_from"`
	YearsTo    int `db:"years_to"`
	Paper      bool
	Version    int
	RemindedAt *time.Time `db:"reminded_at"`

	Waived      *bool // sight of the letter given up; nil: not asked
	Contact     *bool // the office may get in touch; nil: not asked
	Reminders   int   // in whatever way
	Until       *time.Time
	WhyNot      string           `db:"why_not"`
	Instead     string           // whom they suggest
	Theirs      json.RawMessage  // what they answered themselves
	Confirmed   *json.RawMessage // what they confirmed, as it stood
	Fingerprint string
	Arrived     *time.Time // by post
	EnteredBy   *int64     `db:"entered_by"`
	Reused      *int64
	PostID      *int64     `db:"post_id"`
	BouncedAt   *time.Time `db:"bounced_at"`
	Bounce      string
}

const columns = `id, entry_id, application_id, question, name, email, knows, state, state_at, letter, letter_file, dated, years_from, years_to, paper, version, reminded_at, ` +
	`waived, contact, reminders, until, why_not, instead, theirs, confirmed, fingerprint, arrived, entered_by, reused, post_id, bounced_at, bounce`

// Dating is the day on the letter and the years it speaks of.
func (r Referee) Dating() form.Dating {
	d := form.Dating{From: r.YearsFrom, To: r.YearsTo}
	if r.Dated != nil {
		d.Dated = calendar.DateOf(*r.Dated, time.UTC)
	}
	return d
}

// Sent reports an answer that is in.
func (r Referee) Sent() bool { return r.State == form.SentIn }

// Awaited reports an answer that is awaited from the person.
func (r Referee) Awaited() bool { return request.Awaited(r.State) }

// Bounced reports that the mail which asked them came back, and nothing was
// heard of them since.
func (r Referee) Bounced() bool { return r.BouncedAt != nil && r.State == form.Asked }

// Due is until when the answer is taken: by its date or the closing, or later
// by leave of the office.
func (r Referee) Due(f *form.Form, c application.Case) time.Time {
	due := f.Due(f.Question(r.Question), c.Window(f).Closes)
	if r.Until != nil && r.Until.After(due) {
		return *r.Until
	}
	return due
}

// Reminding is what a reminder to the person hangs on.
func (r Referee) Reminding(f *form.Form, c application.Case) request.Reminding {
	x := request.Reminding{
		State: r.State,
		Since: r.StateAt,
		Had:   r.Reminders,
		Most:  form.MostReminders,
		Due:   r.Due(f, c),
	}
	if r.RemindedAt != nil {
		x.Last = *r.RemindedAt
	}
	if q := f.Question(r.Question); q != nil {
		x.Most = q.Ask.RemindersOf()
	}
	return x
}

// Answers are what the person answered themselves.
func (r Referee) Answers() map[form.Place]form.Answer {
	var list []theirs
	out := map[form.Place]form.Answer{}
	if json.Unmarshal(r.Theirs, &list) == nil {
		for _, a := range list {
			out[a.Place] = form.Answer{Raw: a.Value, Non: a.Non}
		}
	}
	return out
}

// theirs is one answer of a person, as it is kept.
type theirs struct {
	form.Place
	Value string         `json:"value"`
	Non   form.NonAnswer `json:"non,omitempty"`
}

// Bounds of a letter.
const (
	MostWords = 1500
	MostSize  = int64(6 << 20)
	MostPages = 12 // files of one letter
)

// Store of requests.
type Store struct {
	DB        *db.DB
	Cases     *application.Store
	Materials *material.Store
	Post      *post.Office
	Links     link.Maker
	Jobs      *jobs.Queue
	Later     *round.Later
	LinkLife  time.Duration
}

// Came is the job that follows an answer which came after the application was
// sent; who checks takes it up.
type Came struct {
	Entry int64 `json:"entry"`
}

// Kind names the job.
func (Came) Kind() string { return "check.letters" }

// Errors that people can do something about.
var (
	ErrNotFound = refusal.Missing("there is no such request for a letter")
	ErrClosed   = refusal.New("the round has closed or the application was sent").But("nothing more can be changed")
	ErrEmpty    = refusal.New("write the letter or put up a file first")
	ErrTooLong  = refusal.Newf("the letter is longer than %d words; shorten it, or put it up as a file", MostWords)
	ErrFullUp   = refusal.New("as many are named already as can be").But("withdraw a request before you name another")
	ErrIsIn     = refusal.New("the letter is sent already")
)

// ErrStale: another tab or a reply that was lost changed it meanwhile.
var ErrStale = refusal.New("the letter was changed in another window since this page was drawn").
	But("what you typed is below, compare and send it again")

// open locks a case in which a question can still be answered.
func (s *Store) open(ctx context.Context, tx *db.Tx, c application.Case, question form.Key) (application.Case,
	*form.Form, error) {
	w, err := s.Cases.Open(ctx, tx, c, true)
	if errors.Is(err, application.ErrNotDraft) || errors.Is(err, application.ErrClosed) {
		err = ErrClosed
	}
	if err == nil && !w.Takes(question) {
		err = application.ErrNotReopened
	}
	return w.Case, w.Form, err
}

// naming locks a case in which somebody can be named for a question: while it is
// written, and after it was sent until the question's own date where that is later.
func (s *Store) naming(ctx context.Context, tx *db.Tx, c application.Case, question form.Key) (application.Case,
	*form.Form, error) {
	c, f, err := s.open(ctx, tx, c, question)
	if err == nil || f == nil || !Afterwards(c) {
		return c, f, err
	}
	if q := f.Question(question); q != nil && q.AsksPeople() && f.Follows(q) &&
		tx.At.Before(f.Due(q, c.Window(f).Closes)) {
		return c, f, nil
	}
	return c, f, err
}

// Afterwards reports a case that was sent and is not decided: what may come
// after the closing is taken for it.
func Afterwards(c application.Case) bool {
	return c.State.Is(lifecycle.In) && !c.State.Is(lifecycle.Decided|lifecycle.Ended)
}

// Takes reports whether a person's answer is taken at a moment, for a case as
// it stands; writable says that its applicant can write it then.
func (r Referee) Takes(f *form.Form, c application.Case, writable bool, at time.Time) bool {
	q := f.Question(r.Question)
	switch {
	case q == nil || !at.Before(r.Due(f, c)):
		return false
	case writable:
		return true
	}
	return Afterwards(c) && (f.Follows(q) || r.Until != nil)
}

// forReferee locks a case and a request whose answer is taken now.
func (s *Store) forReferee(ctx context.Context, tx *db.Tx, id int64) (Referee, application.Case, *form.Form, error) {
	r, c, err := s.Load(ctx, tx, id)
	if err != nil {
		return r, c, nil, err
	}
	c, f, err := s.open(ctx, tx, c, r.Question)
	if err != nil && (f == nil || !r.Takes(f, c, false, tx.At)) {
		return r, c, f, err
	}
	if err == nil && !r.Takes(f, c, true, tx.At) {
		return r, c, f, ErrClosed
	}
	err = tx.GetContext(ctx, &r, `SELECT `+columns+` FROM referee WHERE id = $1 FOR UPDATE`, id)
	if err == nil && r.State == form.Replaced {
		err = ErrNotFound
	}
	return r, c, f, err
}

// change a request's state, with trail and standing.
func (s *Store) change(
	ctx context.Context,
	tx *db.Tx,
	c application.Case,
	f *form.Form,
	r Referee,
	to form.LetterState,
	verb say.Verb,
) error {
	r.State, r.StateAt = to, tx.At
	if _, err := tx.ExecContext(ctx,
		`UPDATE referee SET state = $2, state_at = $3, next_at = $4, version = version + 1 WHERE id = $1`,
		r.ID, to, tx.At, next(r, f, c)); err != nil {
		return err
	}
	if err := s.note(ctx, tx, c, verb, r.ID); err != nil {
		return err
	}
	return s.refresh(ctx, tx, c)
}

// refresh says in lists how the case stands, and has its checks look again where
// it was sent before.
func (s *Store) refresh(ctx context.Context, tx *db.Tx, c application.Case) error {
	if c.State.Is(lifecycle.In) && !c.State.Open() {
		return s.Jobs.Enqueue(ctx, tx, Came{c.EntryID}, tx.At)
	}
	_, err := s.Cases.Refresh(ctx, tx, c)
	return err
}

// next is when the person is reminded next; nil when they are not.
func next(r Referee, f *form.Form, c application.Case) *time.Time {
	if r.Email == "" || r.Bounced() {
		return nil
	}
	if at, ok := r.Reminding(f, c).Next(); ok {
		return &at
	}
	return nil
}

func (s *Store) note(ctx context.Context, tx *db.Tx, c application.Case, verb say.Verb, referee int64) error {
	return s.noteAll(ctx, tx, c, verb, referee, map[string]string{})
}

// noteAll is note with more figures.
func (s *Store) noteAll(ctx context.Context, tx *db.Tx, c application.Case, verb say.Verb, referee int64,
	figures map[string]string) error {
	figures["referee"] = strconv.FormatInt(referee, 10)
	return trail.Write(ctx, tx, verb, c.ID, c.RoundID, figures)
}

// Load a request and the case.
func (s *Store) Load(ctx context.Context, q db.Querier, id int64) (Referee, application.Case, error) {
	r, err := s.find(ctx, q, id)
	if err != nil {
		return r, application.Case{}, err
	}
	c, err := s.Cases.ByEntry(ctx, q, r.EntryID)
	return r, c, err
}

// In loads a request of a case; another's is not found.
func (s *Store) In(ctx context.Context, q db.Querier, c application.Case, id int64) (Referee, error) {
	r, err := s.find(ctx, q, id)
	if err == nil && r.EntryID != c.EntryID {
		err = ErrNotFound
	}
	return r, err
}

func (s *Store) find(ctx context.Context, q db.Querier, id int64) (r Referee, err error) {
	err = q.GetContext(ctx, &r, `SELECT `+columns+` FROM referee WHERE id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return r, err
}

// Of lists the requests of an entry, those replaced too.
func (s *Store) Of(ctx context.Context, q db.Querier, entry int64) (out []Referee, err error) {
	err = q.SelectContext(ctx, &out, `SELECT `+columns+` FROM referee WHERE entry_id = $1 ORDER BY id`, entry)
	return out, err
}

// Part is an entry's requests, in the order they were made, as a walk reads them.
var Part = application.Part{
	JSON: `(SELECT COALESCE(json_agg(json_build_object('Question', question, 'Name', name, 'State', state, 'StateAt', state_at, 'BouncedAt', bounced_at, 'Fingerprint', fingerprint) ORDER BY id), '[]') FROM referee WHERE referee.entry_id = e.id)`,
	Fill: func(raw []byte, filled *form.Filled) error {
		var list []Referee
		err := json.Unmarshal(raw, &list)
		filled.Referees = map[form.Key][]form.RefereeStanding{}
		for _, r := range list {
			filled.Referees[r.Question] = append(filled.Referees[r.Question], form.RefereeStanding{Name: r.Name,
				Letter: r.State, Since: calendar.DateOf(r.StateAt, time.UTC), Bounced: r.Bounced(), Fingerprint: r.Fingerprint})
		}
		return err
	},
}

// Late keeps that a referee tried to send a letter after it could be taken:
// what an officer sees who thinks of taking one late.
func (s *Store) Late(ctx context.Context, tx *db.Tx, id int64) error {
	r, c, err := s.Load(ctx, tx, id)
	if err != nil {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	late := tx.At.Sub(r.Due(f, c))
	if late <= 0 || r.State == form.SentIn ||
		r.State == form.Replaced { // it was sent by the applicant, or done with, before its time was over
		return nil
	}
	var again bool // pressed once more within the minute
	if err := tx.GetContext(ctx, &again,
		`SELECT EXISTS (SELECT FROM trail WHERE application_id = $1 AND verb = 'late-letter' AND figures->>'referee' = $2 AND at > $3)`,
		c.ID, strconv.FormatInt(id, 10), tx.At.Add(-time.Minute)); err != nil || again {
		return err
	}
	return s.noteAll(
		ctx,
		tx,
		c,
		"late-letter",
		id,
		map[string]string{"late": strconv.FormatInt(late.Milliseconds(), 10)},
	)
}
