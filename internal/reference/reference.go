// Package reference asks referees for letters. A referee has no account: a
// personal link shows what is asked. A letter that was put up is not sent
// until the referee sends it, and every list says so.
package reference

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// Referee is one request for a letter.
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
	LetterFile *int64 `db:"letter_file"`
	Dated      *time.Time
	YearsFrom  int `db:"years_from"`
	YearsTo    int `db:"years_to"`
	Paper      bool
	Version    int
	RemindedAt *time.Time `db:"reminded_at"`
}

const columns = `id, entry_id, application_id, question, name, email, knows, state, state_at, letter, letter_file, dated, years_from, years_to, paper, version, reminded_at`

// Dating is the day on the letter and the years it speaks of.
func (r Referee) Dating() form.Dating {
	d := form.Dating{From: r.YearsFrom, To: r.YearsTo}
	if r.Dated != nil {
		d.Dated = calendar.DateOf(*r.Dated, time.UTC)
	}
	return d
}

// Bounds of a letter.
const (
	MostWords = 1500
	MostSize  = int64(6 << 20)
)

// Store of referees.
type Store struct {
	DB        *db.DB
	Cases     *application.Store
	Materials *material.Store
	Post      *post.Office
	Links     link.Maker
	LinkLife  time.Duration
}

// Errors that people can do something about.
var (
	ErrNotFound = refusal.Missing("there is no such request for a letter")
	ErrClosed   = refusal.New("the round has closed or the application was sent").But("nothing more can be changed")
	ErrEmpty    = refusal.New("write the letter or put up a file first")
	ErrTooLong  = refusal.Newf("the letter is longer than %d words; shorten it, or put it up as a file", MostWords)
	ErrFullUp   = refusal.New("as many are named already as can be").But("withdraw a request before you name another")
)

// ErrStale: another tab or a reply that was lost changed it meanwhile.
var ErrStale = refusal.New("the letter was changed in another window since this page was drawn").But("what you typed is below, compare and send it again")

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

// Name a referee for a draft and ask them at once.
func (s *Store) Name(ctx context.Context, tx *db.Tx, c application.Case, question form.Key, name, email,
	knows string) (int64, error) {
	if err := people.CheckName(name); err != nil {
		return 0, refusal.In("name", "Give the referee’s name.")
	}
	if err := people.CheckEmail(email); err != nil {
		return 0, err
	}
	if strings.TrimSpace(knows) == "" || len(knows) > 400 {
		return 0, refusal.In("knows", "Say in a few words how they know you, or what it is about.")
	}
	c, f, err := s.open(ctx, tx, c, question)
	if err != nil {
		return 0, err
	}
	if people.Fold(email) == people.Fold(c.LeadEmail) {
		return 0, refusal.In("email", "This is your own address. Somebody else must vouch for you.")
	}
	q := f.Question(question)
	if q == nil || !q.AsksPeople() {
		return 0, ErrNotFound
	}
	if err := s.room(ctx, tx, c, q, email); err != nil {
		return 0, err
	}
	var id int64
	if err := tx.QueryRowxContext(ctx, `
		INSERT INTO referee (entry_id, application_id, question, name, email, knows, state, state_at) VALUES (@entry_id, @application_id, @question, @name, @email, @knows, @state, @state_at) RETURNING id`,
		db.Named{"entry_id": c.EntryID, "application_id": c.ID, "question": question, "name": strings.TrimSpace(name),
			"email": people.Fold(email),
			"knows": strings.TrimSpace(knows), "state": form.ToAsk, "state_at": tx.At}).Scan(&id); err != nil {
		return 0, err
	}
	if err := s.note(ctx, tx, c, "named-referee", id); err != nil {
		return 0, err
	}
	r, err := s.find(ctx, tx, id)
	if err != nil {
		return 0, err
	}
	return id, s.ask(ctx, tx, c, f, r)
}

