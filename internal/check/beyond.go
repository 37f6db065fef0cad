package check

import (
	"context"
	"slices"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/connection"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
)

// mostBeyond is how many connections or texts a finding names.
const mostBeyond = 12

// putBeyond keeps what was found beyond the case among its findings: people of it
// and of other cases who belong together, texts that others have. What a person has
// ruled of no matter does not keep it waiting; readers and others who judge do not
// either, they are kept from reading it.
func (s *Store) putBeyond(ctx context.Context, tx *db.Tx, f *form.Form, c application.Case,
	counts map[form.Outcome]int) error {
	people, err := s.Connections.List(ctx, tx, connection.Which{Case: c.ID, Ruled: true, Most: 100})
	if err != nil {
		return err
	}
	var open []string
	looked := 0
	for _, x := range people {
		switch {
		case !x.B.Part.OfCase():
			continue
		case x.Matters != nil && !*x.Matters:
			looked++
			continue
		}
		says := say.Connected(say.ConnectedEnd{Name: x.A.Name, Ref: x.A.Ref, Part: x.A.Part},
			say.ConnectedEnd{Name: x.B.Name, Ref: x.B.Ref, Part: x.B.Part}, x.Same, x.A.Body && x.B.Body, x.Evidence, c.Ref)
		if x.Matters != nil {
			says += " It was ruled that this matters: " + x.Note
		}
		open = append(open, says)
	}
	if err := s.putFound(ctx, tx, c, form.ConnectedRule, open, looked, counts); err != nil {
		return err
	}
	texts, err := s.Connections.AlikeIn(ctx, tx, c.RoundID, c.EntryID, 100)
	if err != nil {
		return err
	}
	open, looked = nil, 0
	for _, x := range texts {
		mine, other := x.A, x.B
		if mine.EntryID != c.EntryID {
			mine, other = other, mine
		}
		if x.Matters != nil && !*x.Matters {
			looked++
			continue
		}
		label := mine.Question
		if q := f.Question(form.Key(mine.Question)); q != nil {
			label = q.Label
		}
		says := say.Texts(label, other.Ref, other.Round, x.Contained, x.Shared)
		if x.Matters != nil {
			says += " It was ruled that this matters: " + x.Note
		}
		open = append(open, says)
	}
	return s.putFound(ctx, tx, c, form.AlikeRule, open, looked, counts)
}

// putFound keeps one of them, or nothing where nothing was found.
func (s *Store) putFound(ctx context.Context, tx *db.Tx, c application.Case, rule form.Key, open []string, looked int,
	counts map[form.Outcome]int) error {
	switch {
	case len(open) > 0:
		if more := len(open) - mostBeyond; more > 0 {
			open = append(open[:mostBeyond], "And "+phrase.Count(int64(more), "more.", "more."))
		}
		counts[form.Person]++
		return s.put(ctx, tx, c.EntryID, rule, form.Person, strings.Join(open, "\n"))
	case looked > 0:
		counts[form.Holds]++
		return s.put(ctx, tx, c.EntryID, rule, form.Holds, phrase.Initial(phrase.Count(int64(looked),
			"thing was found and is",
			"things were found and are"))+" ruled of no matter.")
	}
	_, err := tx.ExecContext(ctx, `DELETE FROM finding WHERE entry_id = $1 AND rule = $2`, c.EntryID, rule)
	return err
}

// lookBeyond is the job that looks beyond a case once more, when one that came
// later belongs to it.
type lookBeyond struct {
	Entry int64 `json:"entry"`
}

// Kind names the job.
func (lookBeyond) Kind() string { return "check.beyond" }

func (s *Store) registerBeyond() {
	jobs.Handle(s.Jobs, jobs.Short, func(ctx context.Context, at time.Time, x lookBeyond) error {
		return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			return s.beyond(ctx, tx, []int64{x.Entry})
		})
	})
}

// beyond puts anew what was found beyond entries whose checks are open.
func (s *Store) beyond(ctx context.Context, tx *db.Tx, entries []int64) error {
	for _, id := range entries {
		c, err := s.Cases.ByEntry(ctx, tx, id)
		if err != nil {
			return err
		}
		if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
			return err
		}
		if !c.State.Is(lifecycle.ToSettle) {
			continue
		}
		f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
		if err != nil {
			return err
		}
		if err := s.putBeyond(ctx, tx, f, c, map[form.Outcome]int{}); err != nil {
			return err
		}
		if err := s.concludeWorked(ctx, tx, c); err != nil {
			return err
		}
	}
	return nil
}

// RuleConnection keeps what a person says of two who may belong together, and goes
// on with the cases that waited for it.
func (s *Store) RuleConnection(ctx context.Context, tx *db.Tx, round, id int64, matters bool, note string) error {
	entries, err := s.Connections.Rule(ctx, tx, round, id, matters, note)
	if err != nil {
		return err
	}
	return s.beyond(ctx, tx, entries)
}

// RuleAlike keeps what a person says of two texts, and goes on with the cases that
// waited for it.
func (s *Store) RuleAlike(ctx context.Context, tx *db.Tx, round, id int64, matters bool, note string) error {
	entries, err := s.Connections.RuleAlike(ctx, tx, round, id, matters, note)
	if err != nil {
		return err
	}
	return s.beyond(ctx, tx, entries)
}

// tellOthers looks beyond the cases that one just worked belongs to, once more.
func (s *Store) tellOthers(ctx context.Context, tx *db.Tx, c application.Case) error {
	var entries []int64
	if err := tx.SelectContext(ctx, &entries, `
		SELECT e.id FROM entry e WHERE e.state = ANY($2) AND e.application_id <> $1 AND (e.application_id IN (
		  SELECT b.application_id FROM connection x JOIN party a ON a.id IN (x.one, x.other) JOIN party b ON b.id IN (x.one, x.other) WHERE a.application_id = $1 AND b.application_id IS NOT NULL)
		  OR e.id IN (SELECT b.entry_id FROM likeness l JOIN prose a ON a.id IN (l.one, l.other) JOIN prose b ON b.id IN (l.one, l.other) WHERE a.application_id = $1))
		ORDER BY e.id LIMIT 50`, c.ID, lifecycle.With(lifecycle.ToSettle)); err != nil {
		return err
	}
	var list []jobs.Job
	for _, id := range slices.Compact(entries) {
		list = append(list, jobs.Job{Args: lookBeyond{id}, Due: tx.At})
	}
	if list == nil {
		return nil
	}
	return s.Jobs.EnqueueAll(ctx, tx, list)
}
