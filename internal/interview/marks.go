package interview

import (
	"context"
	"database/sql"
	"slices"
	"strconv"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/mark"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/trail"
)

// Said is what one member of the panel says of somebody they met.
type Said struct {
	EntryID int64 `db:"entry_id"`
	Account int64 `db:"account_id"`
	Name    string
	Note    string
	Out     bool       // stepped out of the room
	SentAt  *time.Time `db:"sent_at"`
	Version int
	Marks   map[form.Key]int `db:"-"`
}

// Errors of marking.
var (
	ErrNotThere = refusal.New("you are not of the panel that meets them")
	ErrStale    = refusal.New("these marks were changed in another window").But("reload the page to see them")
	ErrSent     = refusal.New("these marks are sent").But("ask the office if you must change them")
	ErrUnmarked = refusal.New("something is not marked yet").But("mark every criterion")
)

// SaidOf is what everybody of the panel says of a case; who has said nothing has
// version 0.
func (s *Store) SaidOf(ctx context.Context, q db.Querier, entry int64) (out []Said, err error) {
	if err := q.SelectContext(ctx, &out, `
		SELECT i.entry_id, m.account_id, p.name, COALESCE(x.note, '') AS note, COALESCE(x.out, false) AS out, x.sent_at, COALESCE(x.version, 0) AS version
		FROM interview i JOIN interview_member m ON m.day_id = i.day_id JOIN account p ON p.id = m.account_id
		LEFT JOIN interview_said x ON x.entry_id = i.entry_id AND x.account_id = m.account_id
		WHERE i.entry_id = $1 ORDER BY p.name, p.id`, entry); err != nil || len(out) == 0 {
		return out, err
	}
	var marks []struct {
		Account   int64 `db:"account_id"`
		Criterion form.Key
		Value     int
	}
	if err := q.SelectContext(ctx, &marks, `SELECT account_id, criterion, value FROM interview_mark WHERE entry_id = $1`,
		entry); err != nil {
		return nil, err
	}
	for i := range out {
		out[i].Marks = map[form.Key]int{}
		for _, m := range marks {
			if m.Account == out[i].Account {
				out[i].Marks[m.Criterion] = m.Value
			}
		}
	}
	return out, nil
}

// SaidBy is what one member says of a case; ErrNotThere for whoever is not of the panel.
func (s *Store) SaidBy(ctx context.Context, q db.Querier, entry, account int64) (Said, error) {
	list, err := s.SaidOf(ctx, q, entry)
	if err != nil {
		return Said{}, err
	}
	i := slices.IndexFunc(list, func(x Said) bool { return x.Account == account })
	if i < 0 {
		return Said{}, ErrNotThere
	}
	return list[i], nil
}

// Keep what a member says so far; version is the one the page was drawn with, and the
// new one is returned.
func (s *Store) Keep(ctx context.Context, tx *db.Tx, c application.Case, version int, marks map[form.Key]int,
	note string) (int, error) {
	c, f, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return 0, err
	}
	said, err := s.SaidBy(ctx, tx, c.EntryID, tx.By.ID)
	switch {
	case err != nil:
		return 0, err
	case said.SentAt != nil || said.Out:
		return 0, ErrSent
	case said.Version != version:
		return 0, ErrStale
	case len(note) > 20000:
		return 0, refusal.In("note", "The note is too long to keep. Shorten it.")
	}
	if _, _, x, err := s.When(ctx, tx, c); err != nil || tx.At.Before(x.Starts) {
		return 0, refusal.Unfit("the interview has not begun").But("mark it when you have met them")
	}
	criteria, values := []string{}, []int{}
	for _, cr := range f.Design.Judged(f.Interviews(form.Key(c.Stage)).Key) {
		v, ok := marks[cr.Key]
		if !ok {
			continue
		}
		if v < 0 || v >= len(cr.Steps) {
			return 0, refusal.Newf("a mark for %s goes from 0 to %d", cr.Label, len(cr.Steps)-1)
		}
		criteria, values = append(criteria, string(cr.Key)), append(values, v)
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO interview_said (entry_id, account_id, note) VALUES ($1, $2, $3)
		ON CONFLICT (entry_id, account_id) DO UPDATE SET note = excluded.note, version = interview_said.version + 1`, m.EntryID, tx.By.ID, note); err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO interview_mark (entry_id, account_id, criterion, value, at)
		SELECT $1, $2, n.criterion, n.value, $5 FROM unnest($3::text[], $4::int[]) AS n(criterion, value)
		ON CONFLICT (entry_id, account_id, criterion) DO UPDATE SET value = excluded.value, at = excluded.at`, m.EntryID, tx.By.ID, criteria, values, tx.At)
	return version + 1, err
}

