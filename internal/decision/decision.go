// Package decision puts read cases in order, shows where the fund ends, and
// records what the panel decided for all of them in one act.
package decision

import (
	"context"

	"ulvant/core/form"
	"ulvant/core/fundline"
	"ulvant/core/lifecycle"
	"ulvant/core/mark"
	"ulvant/internal/application"
	"ulvant/internal/interview"
	"ulvant/internal/panel"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/post"
	"ulvant/internal/reading"
	"ulvant/internal/round"
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
	Told         lifecycle.State    // as the applicant knows it
	Chosen       *lifecycle.State   // before it is recorded; nil: nobody has chosen
	ChosenAmount *int64             `db:"chosen_amount"`
	AsksOf       map[form.Key]int64 `db:"-"` // of each gift, in its units
	Given        map[form.Key]int64 `db:"-"` // recorded, of each gift
	ChosenGifts  []GivenGift        `db:"-"` // before it is recorded; nil: nobody has chosen
	Scores       []mark.Score       `db:"-"` // of each reader who sent marks
	By           []int64            `db:"-"` // those readers
	Moves        []panel.Move       `db:"-"` // by the panel, in their sequence
	Back         string             `db:"-"` // why a second body sends back what the panel made of it; "": it does not
	Met          *interview.Score   `db:"-"` // nil: nobody met them
	Score        mark.Score         `db:"-"`
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

	Deciding []form.Gift // what is decided beside the money; nil for nothing
}

// Store of decisions.
type Store struct {
	DB         *db.DB
	Cases      *application.Store
	Reading    *reading.Store
	Interviews *interview.Store
	Panel      *panel.Store
	Post       *post.Office
	Jobs       *jobs.Queue
	Later      *round.Later
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
	if err := q.SelectContext(ctx, &reached, `SELECT DISTINCT stage, state FROM standing WHERE round_id = $1`,
		r.ID); err != nil {
		return "", err
	}
	out := f.FirstStage()
	for _, st := range stages {
		for _, e := range reached {
			if e.Stage != st.Key {
				continue
			}
			if e.State.Is(lifecycle.ToDecide) || e.State.Is(lifecycle.ToRead) && !f.ReadAfter(st.Key) {
				return st.Key, nil
			}
			out = st.Key
		}
	}
	return out, nil
}

// InOrder are the states of those in the order of a stage, and of those who are not yet.
func InOrder(f *form.Form, stage form.Key) (states, open []lifecycle.State) {
	if !f.ReadAfter(stage) {
		return lifecycle.With(lifecycle.Ordered | lifecycle.ToRead), lifecycle.With(lifecycle.ToSettle | lifecycle.ToMeet)
	}
	return lifecycle.With(lifecycle.Ordered), lifecycle.With(lifecycle.HandsOut | lifecycle.ToMeet)
}

// Order of a stage's read and decided cases: weighted mean of each reader,
// mean over readers, or brought to one scale where the round says so. A stage that nobody reads is decided once a case is
// eligible.
func (s *Store) Order(ctx context.Context, q db.Querier, r round.Round, f *form.Form, stage form.Key) (Table, error) {
	return s.OrderBy(ctx, q, r, f, stage, f.Design.Score)
}

