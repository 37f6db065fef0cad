// Package decision puts read cases in order, shows where the fund ends, and
// records what the panel decided for all of them in one act.
package decision

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/fundline"
	"ulvant/core/lifecycle"
	"ulvant/core/mark"
	"ulvant/core/money"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/reading"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Row is one case of the order.
type Row struct {
	EntryID      int64 `db:"entry_id"`
	AppID        int64 `db:"application_id"`
	Ref          string
	Title        string
	Place        string
	State        lifecycle.State
	Version      int
	Asked        *int64
	Outcome      *lifecycle.State // recorded, if any
	Amount       *int64           // recorded
	Lead         string
	Scores       []mark.Score `db:"-"` // of each reader who sent marks
	Score        mark.Score   `db:"-"`
	fundline.Row `db:"-"`
}

// Table is the order of one stage of a round.
type Table struct {
	Stage  form.Key
	Last   bool  // nothing is applied for after it
	Rows   []Row // in order
	Line   fundline.Line
	Fund   int64
	Unread int // eligible or being read, not in the order yet
}

// Store of decisions.
type Store struct {
	DB      *db.DB
	Cases   *application.Store
	Reading *reading.Store
	Post    *post.Office
}

// Stage is the one to decide in next: the first with cases that wait for it,
// else the latest that anybody has reached.
func (s *Store) Stage(ctx context.Context, q db.Querier, r round.Round, f *form.Form) (form.Key, error) {
	stages := f.Applying()
	if len(stages) < 2 {
		return f.FirstStage(), nil
	}
	var reached []struct {
		Stage form.Key
		State lifecycle.State
	}
	if err := q.SelectContext(ctx, &reached, `SELECT DISTINCT e.stage, e.state FROM entry e JOIN application a ON a.id = e.application_id WHERE a.round_id = $1`, r.ID); err != nil {
		return "", err
	}
	out := f.FirstStage()
	for _, st := range stages {
		for _, e := range reached {
			if e.Stage != st.Key {
				continue
			}
			if e.State == lifecycle.Read || e.State == lifecycle.Eligible && !f.ReadAfter(st.Key) {
				return st.Key, nil
			}
			out = st.Key
		}
	}
	return out, nil
}

// Order of a stage's read and decided cases: weighted mean of each reader,
// mean over readers. A stage that nobody reads is decided once a case is
// eligible.
func (s *Store) Order(ctx context.Context, q db.Querier, r round.Round, f *form.Form, stage form.Key) (Table, error) {
	t := Table{Fund: f.Design.Fund, Stage: stage, Last: f.NextStage(stage) == nil}
	states, open := pq.StringArray{"read", "invited on", "awarded", "reserve", "not awarded"}, pq.StringArray{"eligible", "reading"}
	if !f.ReadAfter(stage) {
		states, open = append(states, "eligible"), pq.StringArray{"complete"}
	}
	var rows []Row
	err := q.SelectContext(ctx, &rows, `
		SELECT e.id AS entry_id, a.id AS application_id, a.ref, a.title, e.state, e.version, st.asked, st.place, p.name AS lead, d.outcome, d.amount
		FROM entry e
		JOIN application a ON a.id = e.application_id
		JOIN standing st ON st.entry_id = e.id
		JOIN relation l ON l.application_id = a.id AND l.kind = 'lead'
		JOIN account p ON p.id = l.account_id
		LEFT JOIN LATERAL (SELECT outcome, amount FROM decision WHERE entry_id = e.id ORDER BY act_id DESC LIMIT 1) d ON true
		WHERE a.round_id = $1 AND e.stage = $2 AND e.state = ANY($3) ORDER BY a.id`, r.ID, stage, states)
	if err != nil {
		return t, err
	}
	if err := q.GetContext(ctx, &t.Unread, `
		SELECT count(*) FROM entry e JOIN application a ON a.id = e.application_id WHERE a.round_id = $1 AND e.stage = $2 AND e.state = ANY($3)`, r.ID, stage, open); err != nil {
		return t, err
	}
	var marks []struct {
		EntryID   int64 `db:"entry_id"`
		AccountID int64 `db:"account_id"`
		Criterion form.Key
		Value     int
	}
	err = q.SelectContext(ctx, &marks, `
		SELECT m.entry_id, m.account_id, m.criterion, m.value FROM mark m
		JOIN assignment g ON g.entry_id = m.entry_id AND g.account_id = m.account_id AND g.sent_at IS NOT NULL
		JOIN application a ON a.id = g.application_id WHERE a.round_id = $1 ORDER BY m.entry_id, m.account_id`, r.ID)
	if err != nil {
		return t, err
	}
	type key struct{ entry, account int64 }
	byReader := map[key]map[form.Key]int{}
	var order []key
	for _, m := range marks {
		k := key{m.EntryID, m.AccountID}
		if byReader[k] == nil {
			byReader[k] = map[form.Key]int{}
			order = append(order, k)
		}
		byReader[k][m.Criterion] = m.Value
	}
	perEntry := map[int64][]mark.Score{}
	for _, k := range order {
		values, weights := reading.InOrder(f, byReader[k])
		score, _ := mark.Weighted(values, weights)
		perEntry[k.entry] = append(perEntry[k.entry], score)
	}
	scores, asked := make([]mark.Score, len(rows)), make([]int64, len(rows))
	for i := range rows {
		rows[i].Scores = perEntry[rows[i].EntryID]
		rows[i].Score = mark.Mean(rows[i].Scores)
		scores[i] = rows[i].Score
		if rows[i].Asked != nil {
			asked[i] = *rows[i].Asked
		}
	}
	t.Line = fundline.Draw(scores, asked, t.Fund)
	for _, line := range t.Line.Rows {
		row := rows[line.Index]
		row.Row = line
		t.Rows = append(t.Rows, row)
	}
	return t, nil
}

