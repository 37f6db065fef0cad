package decision

import (
	"context"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// notesOf are what readers wrote for whoever applied, by entry, in the order in which they
// sent their marks; nobody is named.
func notesOf(ctx context.Context, q db.Querier, entries []int64) (map[int64]string, error) {
	var notes []struct {
		EntryID int64  `db:"entry_id"`
		Note    string `db:"to_applicant"`
	}
	if err := q.SelectContext(ctx, &notes, `
		SELECT entry_id, to_applicant FROM assignment WHERE entry_id = ANY($1) AND sent_at IS NOT NULL AND to_applicant <> ''
		ORDER BY entry_id, sent_at`, entries); err != nil {
		return nil, err
	}
	out := map[int64]string{}
	for _, n := range notes {
		out[n.EntryID] = strings.TrimSpace(out[n.EntryID] + "\n\n" + strings.TrimSpace(n.Note))
	}
	return out, nil
}

// notesWait reports a round whose notes go out on a day of their own that has not come.
func notesWait(f *form.Form, at time.Time) bool {
	return f.Design.NotesOn != "" && at.Before(f.At(f.Design.NotesOn))
}

// mostNotes are sent in one sweep; the next goes on.
const mostNotes = 500

// SendNotes sends readers' notes to those the round promises them to, once its day has
// come: to whoever has been told of the decision, once.
func (s *Store) SendNotes(ctx context.Context, at time.Time) error {
	var rounds []int64
	if err := s.DB.SelectContext(ctx, &rounds, `
		SELECT r.id FROM round r JOIN design d ON d.id = r.design_id WHERE d.document->>'notesOn' <> '' AND d.document->>'notes' <> ''
		AND r.closes_at > $1`, at.AddDate(-2, 0, 0)); err != nil {
		return err
	}
	for _, id := range rounds {
		err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error { return s.sendNotes(ctx, tx, id) })
		if err != nil {
			return err
		}
	}
	return nil
}

func (s *Store) sendNotes(ctx context.Context, tx *db.Tx, id int64) error {
	r, err := s.Cases.Rounds.ByID(ctx, tx, id)
	if err != nil {
		return err
	}
	f, err := s.Cases.Rounds.Published(ctx, tx, r)
	if err != nil || notesWait(f, tx.At) {
		return err
	}
	states := lifecycle.With(lifecycle.Decided)
	if f.Design.Notes == form.NotesDeclined {
		states = lifecycle.With(lifecycle.Declined)
	}
	var entries []int64
	if err := tx.SelectContext(ctx, &entries, `
		SELECT e.id FROM entry e JOIN application a ON a.id = e.application_id
		WHERE a.round_id = $1 AND e.told = '' AND e.told_act IS NOT NULL AND e.state = ANY($2) AND NOT EXISTS (SELECT FROM notes_sent n WHERE n.entry_id = e.id)
		ORDER BY e.id LIMIT $3 FOR UPDATE OF e`, id, states, mostNotes); err != nil || len(entries) == 0 {
		return err
	}
	notes, err := notesOf(ctx, tx, entries)
	if err != nil {
		return err
	}
	cases, err := s.Cases.ByEntries(ctx, tx, entries)
	if err != nil {
		return err
	}
	for _, entry := range entries {
		sent := int64(0)
		if notes[entry] != "" {
			if sent, err = s.noteLetter(ctx, tx, f, cases[entry], notes[entry]); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO notes_sent (entry_id, post_id, at) VALUES ($1, NULLIF($2, 0), $3)`,
			entry, sent, tx.At); err != nil {
			return err
		}
	}
	return nil
}

// notesLetter is the key under which a design may have words of its own for them.
const notesLetter form.Key = "readers-notes"

func (s *Store) noteLetter(ctx context.Context, tx *db.Tx, f *form.Form, c application.Case,
	notes string) (int64, error) {
	l := post.Letter{Kind: string(notesLetter), Account: c.LeadID, Application: c.ID,
		Round: c.RoundID, To: c.LeadEmail, ToName: c.LeadName, ReplyTo: f.Design.Contact,
		Subject: c.Ref + ": what the " + f.Design.Readers() + " wrote for you",
		Body:    say.NotesLetter(c.LeadName, c.Title, notes, s.Post.Name())}
	if _, ok := f.Letter(notesLetter); ok {
		var err error
		if l, err = s.Cases.Letter(ctx, tx, c, notesLetter, map[string]string{"notes": notes}); err != nil {
			return 0, err
		}
	}
	id, err := s.Post.Queue(ctx, tx, l)
	if err != nil {
		return 0, err
	}
	return id, trail.Write(ctx, tx, "notes-sent", c.ID, c.RoundID, nil)
}