// room is made for one more: who declined is replaced; ErrFullUp when as many
// stand as can.
func (s *Store) room(ctx context.Context, tx *db.Tx, c application.Case, q *form.Question, email string) error {
	list, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	most, standing := q.Limits.Else.Referees, 0
	for _, w := range q.Limits.When {
		most = max(most, w.Then.Referees)
	}
	for _, r := range list {
		if r.Question == q.Key && r.State != form.Replaced && r.State != form.Declined {
			standing++
			if email != "" && r.Email == people.Fold(email) {
				return refusal.In("email", "This person has been asked already.")
			}
		}
	}
	if standing >= max(most, 1) {
		return ErrFullUp
	}
	_, err = tx.ExecContext(ctx,
		`UPDATE referee SET state = 'replaced', state_at = $3 WHERE entry_id = $1 AND question = $2 AND state = 'declined'`,
		c.EntryID, q.Key, tx.At)
	return err
}

func (s *Store) ask(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, r Referee) error {
	l, err := s.Links.Issue(ctx, tx, link.Referee, r.ID, s.LinkLife)
	if err != nil {
		return err
	}
	closes := calendar.WallOf(c.Window(f).Closes, f.Zone)
	subject, wants := " asks you for a letter: “", "a short letter, written in a box or put up as a PDF."
	if q := f.Question(r.Question); q != nil && q.Ask != nil && q.Ask.Wants != "" {
		wants = q.Ask.Wants
		if q.Confirms() {
			subject, wants = " asks you to confirm something for “", "to confirm that "+q.Ask.Wants
		}
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "referee-asked", Application: c.ID, Round: c.RoundID, To: r.Email,
		ToName: r.Name, ReplyTo: c.LeadEmail, Link: l,
		Subject: c.LeadName + subject + c.Title + "”",
		Body: fmt.Sprintf("Dear %s,\n\n%s is applying to %s for “%s” and has named you as somebody who can vouch for "+
			"it.\n\nWhat is asked: %s You need no account. This link is yours alone:\n\n%s\n\nIt is needed by %s. If you cannot do it, say so there, so that somebody else can be asked.\n\n%s\n",
			r.Name, c.LeadName, c.RoundName, c.Title, wants, post.LinkMark, closes.Words(), s.Post.Name)})
	if err != nil {
		return err
	}
	return s.change(ctx, tx, c, r, form.Asked, "asked-referee")
}

// change a referee's state, with trail and standing.
func (s *Store) change(ctx context.Context, tx *db.Tx, c application.Case, r Referee, to form.LetterState,
	verb say.Verb) error {
	if _, err := tx.ExecContext(ctx, `UPDATE referee SET state = $2, state_at = $3, version = version + 1 WHERE id = $1`,
		r.ID, to, tx.At); err != nil {
		return err
	}
	if err := s.note(ctx, tx, c, verb, r.ID); err != nil {
		return err
	}
	_, err := s.Cases.Refresh(ctx, tx, c)
	return err
}

func (s *Store) note(ctx context.Context, tx *db.Tx, c application.Case, verb say.Verb, referee int64) error {
	return trail.Write(ctx, tx, verb, c.ID, c.RoundID, map[string]string{"referee": strconv.FormatInt(referee, 10)})
}

// Confirm is a signatory's one word: what is asked is confirmed and sent.
func (s *Store) Confirm(ctx context.Context, tx *db.Tx, id int64, what string) error {
	r, c, err := s.Load(ctx, tx, id)
	if err != nil {
		return err
	}
	if c, _, err = s.open(ctx, tx, c, r.Question); err != nil {
		return err
	}
	if r.State == form.SentIn {
		return nil
	}
	if _, err := tx.ExecContext(ctx, `UPDATE referee SET letter = $2 WHERE id = $1`, id, "Confirmed: "+what); err != nil {
		return err
	}
	return s.change(ctx, tx, c, r, form.SentIn, "referee-sent")
}

// Replace withdraws a request; its link no longer works.
func (s *Store) Replace(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	r, err := s.find(ctx, tx, id)
	if err != nil || r.EntryID != c.EntryID || r.State == form.Replaced {
		return ErrNotFound
	}
	if c, _, err = s.open(ctx, tx, c, r.Question); err != nil {
		return err
	}
	if _, err := s.Links.Issue(ctx, tx, link.Referee, r.ID, 0); err != nil {
		return err
	}
	return s.change(ctx, tx, c, r, form.Replaced, "referee-replaced")
}

