package reference

import (
	"context"
	"io"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// reasonOf is a reason the office gives, which is kept.
func reasonOf(why string) (string, error) {
	why = strings.TrimSpace(why)
	if why == "" || len(why) > 1000 {
		return "", refusal.In("why", "Say why, in up to 1,000 signs; it is kept with the case.")
	}
	return why, nil
}

// MoreTime gives somebody longer than their date, by leave of the office: for
// this request alone, and it never takes away what is sent.
func (s *Store) MoreTime(
	ctx context.Context,
	tx *db.Tx,
	c application.Case,
	id int64,
	until time.Time,
	why string,
) error {
	why, err := reasonOf(why)
	if err != nil {
		return err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, true); err != nil {
		return err
	}
	r, err := s.In(ctx, tx, c, id)
	if err != nil {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	switch {
	case r.State == form.SentIn || r.State == form.Replaced || r.State == form.ToAsk:
		return refusal.New("nothing is awaited of " + r.Name)
	case !until.After(tx.At) || !until.After(r.Due(f, c)):
		return refusal.In("until", "Choose a time that lies ahead, and after "+
			calendar.WallOf(r.Due(f, c), f.Zone).Words()+", until when they have now.")
	case !c.State.Open() && !Afterwards(c):
		return refusal.New("it is " + string(c.State) + " now").But("a letter changes nothing any more")
	case c.State.Writing() && !until.Before(c.Window(f).Closes) && !f.Follows(f.Question(r.Question)):
		return refusal.New("the application closes before that, and is not sent without this letter").But(
			"give the application itself more time")
	}
	r.Until = &until
	if _, err := tx.ExecContext(ctx, `UPDATE referee SET until = $2, next_at = $3 WHERE id = $1`, id, until,
		next(r, f, c)); err != nil {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Referee, r.ID, max(s.LinkLife, until.Sub(tx.At)+s.LinkLife/2))
	if err != nil {
		return err
	}
	words := calendar.WallOf(until, f.Zone).Words()
	if r.Email != "" {
		if err := s.tell(ctx, tx, c, post.Letter{Kind: "letter-time", To: r.Email, ToName: r.Name, Link: l,
			Subject: "You have until " + words + ": “" + c.Title + "”",
			Body: "Dear " + r.Name + ",\n\nwhat is asked of you for " + c.LeadName + " and “" + c.Title +
				"” is taken until " + words + ". Here is your link, in place of the earlier one:\n\n" + post.LinkMark + "\n\n" +
				s.Post.Name() + "\n"}); err != nil {
			return err
		}
	}
	figures := map[string]string{"until": words, "reason": why}
	return s.noteAll(ctx, tx, c, "letter-time", id, figures)
}

// ByPost is a letter or a confirmation that reached the office on paper.
type ByPost struct {
	Referee int64 // the request it answers; 0 for somebody who was not asked by mail
	Name    string
	Knows   string
	Arrived calendar.Date
	form.Dating
	Why  string
	File string // the name of its scan
	Size int64
	Body io.Reader
}

// Enter puts in what came by post: the scan, and the day it arrived. It counts
// like what is sent by a link, and says everywhere that it came on paper.
func (s *Store) Enter(ctx context.Context, by db.Actor, at time.Time, c application.Case, question form.Key,
	p ByPost) (material.File, error) {
	why, err := reasonOf(p.Why)
	if err != nil {
		return material.File{}, err
	}
	var id int64
	err = s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		c, q, err := s.entering(ctx, tx, c, question, p)
		if err != nil {
			return err
		}
		if p.Referee != 0 {
			r, err := s.In(ctx, tx, c, p.Referee)
			if err != nil || r.Question != question {
				return ErrNotFound
			}
			if r.State == form.SentIn {
				return ErrIsIn
			}
			id = r.ID
			return nil
		}
		if err := people.CheckName(p.Name); err != nil {
			return refusal.In("name", "Give the name of whoever wrote or signed it.")
		}
		if err := s.room(ctx, tx, c, q, ""); err != nil {
			return err
		}
		// until its file is in, the row is one that does not count
		return tx.QueryRowxContext(ctx, `
			INSERT INTO referee (entry_id, application_id, question, name, email, knows, state, state_at)
			VALUES ($1, $2, $3, $4, '', $5, 'replaced', $6) RETURNING id`,
			c.EntryID, c.ID, question, strings.TrimSpace(p.Name), strings.TrimSpace(p.Knows), tx.At).Scan(&id)
	})
	if err != nil {
		return material.File{}, err
	}
	m, err := s.Materials.Put(
		ctx,
		by,
		at,
		material.Owner{Referee: id, Slot: "letter"},
		p.File,
		p.Size,
		MostSize,
		p.Body,
	)
	if err != nil {
		return m, err
	}
	return m, s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		if !Opens(m) {
			if err := s.Materials.RemoveOf(ctx, tx, id, m.ID); err != nil {
				return err
			}
			return nil
		}
		c, q, err := s.entering(ctx, tx, c, question, p)
		if err != nil {
			return err
		}
		return s.entered(ctx, tx, c, q, id, p, why)
	})
}