// Choice is what the panel decided for one case; Version is the case's when
// the page was drawn.
type Choice struct {
	EntryID int64
	Version int
	Outcome lifecycle.State
	Amount  int64 // minor units; counts for an award only
}

// Changed refuses a whole act because cases changed since the page was drawn.
type Changed struct{ Refs []string }

// Error names them.
func (e Changed) Error() string {
	return "nothing was recorded, because these cases changed since the page was drawn: " + strings.Join(e.Refs, ", ") + ". Look at the order again and record anew"
}

// Record the panel's decisions for all cases in one act, or none of it.
// Letters are made at once and go out after the design's hold.
func (s *Store) Record(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, stage form.Key, choices []Choice, note string) (act int64, err error) {
	if len(choices) == 0 {
		return 0, errors.New("there is nothing to record; choose an outcome for at least one case")
	}
	if strings.TrimSpace(note) == "" || len(note) > 2000 {
		return 0, errors.New("say who decided and when, such as “Panel of 14 May, N. Sparrow in the chair”")
	}
	cases := make([]application.Case, len(choices))
	var changed []string
	slices.SortFunc(choices, func(a, b Choice) int { return int(a.EntryID - b.EntryID) })
	var total int64
	for i, ch := range choices {
		c, err := s.Cases.ByEntry(ctx, tx, ch.EntryID)
		if err != nil || c.RoundID != r.ID || form.Key(c.Stage) != stage {
			return 0, application.ErrNotFound
		}
		if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
			return 0, err
		}
		if c.Version != ch.Version {
			changed = append(changed, c.Ref)
		}
		if ch.Outcome == lifecycle.Awarded {
			if ch.Amount <= 0 {
				return 0, fmt.Errorf("say how much is awarded to %s", c.Ref)
			}
			total += ch.Amount
		}
		cases[i] = c
	}
	if len(changed) > 0 {
		return 0, Changed{changed}
	}
	var before int64
	if err := tx.GetContext(ctx, &before, `
		SELECT COALESCE(sum(d.amount), 0) FROM decision d JOIN act x ON x.id = d.act_id JOIN entry e ON e.id = d.entry_id
		WHERE x.round_id = $1 AND d.outcome = 'awarded' AND e.state = 'awarded'`, r.ID); err != nil {
		return 0, err
	}
	if total+before > f.Design.Fund {
		return 0, fmt.Errorf("the awards come to %s, which is %s more than the fund", money.Format(total+before, f.Design.Currency),
			money.Format(total+before-f.Design.Fund, f.Design.Currency))
	}
	next := f.NextStage(stage)
	if next != nil && !tx.At.Before(f.At(next.To)) && slices.ContainsFunc(choices, func(c Choice) bool { return c.Outcome == lifecycle.InvitedOn }) {
		return 0, fmt.Errorf("“%s” has closed; give it a later date in the design before you invite anybody to it", next.Label)
	}
	order, err := s.Order(ctx, tx, r, f, stage)
	if err != nil {
		return 0, err
	}
	rank := map[int64]int{}
	for _, row := range order.Rows {
		rank[row.EntryID] = row.Rank
	}
	due := tx.At.Add(time.Duration(f.Design.HoldMinutes) * time.Minute)
	if err := tx.QueryRowxContext(ctx, `INSERT INTO act (round_id, at, by_id, note, letters_at) VALUES ($1, $2, $3, $4, $5) RETURNING id`,
		r.ID, tx.At, tx.By.ID, strings.TrimSpace(note), due).Scan(&act); err != nil {
		return 0, err
	}
	for i, ch := range choices {
		if !slices.Contains(lifecycle.Outcomes(next == nil), ch.Outcome) {
			return 0, fmt.Errorf("%q is not an outcome of this stage", ch.Outcome)
		}
		c, step, err := s.decide(ctx, tx, cases[i], &ch)
		if err != nil {
			return 0, fmt.Errorf("%s: %w", cases[i].Ref, err)
		}
		values := map[string]string{"amount": money.Format(ch.Amount, f.Design.Currency), "place": strconv.Itoa(rank[ch.EntryID])}
		if next != nil {
			maps.Copy(values, f.StageValues(next))
		}
		letter, err := s.Cases.SendLetter(ctx, tx, c, form.Key(step.Letter), values, due)
		if err != nil {
			return 0, fmt.Errorf("%s: %w", c.Ref, err)
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO decision (act_id, entry_id, outcome, amount, rank, post_id) VALUES ($1, $2, $3, $4, $5, $6)`,
			act, ch.EntryID, ch.Outcome, ch.Amount, rank[ch.EntryID], letter); err != nil {
			return 0, err
		}
	}
	return act, nil
}

// decide takes one case to its outcome.
func (s *Store) decide(ctx context.Context, tx *db.Tx, c application.Case, ch *Choice) (application.Case, lifecycle.Step, error) {
	if ch.Outcome != lifecycle.Awarded {
		ch.Amount = 0
	}
	figures := map[string]string{"amount": strconv.FormatInt(ch.Amount, 10)}
	if ch.Outcome == lifecycle.InvitedOn {
		return s.Cases.InviteOn(ctx, tx, c, figures)
	}
	event, _ := lifecycle.OutcomeEvent(ch.Outcome)
	return s.Cases.Transition(ctx, tx, c, event, figures)
}

// Act is one recording.
type Act struct {
	ID          int64
	At          time.Time
	By          string
	Note        string
	LettersAt   time.Time  `db:"letters_at"`
	CancelledAt *time.Time `db:"letters_cancelled_at"`
	Cases       int
	Held        int // letters that can still be stopped
}

// Acts of a round, the latest first.
func (s *Store) Acts(ctx context.Context, q db.Querier, roundID int64) (out []Act, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT x.id, x.at, p.name AS by, x.note, x.letters_at, x.letters_cancelled_at, count(d.entry_id) AS cases,
		       count(*) FILTER (WHERE o.state = 'held') AS held
		FROM act x JOIN account p ON p.id = x.by_id LEFT JOIN decision d ON d.act_id = x.id LEFT JOIN post o ON o.id = d.post_id
		WHERE x.round_id = $1 GROUP BY x.id, p.name ORDER BY x.id DESC`, roundID)
	return out, err
}

