// Package reading invites readers, hands cases out to them and takes their
// marks. A reader sees a case only while it is given to them, and never one
// they stepped aside from.
package reading

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/connection"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Store of reading.
type Store struct {
	DB       *db.DB
	Cases    *application.Store
	People   *people.Store
	Post     *post.Office
	Links    link.Maker
	Jobs     *jobs.Queue
	Later    *round.Later
	LinkLife time.Duration

	Connections *connection.Store
}

// Given is one case given to one reader.
type Given struct {
	EntryID   int64 `db:"entry_id"`
	AppID     int64 `db:"application_id"`
	AccountID int64 `db:"account_id"`
	Name      string
	Note      string
	Version   int
	SentAt    *time.Time `db:"sent_at"`

	Overall     *int       // the step of the overall judgement; nil: none
	ToOffice    string     `db:"to_office"`
	ToApplicant string     `db:"to_applicant"`
	ReopenedAt  *time.Time `db:"reopened_at"`
	ReopenedWhy string     `db:"reopened_why"`
}

// Errors that people can do something about.
var (
	ErrNotGiven = refusal.New("this case is not given to you to read")
	ErrUnmarked = refusal.New("something is not marked yet").But("mark every criterion and point, and the overall judgement where there is one")
	ErrStale    = refusal.New("these marks were changed in another window").But("reload the page to see them")
	ErrSent     = refusal.New("these marks are sent").But("ask the office if you must change them")
)

// Invite somebody to read in a round, by mail.
func (s *Store) Invite(ctx context.Context, tx *db.Tx, r round.Round, email, name string) (people.Account, error) {
	if err := people.CheckName(name); err != nil {
		return people.Account{}, refusal.In("name", "Give the reader’s name.")
	}
	if err := people.CheckEmail(strings.TrimSpace(email)); err != nil {
		return people.Account{}, err
	}
	a, err := s.People.Invite(ctx, tx, email, name)
	if err != nil {
		return a, err
	}
	res, err := tx.ExecContext(ctx,
		`INSERT INTO reader (round_id, account_id, invited_at) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, r.ID, a.ID, tx.At)
	if err != nil {
		return a, err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return a, refusal.In("email", a.Name+" is a reader of this round already.")
	}
	l, err := s.Links.Issue(ctx, tx, link.Reader, a.ID, s.LinkLife)
	if err != nil {
		return a, err
	}
	if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "reader-invited", Account: a.ID, Round: r.ID, To: a.Email,
		ToName: a.Name, Link: l,
		Subject: "Would you read for " + r.Name + "?",
		Body: "Dear " + a.Name + ",\n\nwe would like you to read and mark applications to " + r.Name +
			". Press this link to begin; it is yours alone:\n\n" + post.LinkMark +
			"\n\nIf you know the people behind an application, step aside from it there.\n\n" + s.Post.Name() +
			"\n"}); err != nil {
		return a, err
	}
	return a, trail.Write(ctx, tx, "reader-invited", 0, r.ID, map[string]string{"reader": strconv.FormatInt(a.ID, 10)})
}

// Accept the invitations of an account.
func (s *Store) Accept(ctx context.Context, tx *db.Tx, account int64) error {
	_, err := tx.ExecContext(ctx, `UPDATE reader SET accepted_at = $2 WHERE account_id = $1 AND accepted_at IS NULL`,
		account, tx.At)
	return err
}

// IsReader reports whether an account reads in any round.
func (s *Store) IsReader(ctx context.Context, q db.Querier, account int64) (is bool, err error) {
	err = q.GetContext(ctx, &is, `SELECT EXISTS (SELECT FROM reader WHERE account_id = $1)`, account)
	return is, err
}

// ReadsIn reports whether an account is a reader of a round, invited or accepted.
func (s *Store) ReadsIn(ctx context.Context, q db.Querier, round, account int64) (is bool, err error) {
	err = q.GetContext(ctx, &is, `SELECT EXISTS (SELECT FROM reader WHERE round_id = $1 AND account_id = $2)`, round,
		account)
	return is, err
}

// readStages are the stages that are handed out at a moment.
func readStages(f *form.Form, at time.Time) pq.StringArray {
	out := pq.StringArray{}
	for _, k := range f.HandsOut(at) {
		out = append(out, string(k))
	}
	return out
}

// EntryOf is the entry of an application that was given to an account, the
// latest of several; 0 for none.
func (s *Store) EntryOf(ctx context.Context, q db.Querier, application, account int64) (entry int64, err error) {
	err = q.GetContext(ctx, &entry,
		`SELECT COALESCE(max(entry_id), 0) FROM assignment WHERE application_id = $1 AND account_id = $2`, application,
		account)
	return entry, err
}

const selectGiven = `
	SELECT g.entry_id, g.application_id, g.account_id, p.name, g.note, g.version, g.sent_at, g.overall, g.to_office, g.to_applicant,
	       g.reopened_at, g.reopened_why
	FROM assignment g JOIN account p ON p.id = g.account_id `

// Of lists who reads an entry.
func (s *Store) Of(ctx context.Context, q db.Querier, entry int64) (out []Given, err error) {
	err = q.SelectContext(ctx, &out, selectGiven+`WHERE g.entry_id = $1 ORDER BY g.account_id`, entry)
	return out, err
}

// Find what is given to one reader.
func (s *Store) Find(ctx context.Context, q db.Querier, entry, account int64) (g Given, err error) {
	err = q.GetContext(ctx, &g, selectGiven+`WHERE g.entry_id = $1 AND g.account_id = $2`, entry, account)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotGiven
	}
	return g, err
}

// StepAside takes a case from a reader for good, with a reason.
func (s *Store) StepAside(ctx context.Context, tx *db.Tx, c application.Case, reason string) error {
	if strings.TrimSpace(reason) == "" || len(reason) > 1000 {
		return refusal.New("say in a few words why you step aside")
	}
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	if _, err := s.Find(ctx, tx, c.EntryID, tx.By.ID); err != nil {
		return err
	}
	return s.aside(ctx, tx, c, tx.By.ID, strings.TrimSpace(reason))
}

// aside takes a case from a reader for good.
func (s *Store) aside(ctx context.Context, tx *db.Tx, c application.Case, account int64, reason string) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM assignment WHERE entry_id = $1 AND account_id = $2`, c.EntryID,
		account); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx,
		`INSERT INTO recusal (application_id, account_id, reason, at) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`,
		c.ID, account, reason, tx.At); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "stepped-aside", c.ID, c.RoundID, nil); err != nil {
		return err
	}
	return s.finish(ctx, tx, c, false)
}