// entering locks a case into which something that came by post can be put.
func (s *Store) entering(
	ctx context.Context,
	tx *db.Tx,
	c application.Case,
	question form.Key,
	p ByPost,
) (application.Case,
	*form.Question, error) {
	c, err := s.Cases.Lock(ctx, tx, c, true)
	if err != nil {
		return c, nil, err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return c, nil, err
	}
	q := f.Question(question)
	if q == nil || !q.AsksPeople() {
		return c, nil, ErrNotFound
	}
	today := calendar.DateOf(tx.At, f.Zone)
	switch {
	case !c.State.Open() && !Afterwards(c):
		return c, q, refusal.New("it is " + string(c.State) + " now").But("a letter changes nothing any more")
	case p.Arrived.IsZero() || p.Arrived > today:
		return c, q, refusal.In("arrived", "Give the day it arrived; it cannot lie ahead.")
	}
	by := f.DueDay(q, c.Window(f).Closes)
	if fault := q.Ask.Fault(p.Dating, today, by); fault != "" {
		return c, q, refusal.In("dated", say.LetterFault(q.Ask, fault, by))
	}
	return c, q, nil
}

// entered makes what came by post count.
func (s *Store) entered(ctx context.Context, tx *db.Tx, c application.Case, q *form.Question, id int64, p ByPost,
	why string) error {
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	var dated *string
	if !p.Dated.IsZero() {
		iso := p.Dated.String()
		dated = &iso
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE referee SET arrived = @arrived, entered_by = @by, paper = true, dated = @dated, years_from = @from, years_to = @to WHERE id = @id`,
		db.Named{"id": id, "arrived": p.Arrived.String(), "by": tx.By.ID, "dated": dated, "from": p.From,
			"to": p.To}); err != nil {
		return err
	}
	if err := s.firstPage(ctx, tx, id); err != nil {
		return err
	}
	r, err := s.find(ctx, tx, id)
	if err != nil {
		return err
	}
	verb := say.Verb("letter-entered")
	if q.Confirms() {
		filled, err := s.Cases.Filled(ctx, tx, c, f, tx.At)
		if err != nil {
			return err
		}
		w, print := ToConfirm(f, q, c, filled)
		w.Way = OnPaper
		if err := s.freeze(ctx, tx, id, w, print); err != nil {
			return err
		}
		verb = "confirmed-on-paper"
	}
	if r.Email != "" { // the link has done its work
		if _, err := s.Links.Issue(ctx, tx, link.Referee, r.ID, s.LinkLife); err != nil {
			return err
		}
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE referee SET state = $3, state_at = $2, next_at = NULL, version = version + 1 WHERE id = $1`, id,
		tx.At, form.SentIn); err != nil {
		return err
	}
	if err := s.noteAll(ctx, tx, c, verb, id, map[string]string{"reason": why}); err != nil {
		return err
	}
	return s.refresh(ctx, tx, c)
}

// StillAwaited are the requests of an entry that its round waits for after the
// closing, and until when; a zero time says that their time is over for all.
func (s *Store) StillAwaited(ctx context.Context, q db.Querier, f *form.Form, c application.Case, question form.Key,
	at time.Time) (names []string, until time.Time, err error) {
	list, err := s.Of(ctx, q, c.EntryID)
	if err != nil {
		return nil, until, err
	}
	def := f.Question(question)
	in := 0
	for _, r := range list {
		if r.Question != question || r.State == form.Replaced || r.State == form.Declined {
			continue
		}
		if r.State == form.SentIn {
			in++
			continue
		}
		names = append(names, r.Name)
		if due := r.Due(f, c); due.After(until) && at.Before(due) {
			until = due
		}
	}
	if def != nil && def.Ask != nil && def.Ask.Enough > 0 && in >= def.Ask.Enough {
		return nil, until, nil
	}
	return names, until, nil
}
