package check

import (
	"context"
	"errors"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/identifier"
	"ulvant/core/lifecycle"
	core "ulvant/core/profile"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/profile"
	"ulvant/internal/trail"
)

// RegisterAnswer is what a register says of a number of a case’s body.
type RegisterAnswer struct {
	ID      int64
	EntryID int64 `db:"entry_id"`
	Scheme  string
	Value   string
	Finding core.Finding
	Name    string // it has there
	At      time.Time
	AskedAt time.Time `db:"asked_at"` // when it last said so
	Offer   bool
	SeenAt  *time.Time `db:"seen_at"`
}

// Registers lists what registers said of a case’s body, the latest last.
func (s *Store) Registers(ctx context.Context, q db.Querier, entry int64) (out []RegisterAnswer, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT id, entry_id, scheme, value, finding, name, at, asked_at, offer, seen_at FROM register_answer WHERE entry_id = $1 ORDER BY id`, entry)
	return out, err
}

// registersOf asks about the body of a sent entry, outside of transactions: it may
// take its time. Nothing is asked for whoever applies as a person, nor of registers
// that cannot be asked from here.
func (s *Store) registersOf(ctx context.Context, entry int64) (out []RegisterAnswer, err error) {
	c, err := s.Cases.ByEntry(ctx, s.DB, entry)
	if err != nil {
		return nil, err
	}
	p, err := s.Profiles.For(ctx, s.DB, c.ID)
	if errors.Is(err, profile.ErrNotFound) {
		return nil, nil
	}
	if err != nil || p.Kind == core.Person {
		return nil, err
	}
	numbers, err := s.Profiles.Numbers(ctx, s.DB, p.ID)
	if err != nil {
		return nil, err
	}
	for _, n := range numbers {
		if n.Scheme == identifier.Local {
			continue
		}
		a := RegisterAnswer{EntryID: entry, Scheme: n.Scheme, Value: n.Value, Finding: core.NoAnswer}
		switch e, err := s.Profiles.Asks.Entry(ctx, n.Scheme, n.Value); {
		case errors.Is(err, profile.ErrNotThere):
			a.Finding = core.NotThere
		case err == nil:
			a.Finding, a.Name = core.Judge(p.Name, p.Facts.Legal, e.Name, e.Struck), e.Name
		}
		out = append(out, a)
	}
	return out, nil
}

// keepRegisters keeps what was answered; changed are the sentences of those that say
// otherwise than before. Silence is no change.
func (s *Store) keepRegisters(ctx context.Context, tx *db.Tx, entry int64, answers []RegisterAnswer,
	offer bool) (changed []string, err error) {
	before, err := s.Registers(ctx, tx, entry)
	if err != nil {
		return nil, err
	}
	for _, a := range answers {
		var last, said *RegisterAnswer // the last of all, and the last that was an answer
		for i := range before {
			if b := &before[i]; b.Scheme == a.Scheme && b.Value == a.Value {
				last = b
				if b.Finding != core.NoAnswer {
					said = b
				}
			}
		}
		if last != nil && last.Finding == a.Finding && last.Name == a.Name {
			if _, err := tx.ExecContext(ctx, `UPDATE register_answer SET asked_at = $2, offer = offer OR $3 WHERE id = $1`,
				last.ID,
				tx.At, offer); err != nil {
				return nil, err
			}
			continue
		}
		turned := said != nil && a.Finding != core.NoAnswer && (said.Finding != a.Finding || said.Name != a.Name)
		seen := &tx.At
		if turned && offer {
			seen = nil // a person looks before anything is paid
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO register_answer (entry_id, scheme, value, finding, name, at, asked_at, offer, seen_at)
			VALUES (@entry, @scheme, @value, @finding, @name, @at, @at, @offer, @seen)`,
			db.Named{"entry": entry, "scheme": a.Scheme, "value": a.Value, "finding": a.Finding, "name": a.Name, "at": tx.At,
				"offer": offer, "seen": seen}); err != nil {
			return nil, err
		}
		if turned {
			changed = append(changed, say.RegisterTurned(a.Value, said.Finding, a.Finding, a.Name))
		}
	}
	return changed, nil
}

