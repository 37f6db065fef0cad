package ballot

import (
	"context"
	"encoding/json"
	"slices"
	"time"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/core/slot"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/work"
	"ulvant/internal/round"
)

// among are the states whose cases may stand on the paper.
func among(f *form.Form) []lifecycle.State {
	if f.Design.Vote.Among == form.AmongChosen {
		return lifecycle.With(lifecycle.Gives | lifecycle.GoesOn | lifecycle.Waits)
	}
	return slices.DeleteFunc(lifecycle.With(lifecycle.Admitted),
		func(s lifecycle.State) bool { return s.Is(lifecycle.Declined) })
}

// known is a case’s state as its applicant knows it: the ballot paper tells nobody of a
// decision before its letter does.
const known = `COALESCE(NULLIF(e.told, ''), e.state)`

const (
	// AtOnce is how many cases are read while somebody waits.
	AtOnce = 300
	// atATime is how many are read at once.
	atATime = 200
)

// Candidates is how many cases stand in the states that may be voted on, and how many of
// them are not read out yet, or were sent anew since.
func (s *Store) Candidates(ctx context.Context, q db.Querier, r round.Round, f *form.Form) (all, fresh int, err error) {
	var n struct{ All, Fresh int }
	err = q.GetContext(ctx, &n, `
		SELECT count(*) AS all, count(*) FILTER (WHERE v.at IS NULL OR e.seal_id <> COALESCE(p.seal_id, e.seal_id) OR p.id IS NULL AND e.state_at > v.at) AS fresh
		FROM standing s JOIN entry e ON e.id = s.entry_id LEFT JOIN vote_project p ON p.entry_id = e.id
		LEFT JOIN (SELECT round_id, gathered_at AS at FROM vote) v ON v.round_id = s.round_id
		WHERE s.round_id = $1 AND s.stage = $2 AND `+known+` = ANY($3)`, r.ID, f.VotedAfter(), among(f))
	return n.All, n.Fresh, err
}

// gathering is the job that reads the projects of a large round out.
type gathering struct{ round.Long }

// Kind names the job.
func (gathering) Kind() string { return "long.gather-projects" }

// Register takes up the jobs.
func (s *Store) Register() {
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, j gathering) error {
		return s.Later.Do(
			ctx,
			at,
			j.Long,
			func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, reached func(int)) (string, error) {
				n, err := s.Gather(ctx, tx, r, f, reached)
				return saysGathered(n), err
			},
		)
	})
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, j counting) error {
		return s.Later.Do(
			ctx,
			at,
			j.Long,
			func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, reached func(int)) (string, error) {
				v, err := s.Of(ctx, tx, r.ID)
				if err != nil {
					return "", err
				}
				if f, err = s.Rules(ctx, tx, v, f); err != nil {
					return "", err
				}
				n, err := s.Count(ctx, tx, r, f)
				return saysCounted(n), err
			},
		)
	})
	s.Jobs.Sweeping("forget who voted", s.forget)
	s.Jobs.Sweeping("stir the ballots", s.stirAll)
}

func saysGathered(n int) string {
	return phrase.Count(int64(n), "project stands", "projects stand") + " to be looked through."
}

// GatherLater reads them out by a job.
func (s *Store) GatherLater(ctx context.Context, tx *db.Tx, r round.Round, cases int) error {
	l, err := s.Later.Begin(ctx, tx, work.Ballots, r, cases)
	if err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, gathering{l}, tx.At)
}