// OrderBy is the order by another score than the round says.
func (s *Store) OrderBy(ctx context.Context, q db.Querier, r round.Round, f *form.Form, stage form.Key,
	score form.ScoreRule) (Table, error) {
	t := Table{Fund: f.Design.Fund, Stage: stage, Last: f.NextStage(stage) == nil}
	states, open := InOrder(f, stage)
	var rows []Row
	err := q.SelectContext(ctx, &rows, `
		SELECT e.id AS entry_id, a.id AS application_id, a.ref, a.title, e.state, e.version, st.asked, st.place, p.name AS lead, d.outcome, d.amount,
		       COALESCE(NULLIF(e.told, ''), e.state) AS told, ch.outcome AS chosen, ch.amount AS chosen_amount
		FROM entry e
		JOIN application a ON a.id = e.application_id
		JOIN standing st ON st.entry_id = e.id
		JOIN relation l ON l.application_id = a.id AND l.kind = 'lead'
		JOIN account p ON p.id = l.account_id
		LEFT JOIN LATERAL (SELECT outcome, left_of(act_id, entry_id, amount) AS amount FROM decision WHERE entry_id = e.id ORDER BY act_id DESC LIMIT 1) d ON true
		LEFT JOIN choice ch ON ch.entry_id = e.id
		WHERE a.round_id = $1 AND e.stage = $2 AND e.state = ANY($3) ORDER BY a.id`, r.ID, stage, states)
	if err != nil {
		return t, err
	}
	if err := q.GetContext(ctx, &t.Unread, `
		SELECT count(*) FROM entry e JOIN application a ON a.id = e.application_id WHERE a.round_id = $1 AND e.stage = $2 AND e.state = ANY($3)`, r.ID, stage, open); err != nil {
		return t, err
	}
	// each reader's weighted sum is added up where the marks lie: an order of 2,000 is
	// drawn anew with every what-if
	criteria, weights := make([]string, len(f.Design.Criteria)), make([]int32, len(f.Design.Criteria))
	for i, c := range f.Design.Criteria {
		criteria[i], weights[i] = string(c.Key), int32(c.Weight)
	}
	var marks []struct {
		EntryID   int64 `db:"entry_id"`
		AccountID int64 `db:"account_id"`
		mark.Score
	}
	err = q.SelectContext(ctx, &marks, `
		SELECT m.entry_id, m.account_id, sum(m.value * w.weight) AS num, sum(w.weight) AS den FROM standing st
		JOIN assignment g ON g.entry_id = st.entry_id AND g.sent_at IS NOT NULL
		JOIN mark m ON m.entry_id = g.entry_id AND m.account_id = g.account_id
		JOIN unnest($3::text[], $4::int[]) AS w(criterion, weight) ON w.criterion = m.criterion
		WHERE st.round_id = $1 AND st.stage = $2 GROUP BY m.entry_id, m.account_id ORDER BY m.entry_id, m.account_id`, r.ID, stage,
		criteria, weights)
	if err != nil {
		return t, err
	}
	perEntry, by := map[int64][]mark.Score{}, map[int64][]int64{}
	for _, m := range marks {
		perEntry[m.EntryID], by[m.EntryID] = append(perEntry[m.EntryID], m.Score), append(by[m.EntryID], m.AccountID)
	}
	scores, asked := make([]mark.Score, len(rows)), make([]int64, len(rows))
	for i := range rows {
		rows[i].Scores, rows[i].By = perEntry[rows[i].EntryID], by[rows[i].EntryID]
		rows[i].Score = mark.Mean(rows[i].Scores)
		scores[i] = rows[i].Score
		if rows[i].Asked != nil {
			asked[i] = *rows[i].Asked
		}
	}
	if score == form.ByCalibrated {
		scores = calibrated(rows, scores)
		for i := range rows {
			rows[i].Score = scores[i]
		}
	}
	met, err := s.Interviews.Scores(ctx, q, r.ID, f, stage)
	if err != nil {
		return t, err
	}
	var first []bool // who was met stands before who was not
	if len(met) > 0 {
		first = make([]bool, len(rows))
		at := f.Interviews(stage).Key
		for i := range rows {
			if m, ok := met[rows[i].EntryID]; ok {
				rows[i].Met, first[i] = &m, m.Score.Known()
				rows[i].Score = mark.Joined(rows[i].Score, f.Design.Weighs(""), m.Score, f.Design.Weighs(at))
				scores[i] = rows[i].Score
			}
		}
	}
	if err := s.gifts(ctx, q, f, &t, rows); err != nil {
		return t, err
	}
	then, err := s.ties(ctx, q, r, f, stage, rows)
	if err != nil {
		return t, err
	}
	t.Line = fundline.Draw(scores, first, then, asked, t.Fund)
	moves, err := s.Panel.Moves(ctx, q, r.ID, stage)
	if err != nil {
		return t, err
	}
	if len(moves) > 0 {
		at := map[int64]int{}
		for i := range rows {
			at[rows[i].EntryID] = i
		}
		var list []fundline.Moved
		for _, m := range moves {
			if i, ok := at[m.EntryID]; ok {
				list = append(list, fundline.Moved{Index: i, Places: m.Places})
				rows[i].Moves = append(rows[i].Moves, m)
			}
		}
		t.Line = t.Line.Move(list, t.Fund)
	}
	back, err := s.Panel.SentBack(ctx, q, r.ID, stage)
	if err != nil {
		return t, err
	}
	for _, line := range t.Line.Rows {
		row := rows[line.Index]
		row.Row, row.Back = line, back[row.EntryID]
		t.Rows = append(t.Rows, row)
	}
	if len(f.Design.Funds()) > 1 { // each stream ends where its own money ends
		trial, err := s.trial(ctx, q, f, t, AsItIs())
		if err != nil {
			return t, err
		}
		for i := range t.Rows {
			t.Rows[i].Within = trial.Result.Gives[i] > 0
		}
	}
	return t, nil
}

// Asked0 is the sum asked, 0 when none is known.
func (r Row) Asked0() int64 {
	if r.Asked == nil {
		return 0
	}
	return *r.Asked
}

// Cases are the rows as the fund's line looks at them, with what is chosen or,
// where nobody has chosen, what the order offers.
func (t Table) Cases() []fundline.Case {
	out := make([]fundline.Case, len(t.Rows))
	for i, r := range t.Rows {
		out[i] = fundline.Case{Within: r.Within, Known: r.Score.Known(), State: r.State, Asked: r.Asked0(), Place: r.Place}
		if r.Amount != nil {
			out[i].Recorded = *r.Amount
		}
	}
	for i, offered := range fundline.Offer(out, t.Last) {
		out[i].Chosen = offered
		if out[i].Amount = t.Rows[i].Asked0(); out[i].State.Is(lifecycle.Gives) {
			out[i].Amount = out[i].Recorded
		}
		if r := t.Rows[i]; r.Chosen != nil {
			out[i].Chosen, out[i].Amount = *r.Chosen, *r.ChosenAmount
		}
	}
	return out
}
