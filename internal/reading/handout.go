package reading

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"ulvant/core/assignment"
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

// stack is what is handed out: cases and readers by their place in the lists.
type stack struct {
	entries  []int64
	versions []int
	apps     []int64
	readers  []int64
	kept     [][]int
	barred   map[[2]int]bool
}

// HandOut gives every eligible case as many readers as the design asks for,
// evenly, keeping what is given already. Readers who are the lead, have a part in
// the application, vouch for it, belong to somebody in it or stepped aside are
// passed over. It is worked
// out before anything is locked, and once more if something changed meanwhile.
func (s *Store) HandOut(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form,
	reached func(done int)) (out HandedOut, err error) {
	if err := MayHandOut(f, tx.At); err != nil {
		return out, err
	}
	if err := s.Connections.Sync(ctx, tx); err != nil { // who was invited a moment ago counts
		return out, err
	}
	for {
		st, err := s.stack(ctx, tx, r, f)
		if err != nil {
			return out, err
		}
		p := assignment.Problem{Cases: len(st.entries), Readers: len(st.readers), Each: f.Design.ReadersEach, Kept: st.kept,
			Barred: func(c, r int) bool { return st.barred[[2]int{c, r}] }}
		given, short := p.Solve()
		cases, err := s.Cases.LockAll(ctx, tx, st.entries)
		if err != nil {
			return out, err
		}
		now, err := s.stack(ctx, tx, r, f)
		if err != nil {
			return out, err
		}
		if !slices.Equal(now.entries, st.entries) || !slices.Equal(now.versions, st.versions) ||
			!slices.EqualFunc(now.kept, st.kept, slices.Equal[[]int]) || len(now.barred) != len(st.barred) ||
			!slices.Equal(now.readers, st.readers) {
			continue // somebody stepped aside, or a case was taken back, while it was worked out
		}
		byEntry := map[int64]application.Case{}
		for _, c := range cases {
			byEntry[c.EntryID] = c
		}
		for _, sh := range short {
			out.Short = append(out.Short, byEntry[st.entries[sh.Case]].Ref)
		}
		out.Cases, out.Readers = len(st.entries), len(st.readers)
		out.Most, err = s.give(ctx, tx, r, st, byEntry, given, reached)
		return out, err
	}
}

// MayHandOut refuses while more can come in.
func MayHandOut(f *form.Form, at time.Time) error {
	if until := f.HandsOutFrom(); at.Before(until) {
		return refusal.Unfit("applications still come in until " + calendar.WallOf(until, f.Zone).Words() +
			"; hand out after that, so that every case gets the same readers’ time")
	}
	return nil
}

// stack gathers what is handed out.
func (s *Store) stack(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form) (st stack, err error) {
	var cases []struct {
		ID      int64
		Version int
		App     int64 `db:"application_id"`
	}
	if err := tx.SelectContext(ctx, &cases, `
		SELECT e.id, e.version, e.application_id FROM entry e JOIN application a ON a.id = e.application_id
		WHERE a.round_id = $1 AND e.state = ANY($3) AND e.stage = ANY($2) ORDER BY a.id`, r.ID, readStages(f, tx.At), lifecycle.With(lifecycle.HandsOut)); err != nil {
		return st, err
	}
	if err := tx.SelectContext(ctx, &st.readers, `SELECT account_id FROM reader WHERE round_id = $1 ORDER BY account_id`,
		r.ID); err != nil {
		return st, err
	}
	if len(st.readers) == 0 {
		return st, refusal.Unfit("nobody has been invited to read yet").But("invite readers first")
	}
	if len(cases) == 0 {
		return st, refusal.Unfit("no application is eligible yet").But("settle the checks first")
	}
	at, reader := map[int64]int{}, map[int64]int{} // places by application, by account
	byEntry := map[int64]int{}
	for i, c := range cases {
		st.entries, st.versions, st.apps = append(st.entries, c.ID), append(st.versions, c.Version), append(st.apps, c.App)
		at[c.App], byEntry[c.ID] = i, i
	}
	for j, id := range st.readers {
		reader[id] = j
	}
	var pairs []struct {
		Of      int64
		Account int64 `db:"account_id"`
	}
	if err := tx.SelectContext(ctx, &pairs,
		`SELECT entry_id AS of, account_id FROM assignment WHERE entry_id = ANY($1) ORDER BY entry_id, account_id`,
		st.entries); err != nil {
		return st, err
	}
	st.kept, st.barred = make([][]int, len(cases)), map[[2]int]bool{}
	for _, p := range pairs {
		if j, ok := reader[p.Account]; ok {
			st.kept[byEntry[p.Of]] = append(st.kept[byEntry[p.Of]], j)
		}
	}
	pairs = nil
	if err := tx.SelectContext(ctx, &pairs, `
		SELECT application_id AS of, account_id FROM recusal WHERE application_id = ANY($1)
		UNION SELECT application_id, account_id FROM relation WHERE application_id = ANY($1)
		UNION SELECT f.application_id, p.id FROM referee f JOIN account p ON p.email = lower(f.email) WHERE f.application_id = ANY($1)`, st.apps); err != nil {
		return st, err
	}
	for _, p := range pairs {
		if j, ok := reader[p.Account]; ok {
			st.barred[[2]int{at[p.Of], j}] = true
		}
	}
	bars, err := s.Connections.Bars(ctx, tx, st.apps, st.readers)
	if err != nil {
		return st, err
	}
	for _, b := range bars {
		st.barred[[2]int{at[b.Application], reader[b.Account]}] = true
	}
	return st, nil
}

// step is how many cases are given out between two reports of progress.
const step = 250

// give writes down what is new, many cases at once; most is the greatest load.
func (s *Store) give(ctx context.Context, tx *db.Tx, r round.Round, st stack, cases map[int64]application.Case,
	given [][]int, reached func(int)) (most int, err error) {
	load := make([]int, len(st.readers))
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
				entries, apps, accounts = append(entries, st.entries[i]), append(apps, st.apps[i]), append(accounts, st.readers[j])
				told = append(told, trail.Entry{Verb: "given-to", Application: st.apps[i], Round: r.ID,
					Figures: map[string]string{"reader": strconv.FormatInt(st.readers[j], 10)}})
			}
			if c := cases[st.entries[i]]; c.State.Is(lifecycle.ToRead) && len(given[i]) > 0 {
				next, err := lifecycle.Next(c.State, lifecycle.HandOut, true)
				if err != nil {
					return 0, err
				}
				changes = append(changes, application.Change{Case: c, Step: next})
			}
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO assignment (entry_id, application_id, account_id, given_at)
			SELECT n.entry, n.app, n.account, $4 FROM unnest($1::bigint[], $2::bigint[], $3::bigint[]) AS n(entry, app, account)`, entries, apps, accounts, tx.At); err != nil {
			return 0, err
		}
		if err := trail.WriteAll(ctx, tx, told); err != nil {
			return 0, err
		}
		if err := s.Cases.ApplyAll(ctx, tx, changes); err != nil {
			return 0, err
		}
		if reached != nil {
			reached(upto)
		}
	}
	return slices.Max(load), nil
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

// Register takes up the job.
func (s *Store) Register() {
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, l later) error {
		return s.Later.Do(ctx, at, l.Long, func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form,
			reached func(int)) (string, error) {
			out, err := s.HandOut(ctx, tx, r, f, reached)
			return out.Says(), err
		})
	})
}
