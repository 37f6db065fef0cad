package reading

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Sample is a case of another round on which readers learn how a round marks: they mark
// it for themselves, and then see how the office marked it, and why. It counts for nothing.
type Sample struct {
	EntryID int64 `db:"entry_id"`
	Ref     string
	Title   string
	Note    string
	Raw     []byte `db:"marks"`
	At      time.Time
	By      string
	Marks   map[form.Key]SampleMark `db:"-"`
}

// SampleMark is what the office gave it by one criterion.
type SampleMark struct {
	Value int    `json:"value"`
	Why   string `json:"why,omitempty"`
}

// Trained is a reader who has marked the sample case.
type Trained struct {
	Account int64  `db:"account_id"`
	EntryID int64  `db:"entry_id"`
	Raw     []byte `db:"marks"`
	At      time.Time
	Marks   map[form.Key]int `db:"-"`
}

// ErrNoSample: a round has no sample case.
var ErrNoSample = refusal.Missing("this round has no sample case")

// SampleOf a round; ErrNoSample when there is none.
func (s *Store) SampleOf(ctx context.Context, q db.Querier, round int64) (x Sample, err error) {
	err = q.GetContext(ctx, &x, `
		SELECT m.entry_id, a.ref, a.title, m.note, m.marks, m.at, p.name AS by FROM sample m JOIN entry e ON e.id = m.entry_id
		JOIN application a ON a.id = e.application_id JOIN account p ON p.id = m.by_id WHERE m.round_id = $1`, round)
	if errors.Is(err, sql.ErrNoRows) {
		return x, ErrNoSample
	}
	if err != nil {
		return x, err
	}
	return x, json.Unmarshal(x.Raw, &x.Marks)
}

// mostSampleWhy is how long a reason or a note may be, in bytes.
const mostSampleWhy = 2000

// SetSample makes a case of another round the sample of a round, with a mark and its
// reason for every criterion of readers. Who marked another sample before is asked again.
func (s *Store) SetSample(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, ref, note string,
	marks map[form.Key]SampleMark) error {
	c, err := s.Cases.Find(ctx, tx, strings.TrimSpace(ref))
	if errors.Is(err, application.ErrNotFound) || err == nil && (c.SealID == nil || c.RoundID == r.ID) {
		return refusal.In("ref", "Give the number of an application that was sent in another round; nobody reads one twice.")
	}
	if err != nil {
		return err
	}
	of, err := s.Cases.Rounds.ByID(ctx, tx, c.RoundID)
	if err != nil {
		return err
	}
	if of.Programme != r.Programme { // whoever runs this round may have nothing to do with that one
		return refusal.In("ref", "Give the number of an application to an earlier round of this programme.")
	}
	kept := map[form.Key]SampleMark{}
	for _, cr := range f.Design.Judged("") {
		m, ok := marks[cr.Key]
		switch {
		case !ok || m.Value < 0 || m.Value >= len(cr.Steps):
			return refusal.In("mark:"+string(cr.Key), "Mark it by “"+cr.Label+"” too.")
		case len(m.Why) > mostSampleWhy:
			return refusal.In("mark:"+string(cr.Key), "Say why in fewer words.")
		}
		m.Why = strings.TrimSpace(m.Why)
		kept[cr.Key] = m
	}
	if len(note) > mostSampleWhy {
		return refusal.In("note", "Say it in fewer words.")
	}
	raw, err := json.Marshal(kept)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO sample (round_id, entry_id, note, marks, by_id, at) VALUES ($1, $2, $3, $4, $5, $6)
		ON CONFLICT (round_id) DO UPDATE SET entry_id = $2, note = $3, marks = $4, by_id = $5, at = $6`, r.ID, c.EntryID, strings.TrimSpace(note),
		string(raw), tx.By.ID, tx.At)
	return err
}

// DropSample takes the sample of a round away.
func (s *Store) DropSample(ctx context.Context, tx *db.Tx, r round.Round) error {
	_, err := tx.ExecContext(ctx, `DELETE FROM sample WHERE round_id = $1`, r.ID)
	return err
}

// TrySample keeps how a reader marks the sample of a round, once; then they are trained.
func (s *Store) TrySample(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, marks map[form.Key]int) error {
	x, err := s.SampleOf(ctx, tx, r.ID)
	if err != nil {
		return err
	}
	var reads bool
	if err := tx.GetContext(ctx, &reads, `
		SELECT EXISTS (SELECT FROM reader WHERE round_id = $1 AND account_id = $2 AND declined_at IS NULL AND ended_at IS NULL)`, r.ID, tx.By.ID); err != nil {
		return err
	}
	if !reads {
		return ErrNoSample
	}
	for _, cr := range f.Design.Judged("") {
		if v, ok := marks[cr.Key]; !ok || v < 0 || v >= len(cr.Steps) {
			return refusal.In("mark:"+string(cr.Key), fmt.Sprintf("Mark it by “%s” too; then you see how the office did.",
				cr.Label))
		}
	}
	raw, err := json.Marshal(marks)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO trained (round_id, account_id, entry_id, marks, at) VALUES ($1, $2, $3, $4, $5)
		ON CONFLICT (round_id, account_id) DO UPDATE SET entry_id = $3, marks = $4, at = $5 WHERE trained.entry_id <> $3`, r.ID, tx.By.ID,
		x.EntryID, string(raw), tx.At)
	return err
}