// Gather reads out of what was sent what the public would see of each project whose
// applicants agreed to it, and says how many there are. What somebody ruled stays where
// nothing of it has changed.
func (s *Store) Gather(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, reached func(int)) (int, error) {
	v, err := s.lock(ctx, tx, r, f)
	if err != nil {
		return 0, err
	}
	if v.Laid != nil {
		return 0, ErrLaid
	}
	var entries []int64
	if err := tx.SelectContext(ctx, &entries,
		`SELECT e.id FROM standing s JOIN entry e ON e.id = s.entry_id WHERE s.round_id = $1 AND s.stage = $2 AND `+known+` = ANY($3) ORDER BY e.id`, r.ID,
		f.VotedAfter(), among(f)); err != nil {
		return 0, err
	}
	n := 0
	for from := 0; from < len(entries); from += atATime {
		some := entries[from:min(from+atATime, len(entries))]
		agreed, err := s.readOut(ctx, tx, r, f, some)
		if err != nil {
			return 0, err
		}
		n += agreed
		if reached != nil {
			reached(from + len(some))
		}
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM vote_project WHERE round_id = $1 AND NOT entry_id = ANY($2)`, r.ID,
		entries); err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx, `UPDATE vote SET gathered_at = $2 WHERE round_id = $1`, r.ID, tx.At)
	return n, err
}

func (s *Store) readOut(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form,
	entries []int64) (agreed int, err error) {
	var list []struct {
		Entry       int64
		Seal        int64
		Title, Lead string
		Document    []byte
	}
	if err := tx.SelectContext(ctx, &list, `
		SELECT e.id AS entry, d.id AS seal, a.title, l.name AS lead, d.document
		FROM entry e JOIN seal d ON d.id = e.seal_id JOIN application a ON a.id = e.application_id
		JOIN relation r ON r.application_id = a.id AND r.kind = 'lead' JOIN account l ON l.id = r.account_id
		WHERE e.id = ANY($1) ORDER BY e.id`, entries); err != nil {
		return 0, err
	}
	var not []int64
	for _, x := range list {
		var doc seal.Document
		if err := json.Unmarshal(x.Document, &doc); err != nil {
			return 0, err
		}
		p, ok := projectOf(f, &doc, x.Lead)
		if !ok {
			not = append(not, x.Entry)
			continue
		}
		agreed++
		shown, err := json.Marshal(p.Shown)
		if err != nil {
			return 0, err
		}
		pictures, err := json.Marshal(p.Pictures)
		if err != nil {
			return 0, err
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO vote_project (round_id, entry_id, seal_id, title, cost, shown, pictures) VALUES (@round, @entry, @seal, @title, @cost, @shown, @pictures)
			ON CONFLICT (entry_id) DO UPDATE SET seal_id = @seal, title = @title, cost = @cost, shown = @shown, pictures = @pictures,
			  ruling = CASE WHEN vote_project.shown = @shown AND vote_project.pictures = @pictures AND vote_project.title = @title THEN vote_project.ruling ELSE '' END`,
			db.Named{"round": r.ID, "entry": x.Entry, "seal": x.Seal, "title": x.Title, "cost": p.Cost, "shown": string(shown),
				"pictures": string(pictures)}); err != nil {
			return 0, err
		}
	}
	_, err = tx.ExecContext(ctx, `DELETE FROM vote_project WHERE entry_id = ANY($1)`, not)
	return agreed, err
}

// projectOf is what the public would see of a case; ok is false where its applicants did
// not agree to it.
func projectOf(f *form.Form, doc *seal.Document, lead string) (p Project, ok bool) {
	v := f.Design.Vote
	filled := doc.Filled(lead)
	path := f.Walk(filled)
	if !v.Agrees(path) {
		return p, false
	}
	p.Shown, p.Pictures = []seal.Said{}, []int64{}
	for _, k := range v.Shows {
		q, st := f.Question(k), path.Find(k)
		if q == nil || st == nil || st.Asked != condition.Yes {
			continue
		}
		if q.Keeps() == form.AsFiles {
			for _, x := range doc.Files {
				if x.Slot == k && x.Facts.Kind == slot.Picture {
					p.Pictures = append(p.Pictures, x.ID)
				}
			}
			continue
		}
		if text := say.Answer(f, q, filled, st); text != "" {
			p.Shown = append(p.Shown, seal.Said{Label: q.Label, Text: text})
		}
	}
	p.Cost = f.ProjectCost(path)
	return p, true
}