// StopLetters stops the letters of an act that are still held. The decisions stand.
func (s *Store) StopLetters(ctx context.Context, tx *db.Tx, roundID, act int64) (int64, error) {
	ids, err := s.letters(ctx, tx, roundID, act, "held")
	if err != nil {
		return 0, err
	}
	n, err := s.Post.Cancel(ctx, tx, ids)
	if err != nil {
		return 0, err
	}
	if n == 0 {
		return 0, errors.New("the letters have gone out already; write to the applicants instead")
	}
	if _, err := tx.ExecContext(ctx, `UPDATE act SET letters_cancelled_at = $2 WHERE id = $1`, act, tx.At); err != nil {
		return n, err
	}
	return n, s.note(ctx, tx, roundID, act)
}

// ReleaseLetters lets letters that were stopped go out after a new hold.
func (s *Store) ReleaseLetters(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, act int64) error {
	ids, err := s.letters(ctx, tx, r.ID, act, "cancelled")
	if err != nil {
		return err
	}
	due := tx.At.Add(time.Duration(f.Design.HoldMinutes) * time.Minute)
	if err := s.Post.Release(ctx, tx, ids, due); err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `UPDATE act SET letters_cancelled_at = NULL, letters_at = $2 WHERE id = $1`, act, due)
	return err
}

func (s *Store) letters(ctx context.Context, tx *db.Tx, roundID, act int64, state string) (ids []int64, err error) {
	err = tx.SelectContext(ctx, &ids, `
		SELECT o.id FROM decision d JOIN act x ON x.id = d.act_id JOIN post o ON o.id = d.post_id
		WHERE x.id = $1 AND x.round_id = $2 AND o.state = $3 FOR UPDATE OF o`, act, roundID, state)
	return ids, err
}

func (s *Store) note(ctx context.Context, tx *db.Tx, roundID, act int64) error {
	var rows []struct {
		App    int64 `db:"application_id"`
		Letter string
	}
	err := tx.SelectContext(ctx, &rows, `
		SELECT o.application_id, o.kind AS letter FROM decision d JOIN post o ON o.id = d.post_id WHERE d.act_id = $1 AND o.state = 'cancelled'`, act)
	for _, r := range rows {
		if err == nil {
			err = trail.Write(ctx, tx, "letters-cancelled", r.App, roundID, map[string]string{"letter": r.Letter})
		}
	}
	return err
}

// Asked0 is the sum asked, 0 when none is known.
func (r Row) Asked0() int64 {
	if r.Asked == nil {
		return 0
	}
	return *r.Asked
}
