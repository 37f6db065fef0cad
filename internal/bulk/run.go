package bulk

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"

	"ulvant/core/access"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/work"
)

// running is the job that draws, does or undoes one; it goes on where another left
// off.
type running struct {
	Bulk  int64     `json:"bulk"`
	Stage Stage     `json:"stage"` // in which it must still be
	At    time.Time `json:"at"`    // when its acts count
}

// Kind names the job.
func (running) Kind() string { return "long.bulk" }

// Register takes up the job.
func (s *Store) Register() { jobs.Handle(s.Jobs, jobs.Long, s.run) }

// errDrawn takes a transaction back that was only to show what it would do; errTaken
// one whose case somebody else has gone through: a request and a job may run beside
// each other.
var errDrawn, errTaken = errors.New("drawn"), errors.New("gone through already")

// waits is the outcome of the cases that a stage has still to go through.
var waits = map[Stage]Outcome{Drawing: "", Doing: Would, Undoing: Did}

// Tell says what is to be done, and has it drawn: at once for a few, by a job for
// many.
func (s *Store) Tell(ctx context.Context, tx *db.Tx, b Bulk, a Args) error {
	if b.Stage != Asked && b.Stage != Drawn {
		return refusal.Unfit("This is under way already.")
	}
	if err := b.Act.Check(a); err != nil {
		return err
	}
	raw, err := json.Marshal(a)
	if err != nil {
		return err
	}
	var n int
	if err := tx.GetContext(ctx, &n, `
		WITH anew AS (UPDATE bulked SET outcome = '', says = '', odd = false, mails = NULL WHERE bulk_id = $1 RETURNING 1) SELECT count(*) FROM anew`,
		b.ID); err != nil {
		return err
	}
	return s.start(ctx, tx, b, Drawing, n, tx.At, string(raw))
}

