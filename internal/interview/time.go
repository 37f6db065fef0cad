package interview

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"strings"
	"time"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/invitation"
	"ulvant/internal/trail"
)

// put a case at a time, and invite whoever leads it to their calendar; why is said
// when a time they had is changed.
func (s *Store) put(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, slot int64, reply Reply,
	why string) error {
	m, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	moved := m.SlotID != nil
	var x Slot
	if err := tx.GetContext(ctx, &x, `SELECT id, day_id, starts_at, minutes FROM interview_slot WHERE id = $1 FOR UPDATE`,
		slot); errors.Is(err, sql.ErrNoRows) {
		return ErrTaken
	} else if err != nil {
		return err
	}
	if !x.Starts.After(tx.At) {
		return refusal.Unfit("this time is over").But("choose another one")
	}
	var taken bool
	if err := tx.GetContext(ctx, &taken, `SELECT EXISTS (SELECT FROM interview WHERE slot_id = $1 AND entry_id <> $2)`,
		slot, c.EntryID); err != nil {
		return err
	}
	if taken {
		return ErrTaken
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE interview SET slot_id = $2, day_id = $3, sequence = sequence + 1, reply = $4, replied_at = CASE WHEN $4 = '' THEN NULL ELSE $5::timestamptz END,
		  why = CASE WHEN $4 = 'cannot' THEN why ELSE '' END, reminded_at = NULL, version = version + 1 WHERE entry_id = $1`, c.EntryID, x.ID, x.DayID, reply, tx.At); err != nil {
		return err
	}
	if m, err = s.Of(ctx, tx, c.EntryID); err != nil {
		return err
	}
	d, err := s.Day(ctx, tx, c.RoundID, x.DayID)
	if err != nil {
		return err
	}
	who := s.caseFor(c, f)
	who.At, who.Minutes, who.Zone, who.Place, who.Link, who.Note, who.Chosen = x.Starts, x.Minutes, m.In(f.Zone),
		d.Place, d.Link, d.Note, reply == Comes
	who.Moved, who.Why = moved, why
	if err := s.write(ctx, tx, c, say.InterviewAt(who), s.calendar(tx.At, c, m, d, x, false)); err != nil {
		return err
	}
	verb := say.Verb("interview-given")
	if moved {
		verb = "interview-moved"
	} else if reply == Comes {
		verb = "interview-chosen"
	}
	figures := map[string]string{"at": x.Starts.In(f.Zone).Format("2 January 2006, 15:04")}
	if why != "" {
		figures["why"] = why
	}
	return trail.Write(ctx, tx, verb, c.ID, c.RoundID, figures)
}

// calendar is the invitation of whoever leads a case.
func (s *Store) calendar(at time.Time, c application.Case, m Meeting, d Day, x Slot, off bool) string {
	about := d.Note
	if d.Link != "" && d.Place != "" {
		about = strings.TrimSpace(about + "\n" + d.Link)
	}
	return invitation.Event{UID: s.uid(c.EntryID, m), Sequence: m.Sequence, At: at, Starts: x.Starts, Ends: x.Ends(),
		Summary: "Interview: " + c.Title, About: about, Place: d.Place, Link: d.Link,
		From: invitation.Person{Name: s.Post.Name(), Email: s.answersAt(c.EntryID)}, To: invitation.Person{Name: c.LeadName,
			Email: c.LeadEmail}, Off: off}.Text()
}

// Calendar is the invitation as a file, for whoever leads a case.
func (s *Store) Calendar(ctx context.Context, q db.Querier, c application.Case, at time.Time) (string, error) {
	m, d, x, err := s.When(ctx, q, c)
	if err != nil {
		return "", err
	}
	return s.calendar(at, c, m, d, x, false), nil
}

// When is the interview of a case with its day and time; ErrNotInvited when it has no
// time.
func (s *Store) When(ctx context.Context, q db.Querier, c application.Case) (m Meeting, d Day, x Slot, err error) {
	if m, err = s.Of(ctx, q, c.EntryID); err != nil {
		return m, d, x, err
	}
	if m.SlotID == nil {
		return m, d, x, ErrNotInvited
	}
	if d, err = s.Day(ctx, q, c.RoundID, *m.DayID); err != nil {
		return m, d, x, err
	}
	for _, x := range d.Slots {
		if x.ID == *m.SlotID {
			return m, d, x, nil
		}
	}
	return m, d, x, ErrNotInvited
}

// Free are the times somebody can choose among: free ones of panels that may see them.
func (s *Store) Free(ctx context.Context, q db.Querier, c application.Case, f *form.Form, at time.Time) (out []Slot,
	err error) {
	stage := f.Interviews(form.Key(c.Stage))
	if stage == nil {
		return nil, nil
	}
	days, err := s.Days(ctx, q, c.RoundID, stage.Key)
	if err != nil {
		return nil, err
	}
	bars, err := s.bars(ctx, q, days, []int64{c.ID})
	if err != nil {
		return nil, err
	}
	for _, d := range days {
		if _, barred := bars[c.ID][d.ID]; barred {
			continue
		}
		for _, x := range d.Slots {
			if x.Meeting == nil && x.Starts.After(at) {
				out = append(out, x)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Slot) int { return a.Starts.Compare(b.Starts) })
	return out, nil
}
