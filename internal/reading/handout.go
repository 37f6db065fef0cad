package reading

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/work"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// HandedOut says what handing out did.
type HandedOut struct {
	Cases, Readers, Most int
	Short                []string // reference numbers that could not get all their readers
}

// Says it in a sentence.
func (h HandedOut) Says() string {
	s := phrase.Count(int64(h.Cases), "case is", "cases are") + " with " +
		phrase.Count(int64(h.Readers), "reader", "readers") + "; nobody has more than " + strconv.Itoa(h.Most) + "."
	if len(h.Short) > 0 {
		list := h.Short
		if len(list) > 20 {
			list = append(slices.Clone(list[:20]), strconv.Itoa(len(h.Short)-20)+" more")
		}
		s += " Too few readers may read " + strings.Join(list, ", ") + ": invite another."
	}
	return s
}

// HandOut works out a plan and keeps it at once: every eligible case gets as many
// readers as the design asks for, keeping what is given already. It is worked out
// before anything is locked, and once more if something changed meanwhile.
func (s *Store) HandOut(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form,
	reached func(done int)) (out HandedOut, err error) {
	if err := MayHandOut(f, tx.At); err != nil {
		return out, err
	}
	for {
		st, err := s.stack(ctx, tx, r, f, true)
		if err != nil {
			return out, err
		}
		asks := Asks{}
		plan := solve(st, f, asks)
		again, err := s.locked(ctx, tx, r, f, st)
		if err != nil {
			return out, err
		}
		if again { // somebody stepped aside, or a case was taken back, while it was worked out
			continue
		}
		return s.give(ctx, tx, r, st, plan.Given, shorts(st, plan), reached)
	}
}

// locked locks the cases of a stack, and reports that it is no longer as it was.
func (s *Store) locked(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, st *stack) (changed bool,
	err error) {
	if st.locked, err = s.Cases.LockAll(ctx, tx, st.entries); err != nil {
		return false, err
	}
	now, err := s.stack(ctx, tx, r, f, false)
	if err != nil {
		return false, err
	}
	return !slices.Equal(now.entries, st.entries) || !slices.Equal(now.versions, st.versions) ||
		!slices.EqualFunc(now.kept, st.kept, slices.Equal[[]int]) || len(now.barred) != len(st.barred) ||
		!slices.Equal(now.accounts(), st.accounts()), nil
}

// MayHandOut refuses while more can come in.
func MayHandOut(f *form.Form, at time.Time) error {
	if until := f.HandsOutFrom(); at.Before(until) {
		return refusal.Unfit("applications still come in until " + calendar.WallOf(until, f.Zone).Words() +
			"; hand out after that, so that every case gets the same readers’ time")
	}
	return nil
}

// step is how many cases are given out between two reports of progress.
const step = 250

// give writes down what is new, many cases at once, and tells each reader what waits.
func (s *Store) give(ctx context.Context, tx *db.Tx, r round.Round, st *stack, given [][]int, short []string,
	reached func(int)) (out HandedOut, err error) {
	cases := map[int64]application.Case{}
	for _, c := range st.locked {
		cases[c.EntryID] = c
	}
	load, more := make([]int, len(st.readers)), make([]int, len(st.readers))
	for from := 0; from < len(given); from += step {
		upto := min(from+step, len(given))
		var entries, apps, accounts []int64
		var told []trail.Entry
		var changes []application.Change
		for i := from; i < upto; i++ {
			for _, j := range given[i] {
				load[j]++
				if slices.Contains(st.kept[i], j) {
					continue
				}
				more[j]++
				account := st.readers[j].Account
				entries, apps, accounts = append(entries, st.entries[i]), append(apps, st.apps[i]), append(accounts, account)
				told = append(told, trail.Entry{Verb: "given-to", Application: st.apps[i], Round: r.ID,
					Figures: map[string]string{"reader": strconv.FormatInt(account, 10)}})
			}
			if c := cases[st.entries[i]]; c.State.Is(lifecycle.ToRead) && len(given[i]) > 0 {
				next, err := lifecycle.Next(c.State, lifecycle.HandOut, true)
				if err != nil {
					return out, err
				}
				changes = append(changes, application.Change{Case: c, Step: next})
			}
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO assignment (entry_id, application_id, account_id, given_at)
			SELECT n.entry, n.app, n.account, $4 FROM unnest($1::bigint[], $2::bigint[], $3::bigint[]) AS n(entry, app, account)`, entries, apps, accounts, tx.At); err != nil {
			return out, err
		}
		if err := trail.WriteAll(ctx, tx, told); err != nil {
			return out, err
		}
		if err := s.Cases.ApplyAll(ctx, tx, changes); err != nil {
			return out, err
		}
		if reached != nil {
			reached(upto)
		}
	}
	out = HandedOut{Cases: len(st.entries), Readers: len(st.readers), Most: slices.Max(load), Short: short}
	return out, s.tellGiven(ctx, tx, r, st, more)
}

// later is the job that hands many cases out.
type later struct{ round.Long }

// Kind names the job.
func (later) Kind() string { return "long.hand-out" }

// ToHandOut counts the cases that handing out would look at.
func (s *Store) ToHandOut(ctx context.Context, q db.Querier, r round.Round, f *form.Form, at time.Time) (n int,
	err error) {
	err = q.GetContext(ctx, &n, `SELECT count(*) FROM entry e JOIN application a ON a.id = e.application_id
		WHERE a.round_id = $1 AND e.state = ANY($3) AND e.stage = ANY($2)`, r.ID, readStages(f, at), lifecycle.With(lifecycle.HandsOut))
	return n, err
}

// HandOutLater hands many cases out by a job.
func (s *Store) HandOutLater(ctx context.Context, tx *db.Tx, r round.Round, cases int) error {
	l, err := s.Later.Begin(ctx, tx, work.HandingOut, r, cases)
	if err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, later{l}, tx.At)
}

// Register takes up the jobs.
func (s *Store) Register() {
	s.registerPlanning()
	s.registerGivingOut()
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, l later) error {
		return s.Later.Do(ctx, at, l.Long, func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form,
			reached func(int)) (string, error) {
			out, err := s.HandOut(ctx, tx, r, f, reached)
			return out.Says(), err
		})
	})
}