// TrainedIn a round: who has marked the sample that it has now, by account.
func (s *Store) TrainedIn(ctx context.Context, q db.Querier, round int64) (map[int64]Trained, error) {
	var rows []Trained
	if err := q.SelectContext(ctx, &rows, `
		SELECT t.account_id, t.entry_id, t.marks, t.at FROM trained t JOIN sample m ON m.round_id = t.round_id AND m.entry_id = t.entry_id
		WHERE t.round_id = $1`, round); err != nil {
		return nil, err
	}
	out := map[int64]Trained{}
	for _, t := range rows {
		if err := json.Unmarshal(t.Raw, &t.Marks); err != nil {
			return nil, err
		}
		out[t.Account] = t
	}
	return out, nil
}

// SamplesFor somebody: the rounds they read in whose sample case they have not marked, while
// reading lasts.
func (s *Store) SamplesFor(ctx context.Context, q db.Querier, account int64) (out []round.Round, err error) {
	var ids []int64
	if err := q.SelectContext(ctx, &ids, `
		SELECT m.round_id FROM sample m JOIN reader r ON r.round_id = m.round_id AND r.account_id = $1 AND r.declined_at IS NULL AND r.ended_at IS NULL
		WHERE NOT EXISTS (SELECT FROM trained t WHERE t.round_id = m.round_id AND t.account_id = $1 AND t.entry_id = m.entry_id) ORDER BY m.round_id`,
		account); err != nil || ids == nil {
		return nil, err
	}
	return s.Cases.Rounds.Some(ctx, ids)
}

// Apart is how far the marks of a reader lie from those of the office: on how many
// criteria they are the same, and on how many more than a step away.
func (x Sample) Apart(marks map[form.Key]int) (same, far, of int) {
	for k, m := range x.Marks {
		v, ok := marks[k]
		if !ok {
			continue
		}
		of++
		switch d := v - m.Value; {
		case d == 0:
			same++
		case d > 1 || d < -1:
			far++
		}
	}
	return same, far, of
}

// untrained bars readers who have not marked the sample, where the design wants that
// first, from what they have not got already.
func (s *Store) untrained(ctx context.Context, q db.Querier, r round.Round, f *form.Form, st *stack) error {
	if !f.Design.TrainFirst {
		return nil
	}
	if _, err := s.SampleOf(ctx, q, r.ID); errors.Is(err, ErrNoSample) {
		return refusal.Unfit("readers mark a sample case first in this round, and there is none").But("choose one under Reading")
	} else if err != nil {
		return err
	}
	done, err := s.TrainedIn(ctx, q, r.ID)
	if err != nil {
		return err
	}
	if len(done) == 0 {
		return refusal.Unfit("nobody has marked the sample case yet").But("wait for the readers, or let the design not ask for it")
	}
	for j, x := range st.readers {
		if _, ok := done[x.Account]; !ok {
			if st.new == nil {
				st.new = make([]bool, len(st.readers))
			}
			st.new[j] = true
		}
	}
	return nil
}