// Load a referee and the case.
func (s *Store) Load(ctx context.Context, q db.Querier, id int64) (Referee, application.Case, error) {
	r, err := s.find(ctx, q, id)
	if err != nil {
		return r, application.Case{}, err
	}
	c, err := s.Cases.ByEntry(ctx, q, r.EntryID)
	return r, c, err
}

func (s *Store) find(ctx context.Context, q db.Querier, id int64) (r Referee, err error) {
	err = q.GetContext(ctx, &r, `SELECT `+columns+` FROM referee WHERE id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return r, err
}

// Of lists the referees of an entry, those replaced too.
func (s *Store) Of(ctx context.Context, q db.Querier, entry int64) (out []Referee, err error) {
	err = q.SelectContext(ctx, &out, `SELECT `+columns+` FROM referee WHERE entry_id = $1 ORDER BY id`, entry)
	return out, err
}

// Part is an entry's referees, in the order they were named, as a walk reads them.
var Part = application.Part{
	JSON: `(SELECT COALESCE(json_agg(json_build_object('Question', question, 'Name', name, 'State', state, 'StateAt', state_at) ORDER BY id), '[]') FROM referee WHERE referee.entry_id = e.id)`,
	Fill: func(raw []byte, filled *form.Filled) error {
		var list []Referee
		err := json.Unmarshal(raw, &list)
		filled.Referees = map[form.Key][]form.RefereeStanding{}
		for _, r := range list {
			filled.Referees[r.Question] = append(filled.Referees[r.Question],
				form.RefereeStanding{Name: r.Name, Letter: r.State, Since: calendar.DateOf(r.StateAt, time.UTC)})
		}
		return err
	},
}

// Answer says yes or no to the request.
func (s *Store) Answer(ctx context.Context, tx *db.Tx, id int64, yes bool) error {
	r, c, err := s.forReferee(ctx, tx, id)
	if err != nil {
		return err
	}
	switch {
	case yes && (r.State == form.Asked || r.State == form.Declined):
		return s.change(ctx, tx, c, r, form.Accepted, "referee-accepted")
	case !yes && r.State != form.Declined && r.State != form.SentIn:
		if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "letter-declined", Account: c.LeadID, Application: c.ID,
			Round: c.RoundID, To: c.LeadEmail, ToName: c.LeadName,
			Subject: r.Name + " cannot do it", Body: "Dear " + c.LeadName + ",\n\n" + r.Name + ", whom you asked for “" +
				c.Title + "” (" + c.RoundName +
				"), says that they cannot do it. Ask somebody else, beside the question in your application; until then it stands in the way of sending.\n"}); err != nil {
			return err
		}
		return s.change(ctx, tx, c, r, form.Declined, "referee-declined")
	}
	return nil
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
	late := tx.At.Sub(c.Window(f).Closes)
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
	return trail.Write(ctx, tx, "late-letter", c.ID, c.RoundID,
		map[string]string{"referee": strconv.FormatInt(id, 10), "late": strconv.FormatInt(late.Milliseconds(), 10)})
}

func (s *Store) forReferee(ctx context.Context, tx *db.Tx, id int64) (Referee, application.Case, error) {
	r, c, err := s.Load(ctx, tx, id)
	if err != nil {
		return r, c, err
	}
	c, _, err = s.open(ctx, tx, c, r.Question)
	if err != nil {
		return r, c, err
	}
	err = tx.GetContext(ctx, &r, `SELECT `+columns+` FROM referee WHERE id = $1 FOR UPDATE`, id)
	if err == nil && r.State == form.Replaced {
		err = ErrNotFound
	}
	return r, c, err
}

// Keep a letter that is being written, with its day and years where they are
// asked; version is the one the page was drawn with.
func (s *Store) Keep(ctx context.Context, tx *db.Tx, id int64, version int, text string, d form.Dating) error {
	r, c, err := s.forReferee(ctx, tx, id)
	switch {
	case err != nil:
		return err
	case r.State == form.SentIn:
		return refusal.New("the letter is sent already")
	case r.Letter == text && r.Dating() == d:
		return nil
	case r.Version != version:
		return ErrStale
	}
	if say.TooManyWords(text, MostWords) {
		return ErrTooLong
	}
	var dated *string
	if !d.Dated.IsZero() {
		iso := d.Dated.String()
		dated = &iso
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE referee SET letter = $2, dated = $3, years_from = $4, years_to = $5 WHERE id = $1`, id, text, dated, d.From,
		d.To); err != nil {
		return err
	}
	if strings.TrimSpace(text) == "" && r.LetterFile == nil { // the day alone is no letter
		_, err := tx.ExecContext(ctx, `UPDATE referee SET version = version + 1 WHERE id = $1`, id)
		return err
	}
	return s.putUp(ctx, tx, c, r)
}