// Marker is one reader of one entry.
type Marker struct{ Entry, Account int64 }

// MarksOf reads the marks of one reader for many entries, or with account 0
// those of all their readers. Who has marked nothing is not there.
func (s *Store) MarksOf(ctx context.Context, q db.Querier, entries []int64,
	account int64) (map[Marker]map[form.Key]int, error) {
	var rows []struct {
		Entry, Account int64
		Criterion      form.Key
		Value          int
	}
	err := q.SelectContext(ctx, &rows, `
		SELECT entry_id AS entry, account_id AS account, criterion, value FROM mark WHERE entry_id = ANY($1) AND ($2 = 0 OR account_id = $2)`, entries, account)
	out := map[Marker]map[form.Key]int{}
	for _, r := range rows {
		m := Marker{r.Entry, r.Account}
		if out[m] == nil {
			out[m] = map[form.Key]int{}
		}
		out[m][r.Criterion] = r.Value
	}
	return out, err
}

// Marks of one reader for one entry.
func (s *Store) Marks(ctx context.Context, q db.Querier, entry, account int64) (map[form.Key]int, error) {
	all, err := s.MarksOf(ctx, q, []int64{entry}, account)
	return all[Marker{entry, account}], err
}

// InOrder brings marks and weights into the order of the criteria; an
// unmarked criterion is -1.
func InOrder(f *form.Form, marks map[form.Key]int) (values, weights []int) {
	for _, c := range f.Design.Criteria {
		v, ok := marks[c.Key]
		if !ok {
			v = -1
		}
		values, weights = append(values, v), append(weights, c.Weight)
	}
	return values, weights
}

// Marking is all that a reader says of a case.
type Marking struct {
	Marks       map[form.Key]int
	Points      map[string]bool // pass points, by form.PointKey: met or not
	Overall     *int            // the step of the overall judgement; nil: none is chosen
	Note        string          // to the panel
	ToOffice    string          // to the office alone
	ToApplicant string          // for the applicant, as far as the round lets them see it
}

// mostNote is how long each of the notes may be, in bytes.
const mostNote = 20000

