package round

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
)

// Long is what every long piece of the office's work on a round must know; a job
// for it embeds one.
type Long struct {
	Work  int64     `json:"work"`
	Round int64     `json:"round"`
	By    int64     `json:"by"` // the account that began it
	At    time.Time `json:"at"` // when: its acts count from then
}

// Later does what takes longer than a breath: begun in the transaction of the
// request, done by a job in one of its own, its progress seen meanwhile.
type Later struct {
	DB     *db.DB
	Rounds *Store
	Work   *work.Store
}

// Begin keeps the work; what comes back goes into its job.
func (s *Later) Begin(ctx context.Context, tx *db.Tx, kind work.Kind, r Round, total int) (Long, error) {
	id, err := s.Work.Begin(ctx, tx, kind, r.ID, total)
	return Long{id, r.ID, tx.By.ID, tx.At}, err
}

// Do it, once: that it has ended is kept with what it did. says is what came of
// it; a refusal ends it with its sentence, any other error has it tried again.
func (s *Later) Do(ctx context.Context, at time.Time, l Long,
	do func(ctx context.Context, tx *db.Tx, r Round, f *form.Form, reached func(done int)) (says string,
		err error)) error {
	w, err := s.Work.Find(ctx, l.Round, l.Work)
	if err != nil || w.EndedAt != nil {
		return err // it ran already
	}
	err = s.DB.Do(ctx, db.Account(l.By), l.At, func(ctx context.Context, tx *db.Tx) error {
		r, err := s.Rounds.ByID(ctx, tx, l.Round)
		if err != nil {
			return err
		}
		f, err := s.Rounds.Published(ctx, tx, r)
		if err != nil {
			return err
		}
		says, err := do(ctx, tx, r, f, func(done int) { s.Work.Reached(ctx, l.Work, done) })
		if err != nil {
			return err
		}
		return s.Work.End(ctx, tx, l.Work, at, false, says)
	})
	if no, ok := refusal.Of(err); ok {
		return s.Work.End(ctx, s.DB, l.Work, at, true, no.Error())
	}
	return err
}
