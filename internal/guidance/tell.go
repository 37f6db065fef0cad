package guidance

import (
	"context"
	"errors"
	"time"

	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/post"
)

// changed is the job that tells those with a draft of a version.
type changed struct {
	Guidance int64 `json:"guidance"`
	Number   int   `json:"number"`
	After    int64 `json:"after,omitempty"` // the last application that was told
}

// Kind names the job.
func (changed) Kind() string { return "guidance.changed" }

// Register takes up the jobs of papers.
func (s *Store) Register() { jobs.Handle(s.Jobs, jobs.Long, s.tell) }

// atOnce is how many are told in one transaction.
const atOnce = 500

// tell queues a mail for whoever leads a draft of the round, some at a time; a version
// that another has followed meanwhile, or a paper that is gone, is told of no more.
func (s *Store) tell(ctx context.Context, at time.Time, job changed) error {
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		var roundID int64
		if err := tx.GetContext(ctx, &roundID, `SELECT round_id FROM guidance WHERE id = $1`, job.Guidance); err != nil {
			return err
		}
		p, err := s.Find(ctx, tx, roundID, job.Guidance)
		if errors.Is(err, ErrNotFound) || err == nil && p.Last().Number != job.Number {
			return nil
		}
		if err != nil {
			return err
		}
		r, err := s.Rounds.ByID(ctx, tx, roundID)
		if err != nil {
			return err
		}
		leads, err := s.Cases.DraftLeads(ctx, tx, roundID, job.After, atOnce)
		if err != nil || len(leads) == 0 {
			return err
		}
		var letters []post.Letter
		for _, l := range leads {
			subject, body := say.GuidanceChanged(l.Name, r.Name, p.Title, job.Number, p.Last().Changed, p.Slot != "",
				s.Post.BaseURL+"/applications/"+l.Ref)
			letters = append(letters, post.Letter{Kind: "guidance-changed", Account: l.Account, Application: l.Application,
				Round: roundID, To: l.Email, ToName: l.Name, Subject: subject, Body: body})
		}
		if _, err := s.Post.QueueAll(ctx, tx, letters); err != nil {
			return err
		}
		if len(leads) < atOnce {
			return nil
		}
		job.After = leads[len(leads)-1].Application
		return s.Jobs.Enqueue(ctx, tx, job, tx.At)
	})
}