// Lacks counts the criteria of an interview that are not marked yet.
func Lacks(asked []form.Criterion, marks map[form.Key]int) (n int) {
	for _, cr := range asked {
		if _, ok := marks[cr.Key]; !ok {
			n++
		}
	}
	return n
}

// Send the marks of a member. When everybody who was in the room has sent, the
// interview is over.
func (s *Store) Send(ctx context.Context, tx *db.Tx, c application.Case) error {
	c, f, _, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	said, err := s.SaidBy(ctx, tx, c.EntryID, tx.By.ID)
	if err != nil {
		return err
	}
	if said.SentAt != nil || said.Out {
		return ErrSent
	}
	sealed, err := s.Cases.Sealed(ctx, tx, *c.SealID)
	if err != nil {
		return err
	}
	asked := f.Criteria(f.Walk(sealed.Decoded.Filled(c.LeadName)), f.Interviews(form.Key(c.Stage)).Key)
	if Lacks(asked, said.Marks) > 0 || said.Version == 0 {
		return ErrUnmarked
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE interview_said SET sent_at = $3, version = version + 1 WHERE entry_id = $1 AND account_id = $2`,
		c.EntryID, tx.By.ID, tx.At); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "interview-marked", c.ID, c.RoundID, nil); err != nil {
		return err
	}
	return s.finish(ctx, tx, c)
}

// StepOut of the room for one interview, with a reason: they mark nothing, and what
// they marked is gone.
func (s *Store) StepOut(ctx context.Context, tx *db.Tx, c application.Case, why string) error {
	if why = strings.TrimSpace(why); why == "" || len(why) > 1000 {
		return refusal.In("why", "Say in a few words why you step out.")
	}
	c, _, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if _, err := s.SaidBy(ctx, tx, c.EntryID, tx.By.ID); err != nil {
		return err
	}
	if m.Members <= 1 {
		return refusal.Unfit("nobody else of the panel would be there").But("tell the office, which puts somebody else in or moves them to another panel")
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM interview_said WHERE entry_id = $1 AND account_id = $2`, c.EntryID,
		tx.By.ID); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO interview_said (entry_id, account_id, out) VALUES ($1, $2, true)`,
		c.EntryID, tx.By.ID); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "interview-out", c.ID, c.RoundID, map[string]string{"why": why}); err != nil {
		return err
	}
	return s.finish(ctx, tx, c)
}

// finish the interview of a case once everybody in the room has sent marks.
func (s *Store) finish(ctx context.Context, tx *db.Tx, c application.Case) error {
	m, err := s.Of(ctx, tx, c.EntryID)
	if err != nil || m.Sent == 0 || m.Sent < m.Members {
		return err
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE interview SET outcome = 'held', outcome_at = $2, version = version + 1 WHERE entry_id = $1`, c.EntryID,
		tx.At); err != nil {
		return err
	}
	_, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.FinishMeet, nil)
	return err
}