// putRegisters keeps among the findings what registers say of the case’s body now.
func (s *Store) putRegisters(ctx context.Context, tx *db.Tx, c application.Case, counts map[form.Outcome]int) error {
	list, err := s.Registers(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	latest := map[string]RegisterAnswer{}
	var order []string
	for _, a := range list {
		k := a.Scheme + "/" + a.Value
		if _, ok := latest[k]; !ok {
			order = append(order, k)
		}
		latest[k] = a
	}
	if order == nil {
		_, err := tx.ExecContext(ctx, `DELETE FROM finding WHERE entry_id = $1 AND rule = $2`, c.EntryID, form.RegisterRule)
		return err
	}
	outcome := form.Holds
	var says []string
	for _, k := range order {
		a := latest[k]
		if a.Finding != core.Found {
			outcome = form.Person
		}
		says = append(says, say.RegisterSays(a.Value, a.Finding, a.Name))
	}
	counts[outcome]++
	return s.put(ctx, tx, c.EntryID, form.RegisterRule, outcome, strings.Join(says, "\n"))
}

// askRegisters is the job that asks once more, before anything is paid, or because a
// register did not answer.
type askRegisters struct {
	Entry int64 `json:"entry"`
	Offer bool  `json:"offer"`
}

// Kind names the job.
func (askRegisters) Kind() string { return "check.registers" }

func (s *Store) registerRegisters() {
	jobs.Handle(s.Jobs, jobs.Short, func(ctx context.Context, at time.Time, a askRegisters) error {
		answers, err := s.registersOf(ctx, a.Entry)
		if err != nil {
			return err
		}
		return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			c, err := s.Cases.ByEntry(ctx, tx, a.Entry)
			if err != nil {
				return err
			}
			if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
				return err
			}
			changed, err := s.keepRegisters(ctx, tx, a.Entry, answers, a.Offer)
			if err != nil {
				return err
			}
			if len(changed) > 0 {
				if err := trail.Write(ctx, tx, "register-changed", c.ID, c.RoundID,
					map[string]string{"says": strings.Join(changed, " ")}); err != nil {
					return err
				}
			}
			if !c.State.Is(lifecycle.ToSettle) {
				return nil
			}
			if err := s.putRegisters(ctx, tx, c, map[form.Outcome]int{}); err != nil {
				return err
			}
			return s.concludeWorked(ctx, tx, c)
		})
	})
}

// mostAsked is how many entries are asked about in one minute.
const mostAsked = 100

// SweepRegisters asks again about bodies of cases that were awarded, once for each
// award, and about those whose register did not answer.
func (s *Store) SweepRegisters(ctx context.Context, at time.Time) error {
	var list []askRegisters
	if err := s.DB.SelectContext(ctx, &list, `
		SELECT entry, offer FROM (
		  SELECT e.id AS entry, true AS offer FROM entry e JOIN application a ON a.id = e.application_id JOIN profile p ON p.id = a.profile_id
		  WHERE e.state = ANY($1) AND p.kind <> 'person' AND EXISTS (SELECT FROM profile_number n WHERE n.profile_id = p.id AND n.scheme <> $5)
		    AND NOT EXISTS (SELECT FROM register_answer x WHERE x.entry_id = e.id AND x.offer AND x.asked_at >= e.state_at)
		  UNION ALL
		  SELECT DISTINCT f.entry_id, false FROM finding f JOIN entry e ON e.id = f.entry_id JOIN register_answer x ON x.entry_id = e.id
		  WHERE f.rule = $2 AND f.outcome = 'person' AND f.settled IS NULL AND x.finding = 'no answer' AND x.asked_at < $3
		    AND NOT EXISTS (SELECT FROM register_answer y WHERE y.entry_id = e.id AND y.scheme = x.scheme AND y.value = x.value AND y.id > x.id)) w
		ORDER BY offer DESC, entry LIMIT $4`, lifecycle.With(lifecycle.Gives), form.RegisterRule, at.Add(-askRegistersAgain), mostAsked,
		identifier.Local); err != nil || len(list) == 0 {
		return err
	}
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		var out []jobs.Job
		for _, a := range list {
			out = append(out, jobs.Job{Args: a, Due: at})
		}
		return s.Jobs.EnqueueAll(ctx, tx, out)
	})
}

// askRegistersAgain is how long a register that did not answer is left alone.
const askRegistersAgain = 20 * time.Minute

// Turned is a case whose register says otherwise since it was sent, and nobody has
// looked at it.
type Turned struct {
	Ref       string
	Title     string
	RoundID   int64  `db:"round_id"`
	RoundKey  string `db:"round_key"`
	Programme string
	Place     string
	Since     time.Time
}

// TurnedRegisters lists them, the oldest first.
func (s *Store) TurnedRegisters(ctx context.Context, q db.Querier) (out []Turned, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, r.id AS round_id, r.key AS round_key, r.programme, COALESCE(st.place, '') AS place, min(x.at) AS since
		FROM register_answer x JOIN entry e ON e.id = x.entry_id JOIN application a ON a.id = e.application_id JOIN round r ON r.id = a.round_id
		LEFT JOIN standing st ON st.entry_id = e.id WHERE x.offer AND x.seen_at IS NULL GROUP BY a.id, r.id, st.place ORDER BY since`)
	return out, err
}

// SeeRegisters says that a person has looked at what registers say of a case now.
func (s *Store) SeeRegisters(ctx context.Context, tx *db.Tx, c application.Case, note string) error {
	if note = strings.TrimSpace(note); note == "" || len(note) > 1000 {
		return ErrNote
	}
	r, err := tx.ExecContext(ctx, `UPDATE register_answer SET seen_at = $2 WHERE entry_id = $1 AND seen_at IS NULL`,
		c.EntryID, tx.At)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return nil
	}
	return trail.Write(ctx, tx, "saw-register", c.ID, c.RoundID, map[string]string{"note": note})
}
