package profile

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"net/url"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/identifier"
	"ulvant/core/phrase"
	"ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/post"
)

// Entry is what a register has under a number.
type Entry struct {
	Name   string `json:"name"`
	Struck bool   `json:"struckOff"`
}

// ErrNotThere: the register has no such number.
var ErrNotThere = refusal.New("the register has no such number")

// Register answers for registered numbers.
type Register interface {
	// Entry finds a number; ErrNotThere, or any other error when it does not answer.
	Entry(ctx context.Context, scheme, value string) (Entry, error)
}

// HTTPRegister asks a register over HTTP: GET base/scheme/number answers 200
// with an Entry as JSON, or 404.
type HTTPRegister struct {
	Base   string
	Client *http.Client
}

// Entry asks.
func (h HTTPRegister) Entry(ctx context.Context, scheme, value string) (e Entry, err error) {
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet,
		h.Base+"/"+url.PathEscape(scheme)+"/"+url.PathEscape(value), nil)
	if err != nil {
		return e, err
	}
	res, err := h.Client.Do(req)
	if err != nil {
		return e, err
	}
	defer res.Body.Close()
	switch res.StatusCode {
	case http.StatusOK:
		return e, json.NewDecoder(http.MaxBytesReader(nil, res.Body, 1<<16)).Decode(&e)
	case http.StatusNotFound:
		return e, ErrNotThere
	}
	return e, refusal.Newf("the register answered %d", res.StatusCode)
}

// askAgain is how long a register that did not answer is left alone.
const askAgain = 10 * time.Minute

// lookUp is the job that asks the register about a profile.
type lookUp struct {
	Profile int64 `json:"profile"`
}

// Kind names the job.
func (lookUp) Kind() string { return "profile.look-up" }

// Register takes up the jobs of profiles.
func (s *Store) Register() { jobs.Handle(s.Jobs, jobs.Short, s.lookUp) }

// lookUp asks the register about the numbers of a profile that have no finding
// yet. Outside of transactions, for it may take its time.
func (s *Store) lookUp(ctx context.Context, at time.Time, a lookUp) error {
	p, err := s.ByID(ctx, s.DB, a.Profile)
	if err != nil {
		return err
	}
	list, err := s.Numbers(ctx, s.DB, p.ID)
	if err != nil {
		return err
	}
	for _, n := range list {
		if n.Finding != profile.NotLookedUp && n.Finding != profile.NoAnswer {
			continue
		}
		found, name := profile.NoAnswer, ""
		if n.Scheme == identifier.Local {
			if err := s.found(ctx, p.ID, n, profile.ByHand, "", at); err != nil {
				return err
			}
			continue
		}
		switch e, err := s.Asks.Entry(ctx, n.Scheme, n.Value); {
		case errors.Is(err, ErrNotThere):
			found = profile.NotThere
		case err == nil:
			found, name = profile.Judge(p.Name, p.Facts.Legal, e.Name, e.Struck), e.Name
		}
		if err := s.found(ctx, p.ID, n, found, name, at); err != nil {
			return err
		}
	}
	return nil
}

// found keeps what a register said of a number.
func (s *Store) found(ctx context.Context, id int64, n Number, f profile.Finding, name string, at time.Time) error {
	_, err := s.DB.ExecContext(ctx,
		`UPDATE profile_number SET finding = @finding, register = @register, looked_at = @looked_at WHERE profile_id = @profile_id AND scheme = @scheme AND value = @value`,
		db.Named{"profile_id": id, "scheme": n.Scheme, "value": n.Value, "finding": f, "register": name, "looked_at": at})
	return err
}

// Sweep asks again about the numbers for which the register did not answer.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	var ids []int64
	if err := s.DB.SelectContext(ctx, &ids,
		`SELECT DISTINCT profile_id FROM profile_number WHERE finding = 'no answer' AND looked_at < $1`,
		at.Add(-askAgain)); err != nil {
		return err
	}
	for _, id := range ids {
		err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			return s.Jobs.Enqueue(ctx, tx, lookUp{id}, at)
		})
		if err != nil {
			return err
		}
	}
	return s.remind(ctx, at)
}

// remind tells the office, once for each, of organisations whose promise runs
// out by the end of the next working day.
func (s *Store) remind(ctx context.Context, at time.Time) error {
	soon, _ := calendar.At(calendar.AddWorkingDays(calendar.DateOf(at, s.Zone()), 1, s.Off), 24, 0).In(s.Zone())
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		var due []struct {
			Name     string
			Promised time.Time
		}
		if err := tx.SelectContext(ctx, &due, `
			UPDATE profile SET told_at = $1 WHERE state = 'waits for the office' AND promised < $2 AND told_at IS NULL RETURNING name, promised`, tx.At, soon); err != nil || len(due) == 0 {
			return err
		}
		body := "Promised to be looked over, and waiting still:\n\n"
		for _, p := range due {
			body += "“" + p.Name + "”, by " + calendar.WallOf(p.Promised, s.Zone()).Words() + "\n"
		}
		_, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "promise", To: s.Contact(), ToName: "the office",
			Subject: phrase.Initial(phrase.Count(int64(len(due)), "organisation waits", "organisations wait")) +
				" to be looked over", Body: body + "\nThey stand under “Organisations” at your desk.\n"})
		return err
	})
}
