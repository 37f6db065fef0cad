package intake

import (
	"context"
	"io"
	"slices"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// Followed is the job that follows an answer which was promised; who checks
// takes it up.
type Followed struct {
	Entry int64 `json:"entry"`
}

// Kind names the job.
func (Followed) Kind() string { return "check.followed" }

// ErrNotPromised: nothing of it was promised, it has come, or its time is over.
var ErrNotPromised = refusal.New("nothing is awaited there any more").But("if it has come late, write to the office")

// Follow gives what was promised when the application was sent. It is checked
// like any answer, and stands beside the seal from then on.
func (s *Store) Follow(ctx context.Context, tx *db.Tx, c application.Case, question form.Key,
	answers map[form.Place]form.Answer) error {
	return s.follow(ctx, tx, c, question, answers, nil)
}

// FollowFile gives a paper that was promised: the file, and what is said beside it
// by the column it stands in (form.DetailColumn, form.TickColumn).
func (s *Store) FollowFile(ctx context.Context, by db.Actor, at time.Time, c application.Case, q *form.Question,
	beside map[form.Key]string, name string, size int64, r io.Reader) error {
	_, err := s.Materials.PutThen(ctx, by, at, c, q, name, size, r, func(ctx context.Context, tx *db.Tx,
		f material.File) error {
		answers := map[form.Place]form.Answer{}
		for column, text := range beside {
			p := form.Place{Question: q.Key, Row: form.FileRow(f.ID), Column: column}
			if form.IsTick(column) {
				p.Row = ""
			}
			answers[p] = form.Answer{Raw: text}
		}
		return s.follow(ctx, tx, c, q.Key, answers, &f)
	})
	return err
}

// follow takes what was promised: answers, and a file where a slot asks for one.
func (s *Store) follow(ctx context.Context, tx *db.Tx, c application.Case, question form.Key,
	answers map[form.Place]form.Answer, file *material.File) error {
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	if !c.State.Is(lifecycle.In) || c.State.Open() || c.State.Is(lifecycle.Ended) {
		return ErrNotPromised
	}
	list, err := s.Cases.Promised(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(list, func(p application.Promised) bool { return p.Question == question })
	if i < 0 || !list[i].Open(tx.At) {
		return ErrNotPromised
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	sealed, err := s.Cases.Now(ctx, tx, *c.SealID)
	if err != nil {
		return err
	}
	filled := sealed.Decoded.Filled(c.LeadName)
	for p := range filled.Answers {
		if p.Question == question {
			delete(filled.Answers, p)
		}
	}
	var came []seal.Answer
	for p, a := range answers {
		if p.Question == question && !a.Empty() {
			filled.Answers[p] = a
			came = append(came, seal.Answer{Place: p, Raw: a.Raw, Non: a.Non})
		}
	}
	slices.SortFunc(came, func(a, b seal.Answer) int {
		return strings.Compare(a.Row+"\x00"+string(a.Column), b.Row+"\x00"+string(b.Column))
	})
	var files []seal.File
	if file != nil {
		filled.Files[question] = append(filled.Files[question], file.Slotted())
		files = append(files, seal.File{ID: file.ID, Slot: question, Name: file.Name, Size: file.Size, SHA256: file.SHA256,
			Facts: file.Facts.Facts})
	}
	path := f.Walk(filled)
	st := path.Find(question)
	if st == nil || st.Presence != condition.Given {
		return refusal.In(string(question), "Give the answer itself.")
	}
	for _, o := range path.Obstacles {
		if o.Place.Question == question {
			what, remedy := say.Obstacle(f, o)
			return refusal.In(string(question), refusal.Sentence(what)+" "+remedy)
		}
	}
	if err := s.Cases.Kept(ctx, tx, c.EntryID, question, came, files); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "followed", c.ID, c.RoundID,
		map[string]string{"question": string(question)}); err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, Followed{c.EntryID}, tx.At)
}

// remindBefore is how long before its day somebody is reminded of what they promised.
const remindBefore = 3 * 24 * time.Hour

// SweepPromised reminds whoever promised an answer that is nearly due, once, and
// says that it has lapsed when its time is over.
func (s *Store) SweepPromised(ctx context.Context, at time.Time) error {
	var list []application.Promised
	if err := s.DB.SelectContext(ctx, &list, `
		SELECT entry_id, question, due_at, came_at, answers, files, lapsed_at FROM promised
		WHERE came_at IS NULL AND lapsed_at IS NULL AND (due_at <= $1 OR due_at <= $2 AND reminded_at IS NULL)
		ORDER BY due_at LIMIT 1000`, at, at.Add(remindBefore)); err != nil {
		return err
	}
	for _, p := range list {
		err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error { return s.promised(ctx, tx, p) })
		if err != nil {
			return err
		}
	}
	return nil
}

// promised tells of one promise that is nearly due or over.
func (s *Store) promised(ctx context.Context, tx *db.Tx, p application.Promised) error {
	c, err := s.Cases.ByEntry(ctx, tx, p.EntryID)
	if err != nil {
		return err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
		return err
	}
	over := !tx.At.Before(p.DueAt)
	first, err := s.Cases.TellPromised(ctx, tx, p, over)
	if err != nil {
		return err
	}
	if !first || !c.State.Is(lifecycle.In) ||
		c.State.Is(lifecycle.Ended|lifecycle.Decided) {
		return nil
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	q := f.Question(p.Question)
	if q == nil {
		return nil
	}
	last := calendar.DateOf(p.DueAt.Add(-time.Second), f.Zone).Words()
	l := post.Letter{Kind: "promised", Account: c.LeadID, Application: c.ID, Round: c.RoundID, To: c.LeadEmail,
		ToName: c.LeadName, Subject: "Still to follow by " + last + ": “" + c.Title + "”",
		Body: "Dear " + c.LeadName + ",\n\nwhen you sent “" + c.Title + "” (" + c.Ref +
			"), you said that this would follow: “" +
			q.Label + "”. It is taken until the end of " + last + ", here:\n\n" + s.Cases.Post.BaseURL + "/applications/" +
			c.Ref +
			"/to-follow\n"}
	if over {
		l.Kind, l.Subject = "promise-lapsed", "It did not follow: “"+c.Title+"”"
		l.Body = "Dear " + c.LeadName + ",\n\nwhen you sent “" + c.Title + "” (" + c.Ref +
			"), you said that this would follow by " +
			last + ": “" + q.Label +
			"”. It has not come, and is not taken there any more. The office decides whether the application " +
			"goes on without it. If there is a reason, write to " + f.Design.Contact + ".\n"
		if err := trail.Write(ctx, tx, "promise-lapsed", c.ID, c.RoundID,
			map[string]string{"question": string(p.Question)}); err != nil {
			return err
		}
		if err := s.Jobs.Enqueue(ctx, tx, Followed{c.EntryID}, tx.At); err != nil {
			return err
		}
	}
	_, err = s.Cases.Post.Queue(ctx, tx, l)
	return err
}