func (s *Store) putUp(ctx context.Context, tx *db.Tx, c application.Case, r Referee) error {
	if r.State == form.Uploaded {
		_, err := tx.ExecContext(ctx, `UPDATE referee SET version = version + 1, state_at = $2 WHERE id = $1`, r.ID, tx.At)
		return err
	}
	return s.change(ctx, tx, c, r, form.Uploaded, "referee-uploaded")
}

// PutFile puts a letter up as a PDF.
func (s *Store) PutFile(ctx context.Context, by db.Actor, at time.Time, id int64, name string, size int64,
	body io.Reader) (material.File, error) {
	f, err := s.Materials.Put(ctx, by, at, material.Owner{Referee: id, Slot: "letter"}, name, size, MostSize, body)
	if err != nil || f.State == slot.Refused {
		return f, err
	}
	return f, s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		r, c, err := s.forReferee(ctx, tx, id)
		if err != nil {
			return err
		}
		if r.State == form.SentIn {
			return refusal.New("the letter is sent already")
		}
		if _, err := tx.ExecContext(ctx, `UPDATE referee SET letter_file = $2 WHERE id = $1`, id, f.ID); err != nil {
			return err
		}
		return s.putUp(ctx, tx, c, r)
	})
}

// Send the letter: from here on it counts, and cannot be changed.
func (s *Store) Send(ctx context.Context, tx *db.Tx, id int64) error {
	r, c, err := s.forReferee(ctx, tx, id)
	if err != nil {
		return err
	}
	if r.State == form.SentIn {
		return nil
	}
	if strings.TrimSpace(r.Letter) == "" && r.LetterFile == nil {
		return ErrEmpty
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	if q := f.Question(r.Question); q != nil {
		closing := calendar.DateOf(c.Window(f).Closes, f.Zone)
		if fault := q.Ask.Fault(r.Dating(), calendar.DateOf(tx.At, f.Zone), closing); fault != "" {
			return refusal.Unfit(say.LetterFault(q.Ask, fault, closing))
		}
	}
	if err := s.change(ctx, tx, c, r, form.SentIn, "referee-sent"); err != nil {
		return err
	}
	for _, l := range []post.Letter{
		{Kind: "letter-thanks", To: r.Email, ToName: r.Name, ReplyTo: c.LeadEmail,
			Subject: "Your letter for “" + c.Title + "” is in",
			Body: "Dear " + r.Name + ",\n\nthank you. Your letter for " + c.LeadName +
				" reached us and needs nothing more from you. The applicant does not see it.\n"},
		{Kind: "letter-in", Account: c.LeadID, To: c.LeadEmail, ToName: c.LeadName,
			Subject: r.Name + " has sent the letter for “" + c.Title + "”",
			Body: "Dear " + c.LeadName + ",\n\n" + r.Name +
				" has sent the letter. What is still to do stands beside your application.\n"},
	} {
		l.Application, l.Round = c.ID, c.RoundID
		if _, err := s.Post.Queue(ctx, tx, l); err != nil {
			return err
		}
	}
	return nil
}