// End an interview with the marks there are, by the office: who has sent none is taken
// as not having been there.
func (s *Store) End(ctx context.Context, tx *db.Tx, c application.Case) error {
	c, _, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if m.Sent == 0 {
		return refusal.Unfit("nobody has sent marks yet").But("say that they did not come, or wait")
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM interview_said WHERE entry_id = $1 AND sent_at IS NULL AND NOT out`,
		c.EntryID); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO interview_said (entry_id, account_id, out) SELECT $1, account_id, true FROM interview_member WHERE day_id = $2
		ON CONFLICT DO NOTHING`, c.EntryID, *m.DayID); err != nil {
		return err
	}
	return s.finish(ctx, tx, c)
}

// Reopen the marks of one member, by the office, with a reason; the case waits for
// them again.
func (s *Store) Reopen(ctx context.Context, tx *db.Tx, c application.Case, account int64, why string) error {
	if why = strings.TrimSpace(why); why == "" || len(why) > 1000 {
		return refusal.In("why", "Say why they are opened again, in up to 1,000 characters; it stays with the case.")
	}
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	res, err := tx.ExecContext(ctx, `
		UPDATE interview_said SET sent_at = NULL, version = version + 1 WHERE entry_id = $1 AND account_id = $2 AND sent_at IS NOT NULL`, c.EntryID, account)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return refusal.Unfit("they have sent no marks")
	}
	if err := trail.Write(ctx, tx, "interview-reopened", c.ID, c.RoundID,
		map[string]string{"reader": strconv.FormatInt(account, 10),
			"why": why}); err != nil {
		return err
	}
	if c.State.Is(lifecycle.ToMeet) {
		return nil
	}
	if _, _, err := s.Cases.Transition(ctx, tx, c, lifecycle.CallIn, nil); err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx,
		`UPDATE interview SET outcome = '', outcome_at = NULL, version = version + 1 WHERE entry_id = $1`, c.EntryID)
	return err
}

// Score of one interview: the mean of what each member gave, and how many gave
// something.
type Score struct {
	Score   mark.Score
	Members int
	Absent  bool
}

// Scores of the interviews of a stage that are over, by entry.
func (s *Store) Scores(ctx context.Context, q db.Querier, r int64, f *form.Form, applied form.Key) (map[int64]Score,
	error) {
	if f.Interviews(applied) == nil {
		return nil, nil
	}
	var rows []struct {
		Entry     int64 `db:"entry_id"`
		Outcome   Outcome
		Account   sql.NullInt64 `db:"account_id"`
		Criterion sql.NullString
		Value     sql.NullInt64
	}
	if err := q.SelectContext(ctx, &rows, `
		SELECT i.entry_id, i.outcome, x.account_id, m.criterion, m.value
		FROM interview i JOIN standing st ON st.entry_id = i.entry_id
		LEFT JOIN interview_said x ON x.entry_id = i.entry_id AND x.sent_at IS NOT NULL
		LEFT JOIN interview_mark m ON m.entry_id = x.entry_id AND m.account_id = x.account_id
		WHERE st.round_id = $1 AND st.stage = $2 AND i.outcome <> '' ORDER BY i.entry_id, x.account_id`, r, applied); err != nil {
		return nil, err
	}
	out := map[int64]Score{}
	for from := 0; from < len(rows); {
		entry, upto := rows[from].Entry, from
		var scores []mark.Score
		for upto < len(rows) && rows[upto].Entry == entry {
			account, marks := rows[upto].Account, map[form.Key]int{}
			for ; upto < len(rows) && rows[upto].Entry == entry && rows[upto].Account == account; upto++ {
				if rows[upto].Criterion.Valid {
					marks[form.Key(rows[upto].Criterion.String)] = int(rows[upto].Value.Int64)
				}
			}
			if len(marks) > 0 {
				score, _ := mark.Weighted(reading.InOrder(f, marks))
				scores = append(scores, score)
			}
		}
		out[entry] = Score{mark.Mean(scores), len(scores), rows[from].Outcome == Absent}
		from = upto
	}
	return out, nil
}