// Keep what a reader says so far. version is the one the page was drawn with; the
// new one is returned.
func (s *Store) Keep(ctx context.Context, tx *db.Tx, c application.Case, version int, m Marking) (int, error) {
	c, err := s.Cases.Lock(ctx, tx, c, true)
	if err != nil {
		return 0, err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return 0, err
	}
	var g Given
	err = tx.GetContext(ctx, &g,
		`SELECT entry_id, version, note, sent_at FROM assignment WHERE entry_id = $1 AND account_id = $2 FOR UPDATE`,
		c.EntryID, tx.By.ID)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return 0, ErrNotGiven
	case err != nil:
		return 0, err
	case !c.State.Is(lifecycle.BeingRead) || g.SentAt != nil:
		return 0, ErrSent
	case g.Version != version:
		return 0, ErrStale
	case len(m.Note) > mostNote || len(m.ToOffice) > mostNote || len(m.ToApplicant) > mostNote:
		return 0, refusal.New("the note is too long to keep").But("shorten it")
	case m.Overall != nil && (*m.Overall < 0 || *m.Overall >= len(f.Design.Overall)):
		return 0, refusal.New("there is no such overall judgement")
	}
	criteria, values := []string{}, []int{}
	points, met := []string{}, []bool{}
	for _, cr := range f.Design.Judged("") {
		for _, p := range cr.PassPoints {
			if v, ok := m.Points[form.PointKey(cr.Key, p.Key)]; ok {
				points, met = append(points, form.PointKey(cr.Key, p.Key)), append(met, v)
			}
		}
		v, ok := m.Marks[cr.Key]
		if !ok {
			continue
		}
		if v < 0 || v >= len(cr.Steps) {
			return 0, refusal.Newf("a mark for %s goes from 0 to %d", cr.Label, len(cr.Steps)-1)
		}
		criteria, values = append(criteria, string(cr.Key)), append(values, v)
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO mark (entry_id, account_id, criterion, value, at)
		SELECT $1, $2, n.criterion, n.value, $5 FROM unnest($3::text[], $4::int[]) AS n(criterion, value)
		ON CONFLICT (entry_id, account_id, criterion) DO UPDATE SET value = excluded.value, at = excluded.at`,
		c.EntryID, tx.By.ID, criteria, values, tx.At); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO point (entry_id, account_id, point, met)
		SELECT $1, $2, n.point, n.met FROM unnest($3::text[], $4::boolean[]) AS n(point, met)
		ON CONFLICT (entry_id, account_id, point) DO UPDATE SET met = excluded.met`, c.EntryID, tx.By.ID, points, met); err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx, `
		UPDATE assignment SET note = @note, to_office = @office, to_applicant = @applicant, overall = COALESCE(@overall, overall), version = version + 1
		WHERE entry_id = @entry AND account_id = @account`, db.Named{"note": m.Note, "office": m.ToOffice, "applicant": m.ToApplicant,
		"overall": m.Overall, "entry": c.EntryID, "account": tx.By.ID})
	return g.Version + 1, err
}

// PointsOf reads the pass points of an entry as its readers found them.
func (s *Store) PointsOf(ctx context.Context, q db.Querier, entry int64) (map[int64]map[string]bool, error) {
	var rows []struct {
		Account int64 `db:"account_id"`
		Point   string
		Met     bool
	}
	if err := q.SelectContext(ctx, &rows, `SELECT account_id, point, met FROM point WHERE entry_id = $1`,
		entry); err != nil {
		return nil, err
	}
	out := map[int64]map[string]bool{}
	for _, r := range rows {
		if out[r.Account] == nil {
			out[r.Account] = map[string]bool{}
		}
		out[r.Account][r.Point] = r.Met
	}
	return out, nil
}

// Lacks are what a reader still has to say of a case before it can be sent, of the
// criteria that apply to it: how many marks, pass points and judgements.
func Lacks(f *form.Form, asked []form.Criterion, m Marking) (n int) {
	for _, cr := range asked {
		if _, ok := m.Marks[cr.Key]; !ok {
			n++
		}
		for _, p := range cr.PassPoints {
			if _, ok := m.Points[form.PointKey(cr.Key, p.Key)]; !ok {
				n++
			}
		}
	}
	if len(f.Design.Overall) > 0 && m.Overall == nil {
		n++
	}
	return n
}

// MarkingOf is all that a reader says of a case so far.
func (s *Store) MarkingOf(ctx context.Context, q db.Querier, g Given) (m Marking, err error) {
	m = Marking{Overall: g.Overall, Note: g.Note, ToOffice: g.ToOffice, ToApplicant: g.ToApplicant}
	if m.Marks, err = s.Marks(ctx, q, g.EntryID, g.AccountID); err != nil {
		return m, err
	}
	points, err := s.PointsOf(ctx, q, g.EntryID)
	m.Points = points[g.AccountID]
	return m, err
}

// Send a reader's marks. When all its readers have, the case is read.
func (s *Store) Send(ctx context.Context, tx *db.Tx, c application.Case) error {
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	g, err := s.Find(ctx, tx, c.EntryID, tx.By.ID)
	if err != nil {
		return err
	}
	if g.SentAt != nil {
		return nil
	}
	if !c.State.Is(lifecycle.BeingRead) {
		return ErrSent
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	m, err := s.MarkingOf(ctx, tx, g)
	if err != nil {
		return err
	}
	sealed, err := s.Cases.Sealed(ctx, tx, *c.SealID)
	if err != nil {
		return err
	}
	asked := f.Criteria(f.Walk(sealed.Decoded.Filled(c.LeadName)), "")
	if Lacks(f, asked, m) > 0 {
		return ErrUnmarked
	}
	not := []string{} // what does not apply does not count
	for _, cr := range f.Design.Judged("") {
		if !slices.ContainsFunc(asked, func(a form.Criterion) bool { return a.Key == cr.Key }) {
			not = append(not, string(cr.Key))
		}
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM mark WHERE entry_id = $1 AND account_id = $2 AND criterion = ANY($3)`,
		c.EntryID, tx.By.ID,
		not); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE assignment SET sent_at = $3, version = version + 1 WHERE entry_id = $1 AND account_id = $2`, c.EntryID,
		tx.By.ID, tx.At); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "marks-sent", c.ID, c.RoundID, nil); err != nil {
		return err
	}
	return s.finish(ctx, tx, c, false)
}
