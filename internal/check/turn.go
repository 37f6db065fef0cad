package check

import (
	"context"
	"encoding/json"
	"slices"
	"strconv"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/turn"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// Turn of a reviewing body with a case.
type Turn struct {
	ID      int64
	EntryID int64 `db:"entry_id"`
	Body    string
	Number  int
	State   turn.State
	Since   time.Time
	DueAt   *time.Time        `db:"due_at"`
	Raw     []byte            `db:"points"`
	Points  map[form.Key]bool `db:"-"` // what it looked at: met or not
	Mark    *int              // it gave; nil: none
	Note    string
	By      string
}

// Word is what was said with the answer.
func (t Turn) Word() say.BodyWord { return say.BodyWord{Points: t.Points, Mark: t.Mark, Note: t.Note} }

// TurnsOf an entry, in their order.
func (s *Store) TurnsOf(ctx context.Context, q db.Querier, entry int64) (out []Turn, err error) {
	if err := q.SelectContext(ctx, &out, `
		SELECT id, entry_id, body, number, state, since, due_at, points, mark, note, COALESCE((SELECT name FROM account WHERE id = by_id), '') AS by
		FROM turn WHERE entry_id = $1 ORDER BY number`, entry); err != nil {
		return nil, err
	}
	for i := range out {
		if err := json.Unmarshal(out[i].Raw, &out[i].Points); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func states(list []Turn) turn.Turns {
	var out turn.Turns
	for _, t := range list {
		out = append(out, t.State)
	}
	return out
}

// putTurns gives a case to the bodies it is for, in their turn, and keeps what they
// say among its findings. What was said stays when a case is sent again.
func (s *Store) putTurns(ctx context.Context, tx *db.Tx, f *form.Form, c application.Case, path *form.Path,
	counts map[form.Outcome]int) error {
	bodies := []string{} // never NULL: none means that all are dropped
	for i, b := range f.Design.Bodies {
		if path.Bodies[i] != condition.Yes {
			continue
		}
		bodies = append(bodies, string(b.Key))
		var due *time.Time
		if b.By != "" {
			at := f.At(b.By)
			due = &at
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO turn (entry_id, round_id, body, number, state, since, due_at) VALUES ($1, $2, $3, $4, 'waits', $5, $6)
			ON CONFLICT (entry_id, body) DO UPDATE SET number = $4, due_at = $6`, c.EntryID, c.RoundID, b.Key, len(bodies), tx.At, due); err != nil {
			return err
		}
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM turn WHERE entry_id = $1 AND NOT body = ANY($2)`, c.EntryID,
		bodies); err != nil {
		return err
	}
	list, err := s.TurnsOf(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	now := states(list)
	now.Begin()
	if err := s.keepTurns(ctx, tx, list, now); err != nil {
		return err
	}
	return s.turnFindings(ctx, tx, f, c, counts)
}

// keepTurns writes down the states that changed.
func (s *Store) keepTurns(ctx context.Context, tx *db.Tx, list []Turn, now turn.Turns) error {
	for i, t := range list {
		if t.State == now[i] {
			continue
		}
		if _, err := tx.ExecContext(ctx,
			`UPDATE turn SET state = $2, since = $3, told_at = NULL, reminded_at = NULL WHERE id = $1`,
			t.ID, now[i], tx.At); err != nil {
			return err
		}
	}
	return nil
}

// turnFindings keeps how the turns stand among the findings: one that is open waits
// for the body, one that was answered with no or sent back for the office.
func (s *Store) turnFindings(ctx context.Context, tx *db.Tx, f *form.Form, c application.Case,
	counts map[form.Outcome]int) error {
	list, err := s.TurnsOf(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	stay := []string{}
	for _, t := range list {
		rule, outcome := form.TurnRule(form.Key(t.Body)), form.Person
		switch t.State {
		case turn.Yes:
			rule, outcome = form.TurnedRule(form.Key(t.Body)), form.Holds
		case turn.No, turn.Over, turn.Back:
			rule = form.TurnedRule(form.Key(t.Body))
		}
		var due time.Time
		if t.DueAt != nil {
			due = *t.DueAt
		}
		counts[outcome]++
		stay = append(stay, string(rule))
		if err := s.put(ctx, tx, c.EntryID, rule, outcome, say.Turn(f, t.Body, t.State, due, t.Word())); err != nil {
			return err
		}
	}
	_, err = tx.ExecContext(ctx,
		`DELETE FROM finding WHERE entry_id = $1 AND (rule LIKE 'turn-%' OR rule LIKE 'turned-%') AND NOT rule = ANY($2)`,
		c.EntryID, stay)
	return err
}

// Answer of a body, with what it looked at and a note: yes, no, or back to the
// office or, where before is set, to the body before it.
type Answer struct {
	State  turn.State // Yes, No or Back
	Before bool
	Points map[form.Key]bool
	Mark   *int // where the body is asked for one; nil: none was given
	Note   string
}

// AnswerTurn keeps a body’s answer and passes the case on.
func (s *Store) AnswerTurn(ctx context.Context, tx *db.Tx, c application.Case, body string, a Answer) error {
	a.Note = strings.TrimSpace(a.Note)
	switch {
	case a.State != turn.Yes && a.State != turn.No && a.State != turn.Back:
		return refusal.In("answer", "Choose yes, no, or sending it back.")
	case a.Note == "" && a.State != turn.Yes || len(a.Note) > 2000:
		return refusal.In("note", "Say why, in up to 2,000 characters; the office reads it.")
	}
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	if !c.State.Is(lifecycle.ToSettle) {
		return refusal.Newf("it is %s now; its reviews are closed", c.State)
	}
	list, err := s.TurnsOf(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(list, func(t Turn) bool { return t.Body == body })
	now := states(list)
	if a.State == turn.Back && a.Before {
		returned, err := now.Return(i)
		if err != nil {
			return err
		}
		if !returned {
			return refusal.Unfit("no body has seen it before you").But("send it back to the office")
		}
	} else if err := now.Answer(i, a.State); err != nil {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	if a.Mark, err = markOf(f, body, a); err != nil {
		return err
	}
	points, err := json.Marshal(a.Points)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE turn SET points = $2, note = $3, by_id = $4, mark = $5 WHERE id = $1`,
		list[i].ID,
		string(points), a.Note, tx.By.ID, a.Mark); err != nil {
		return err
	}
	return s.turned(ctx, tx, c, list, now, "turn-"+string(a.State), body)
}

// markOf is the mark that a body’s answer gives; nil for a body that is asked for
// none, and for a case that is sent back, which is not judged yet.
func markOf(f *form.Form, body string, a Answer) (*int, error) {
	for _, b := range f.Design.Bodies {
		switch {
		case string(b.Key) != body || b.Marks == 0 || a.State == turn.Back:
		case a.Mark == nil || *a.Mark < 0 || *a.Mark > b.Marks:
			return nil, refusal.In("mark", "Give a mark from 0 to "+strconv.Itoa(b.Marks)+".")
		default:
			return a.Mark, nil
		}
	}
	return nil, nil
}

// turned keeps the states after something was done to one of the turns.
func (s *Store) turned(ctx context.Context, tx *db.Tx, c application.Case, list []Turn, now turn.Turns,
	verb, body string) error {
	if err := s.keepTurns(ctx, tx, list, now); err != nil {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, say.Verb(verb), c.ID, c.RoundID,
		map[string]string{"body": f.Design.BodyLabel(body)}); err != nil {
		return err
	}
	if letter := form.Key(strings.TrimPrefix(verb, "turn-")); f.Design.HasLetter(form.Key(body) + "-" + letter) {
		hold := time.Duration(f.Design.HoldMinutes) * time.Minute
		if _, err := s.Cases.SendLetter(ctx, tx, c, form.Key(body)+"-"+letter, nil, tx.At.Add(hold)); err != nil {
			return err
		}
	}
	if err := s.turnFindings(ctx, tx, f, c, map[form.Outcome]int{}); err != nil {
		return err
	}
	return s.concludeWorked(ctx, tx, c)
}

// goOn is what the office’s word on an answered turn does besides: over a no it goes
// to the next body, sent back it goes to those who asked once more.
func (s *Store) goOn(ctx context.Context, tx *db.Tx, c application.Case, rule form.Key, yes bool) error {
	body, ok := strings.CutPrefix(string(rule), string(form.TurnedRule("")))
	if !ok || !yes {
		return nil
	}
	list, err := s.TurnsOf(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(list, func(t Turn) bool { return t.Body == body })
	now := states(list)
	if i < 0 || now[i] != turn.No && now[i] != turn.Back {
		return nil
	}
	if err := now.Go(i); err != nil {
		return err
	}
	if err := s.keepTurns(ctx, tx, list, now); err != nil {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	return s.turnFindings(ctx, tx, f, c, map[form.Outcome]int{})
}

// tellAfter is how long cases for a body are gathered before its people are told.
const tellAfter = 10 * time.Minute

// remindDays before its day a body is reminded of what it still has, in working days.
const remindDays = 2

// SweepTurns tells the people of bodies what is with them, and reminds them of the day.
func (s *Store) SweepTurns(ctx context.Context, at time.Time) error {
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		var due []struct {
			Round  int64 `db:"round_id"`
			Body   string
			New    int
			Soon   int
			DueAt  *time.Time `db:"due_at"`
			Design int64      `db:"design_id"`
			Name   string
		}
		last := calendar.AddWorkingDays(calendar.DateOf(at, s.Zone()), remindDays, s.Cases.Rounds.Off)
		soon, _ := calendar.At(last, 24, 0).In(s.Zone())
		if err := tx.SelectContext(ctx, &due, `
			WITH open AS (SELECT e.id FROM turn t JOIN entry e ON e.id = t.entry_id WHERE t.state = 'with' AND (t.told_at IS NULL OR t.reminded_at IS NULL) AND e.state = ANY($4)),
			new AS (UPDATE turn SET told_at = $1 WHERE state = 'with' AND told_at IS NULL AND since <= $2 AND entry_id IN (SELECT id FROM open) RETURNING round_id, body),
			soon AS (UPDATE turn SET reminded_at = $1 WHERE state = 'with' AND reminded_at IS NULL AND due_at < $3 AND told_at IS NOT NULL AND entry_id IN (SELECT id FROM open) RETURNING round_id, body, due_at)
			SELECT x.round_id, x.body, sum(x.new) AS new, sum(x.soon) AS soon, min(x.due_at) AS due_at, r.design_id, r.name FROM (
			  SELECT round_id, body, 1 AS new, 0 AS soon, NULL::timestamptz AS due_at FROM new UNION ALL SELECT round_id, body, 0, 1, due_at FROM soon) x
			JOIN round r ON r.id = x.round_id GROUP BY x.round_id, x.body, r.id`, at, at.Add(-tellAfter), soon, lifecycle.With(lifecycle.ToSettle)); err != nil {
			return err
		}
		for _, d := range due {
			var people []struct {
				ID          int64
				Name, Email string
			}
			if err := tx.SelectContext(ctx, &people, `
				SELECT DISTINCT a.id, a.name, a.email FROM account_role r JOIN account a ON a.id = r.account_id
				WHERE r.round_id = $1 AND r.body = $2 AND r.ended_at IS NULL AND (r.until IS NULL OR r.until > $3) ORDER BY a.id`, d.Round, d.Body, at); err != nil {
				return err
			}
			f, err := s.Cases.Rounds.Form(ctx, tx, d.Design)
			if err != nil {
				return err
			}
			for _, p := range people {
				l := post.Letter{Kind: "turn", Account: p.ID, Round: d.Round, To: p.Email, ToName: p.Name}
				l.Subject, l.Body = say.TurnMail(f, d.Body, d.Name, p.Name, d.New, d.Soon, d.DueAt)
				if _, err := s.Cases.Post.Queue(ctx, tx, l); err != nil {
					return err
				}
			}
		}
		return nil
	})
}