// start keeps that a stage has begun, with the job that goes through it at due.
func (s *Store) start(ctx context.Context, tx *db.Tx, b Bulk, stage Stage, n int, due time.Time, args string) error {
	workID, err := s.Work.Begin(ctx, tx, work.Bulk, b.Round, n)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE bulk SET stage = @stage, work_id = @work, args = COALESCE(NULLIF(@args, '')::jsonb, args), due_at = COALESCE(@due, due_at) WHERE id = @id`,
		db.Named{"id": b.ID, "stage": stage, "work": workID, "args": args, "due": orNil(stage == Held, due)}); err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, running{b.ID, stage, tx.At}, due)
}

func orNil(yes bool, t time.Time) *time.Time {
	if yes {
		return &t
	}
	return nil
}

// Do puts what was drawn to work at due; until then it can be stopped.
func (s *Store) Do(ctx context.Context, tx *db.Tx, b Bulk, due time.Time) error {
	if b.Stage != Drawn {
		return refusal.Unfit("It is not drawn yet, or under way already.")
	}
	t, err := s.Tally(ctx, tx, b.ID)
	if err != nil {
		return err
	}
	if t[Would] == 0 {
		return refusal.Unfit("There is nothing to do to any of them.")
	}
	return s.start(ctx, tx, b, Held, t[Would], due, "")
}

// Stop keeps a held one from happening.
func (s *Store) Stop(ctx context.Context, tx *db.Tx, b Bulk) error {
	return s.step(ctx, tx, b, Held, Stopped)
}

func (s *Store) step(ctx context.Context, tx *db.Tx, b Bulk, from, to Stage) error {
	r, err := tx.ExecContext(ctx, `UPDATE bulk SET stage = $3 WHERE id = $1 AND stage = $2`, b.ID, from, to)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return refusal.Unfit("It has begun meanwhile, or was stopped.")
	}
	return nil
}

// StopOne keeps a held one from happening to a single case, or (on) lets it.
func (s *Store) StopOne(ctx context.Context, tx *db.Tx, b Bulk, entry int64, on bool) error {
	from, to := Would, StopOne
	if on {
		from, to = to, from
	}
	r, err := tx.ExecContext(ctx, `
		UPDATE bulked SET outcome = $4 WHERE bulk_id = $1 AND entry_id = $2 AND outcome = $3 AND EXISTS (SELECT FROM bulk b WHERE b.id = $1 AND b.stage IN ('drawn', 'held'))`,
		b.ID, entry, from, to)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return refusal.Unfit("It has happened meanwhile.")
	}
	return nil
}

// Undo takes what was done back, case by case.
func (s *Store) Undo(ctx context.Context, tx *db.Tx, b Bulk) error {
	if b.Stage != Done || !b.Act.Undoes() {
		return refusal.Unfit("This cannot be undone.")
	}
	t, err := s.Tally(ctx, tx, b.ID)
	if err != nil {
		return err
	}
	return s.start(ctx, tx, b, Undoing, t[Did], tx.At, "")
}

// Run goes through a stage at once, for few cases; a job does the same.
func (s *Store) Run(ctx context.Context, at time.Time, id int64, stage Stage) error {
	return s.run(ctx, at, running{id, stage, at})
}

// run goes through the cases of a stage, each in a transaction of its own.
func (s *Store) run(ctx context.Context, at time.Time, j running) error {
	var b Bulk
	if err := s.DB.GetContext(ctx, &b, `SELECT `+columns+` FROM bulk WHERE id = $1`, j.Bulk); err != nil {
		return err
	}
	if j.Stage == Held {
		if b.Stage == Held && (b.DueAt == nil || b.DueAt.After(at)) {
			return nil // another job comes when it is due
		}
		if b.Stage == Held {
			err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
				return s.step(ctx, tx, b, Held, Doing)
			})
			if _, said := refusal.Of(err); said {
				return nil // stopped meanwhile
			}
			if err != nil {
				return err
			}
			b.Stage = Doing
		}
		j.Stage = Doing
	}
	if b.Stage != j.Stage {
		return nil // it ran already, was drawn anew, or stopped
	}
	var a Args
	if err := json.Unmarshal(b.Args, &a); err != nil {
		return err
	}
	var entries []int64
	if err := s.DB.SelectContext(ctx, &entries,
		`SELECT entry_id FROM bulked WHERE bulk_id = $1 AND outcome = $2 ORDER BY number`, b.ID, waits[b.Stage]); err != nil {
		return err
	}
	roles, err := s.People.Roles(ctx, s.DB, b.ByID)
	if err != nil {
		return err
	}
	about, err := s.about(ctx, s.DB, entries)
	if err != nil {
		return err
	}
	w, err := s.Work.Any(ctx, b.WorkID)
	if err != nil {
		return err
	}
	already := w.Total - len(entries) // by a job that was cut off
	for i, entry := range entries {
		if err := s.one(ctx, at, b, a, entry, roles, about[entry]); err != nil {
			return err
		}
		if i%20 == 19 {
			s.Work.Reached(ctx, b.WorkID, already+i+1)
		}
	}
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		t, err := s.Tally(ctx, tx, b.ID)
		if err != nil {
			return err
		}
		next := map[Stage]Stage{Drawing: Drawn, Doing: Done, Undoing: Undone}[b.Stage]
		r, err := tx.ExecContext(ctx,
			`UPDATE bulk SET stage = $2, did_at = CASE WHEN $2 = 'done' THEN $3::timestamptz ELSE did_at END WHERE id = $1 AND stage = $4`,
			b.ID, next, at, b.Stage)
		if err != nil {
			return err
		}
		if n, err := r.RowsAffected(); err != nil || n == 0 {
			return err // whoever ran beside this has ended it
		}
		return s.Work.End(ctx, tx, b.WorkID, at, false, came(next, t))
	})
}

// came says what came of a stage.
func came(stage Stage, t Tally) string {
	switch stage {
	case Drawn:
		return phrase.Count(int64(t[Would]), "application", "applications") + " drawn"
	case Undone:
		return say.CameOf(t[TakenOff], t[Stands])
	}
	return say.CameOf(t[Did], t[Failed])
}

// one draws, does or undoes one case.
func (s *Store) one(ctx context.Context, at time.Time, b Bulk, a Args, entry int64, roles people.Roles,
	about access.About) error {
	x := One{EntryID: entry}
	err := s.DB.Do(ctx, db.Account(b.ByID), at, func(ctx context.Context, tx *db.Tx) error {
		x = One{EntryID: entry} // the transaction may run again
		var free bool
		if err := tx.GetContext(ctx, &free, `SELECT outcome = $3 FROM bulked WHERE bulk_id = $1 AND entry_id = $2 FOR UPDATE`,
			b.ID, entry, waits[b.Stage]); err != nil {
			return err
		}
		if !free {
			return errTaken
		}
		c, err := s.Cases.ByEntry(ctx, tx, entry)
		if err != nil {
			return err
		}
		if err := s.doOne(ctx, tx, b, a, c, roles, about, &x); err != nil {
			return err
		}
		if b.Stage == Drawing {
			return errDrawn
		}
		return s.put(ctx, tx, b.ID, x)
	})
	if err == nil || errors.Is(err, errTaken) {
		return nil
	}
	if no, said := refusal.Of(err); said {
		x.Outcome = map[Stage]Outcome{Drawing: WouldNot, Doing: Failed, Undoing: Stands}[b.Stage]
		x.Says, x.Odd, x.Mails = phrase.LowerInitial(no.Clause()), false, nil
	} else if !errors.Is(err, errDrawn) {
		return err
	}
	return s.put(ctx, s.DB, b.ID, x)
}

func (s *Store) doOne(ctx context.Context, tx *db.Tx, b Bulk, a Args, c application.Case, roles people.Roles,
	about access.About, x *One) (err error) {
	rel := access.SignedIn | access.Of(roles, about, tx.At)
	own, err := s.Cases.Relations(ctx, tx, c.ID, b.ByID)
	if err != nil {
		return err
	}
	switch access.Allow(b.Act.Needs(), rel|own, c.State) {
	case access.Allowed:
	case access.Refused:
		if b.Act.Needs().Theirs(rel) {
			return refusal.Unfit("it is " + string(c.State) + ", and this cannot be done then")
		}
		return refusal.Unfit("this is a colleague’s to do")
	default:
		return refusal.Unfit("this is a colleague’s to do")
	}
	if b.Stage == Undoing {
		var undo []byte
		if err := tx.GetContext(ctx, &undo, `SELECT undo FROM bulked WHERE bulk_id = $1 AND entry_id = $2`, b.ID,
			c.EntryID); err != nil {
			return err
		}
		x.Outcome = TakenOff
		return acts[b.Act].undo(ctx, s, tx, c, a, undo)
	}
	newest, err := s.Post.Newest(ctx, tx)
	if err != nil {
		return err
	}
	var undo any
	x.Says, x.Odd, undo, err = acts[b.Act].do(ctx, s, tx, c, a)
	if err != nil {
		return err
	}
	if x.Undo, err = json.Marshal(undo); err != nil {
		return err
	}
	letters, err := s.Post.Written(ctx, tx, c.ID, newest)
	if err != nil {
		return err
	}
	for _, l := range letters {
		x.Mails = append(x.Mails, Mail{To: l.To, Name: l.ToName, Subject: l.Subject, Body: s.Post.Whole(l.Body)})
	}
	x.Outcome = map[Stage]Outcome{Drawing: Would, Doing: Did}[b.Stage]
	return nil
}

func (s *Store) put(ctx context.Context, q sqlx.ExecerContext, bulk int64, x One) error {
	mails, err := json.Marshal(x.Mails)
	if err != nil {
		return err
	}
	var undo *string
	if x.Undo != nil {
		text := string(x.Undo)
		undo = &text
	}
	_, err = q.ExecContext(ctx,
		`UPDATE bulked SET outcome = @outcome, says = CASE WHEN @outcome = 'undone' THEN says ELSE @says END, odd = @odd, mails = NULLIF(@mails, 'null')::jsonb, undo = COALESCE(@undo::jsonb, undo) WHERE bulk_id = @bulk AND entry_id = @entry`,
		db.Named{"bulk": bulk, "entry": x.EntryID, "outcome": x.Outcome, "says": x.Says, "odd": x.Odd, "mails": string(mails),
			"undo": undo})
	return err
}
