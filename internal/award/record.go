package award

import (
	"context"
	"slices"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/round"
)

// Recording is what is recorded of a placing in one act.
type Recording struct {
	Placing   int64
	Others    lifecycle.State // what those who are given nothing become; "": they stay open
	Note      string          // who decided, and when
	Reason    string          // why recorded decisions are changed; "" where none is
	LettersAt time.Time       // zero: after the design’s hold
}

// ErrPlacingStale: what a placing hangs on has changed.
var ErrPlacingStale = refusal.New("this placing is not worked out for what is known now").But("look at it again, then record it")

// Choices are what recording a placing would decide, in the order of the cases: those
// whose decision stands already are left out.
func (s *Store) Choices(ctx context.Context, q db.Querier, r round.Round, f *form.Form,
	rec Recording) ([]decision.Choice, error) {
	c, err := s.Candidacy(ctx, q, r.ID)
	if err != nil {
		return nil, err
	}
	all, err := s.Placings(ctx, q, r.ID)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(all, func(p Placing) bool { return p.ID == rec.Placing })
	if i < 0 {
		return nil, ErrNoPlacing
	}
	t, err := s.Decisions.Order(ctx, q, r, f, lastStage(f))
	if err != nil {
		return nil, err
	}
	now, err := s.Standing(ctx, q, r, f, c)
	if err != nil {
		return nil, err
	}
	if now.Stale || all[i].Solved != c.Version {
		return nil, ErrPlacingStale
	}
	given, err := s.linesBy(ctx, q, `SELECT entry_id, award, amount FROM placed WHERE placing_id = $1 ORDER BY amount DESC, award`, rec.Placing)
	if err != nil {
		return nil, err
	}
	recorded, err := s.linesBy(ctx, q, `
		SELECT w.entry_id, w.award, w.amount FROM candidate c
		JOIN LATERAL (SELECT act_id FROM decision WHERE entry_id = c.entry_id ORDER BY act_id DESC LIMIT 1) d ON true
		JOIN awarded w ON w.act_id = d.act_id AND w.entry_id = c.entry_id WHERE c.round_id = $1 ORDER BY w.amount DESC, w.award`, r.ID)
	if err != nil {
		return nil, err
	}
	var out []decision.Choice
	for _, row := range t.Rows {
		ch := decision.Choice{EntryID: row.EntryID, Version: row.Version, Outcome: rec.Others, Lines: given[row.EntryID]}
		if ch.Lines != nil {
			ch.Outcome = lifecycle.Awarded
			for _, l := range ch.Lines {
				ch.Amount += l.Amount
			}
		}
		stands := row.State.Decided() && row.State == ch.Outcome && slices.Equal(recorded[row.EntryID], ch.Lines)
		if ch.Outcome != "" && !stands {
			out = append(out, ch)
		}
	}
	return out, nil
}

func (s *Store) linesBy(ctx context.Context, q db.Querier, query string, id int64) (map[int64][]decision.Line, error) {
	var rows []struct {
		Entry int64 `db:"entry_id"`
		decision.Line
	}
	if err := q.SelectContext(ctx, &rows, query, id); err != nil {
		return nil, err
	}
	out := map[int64][]decision.Line{}
	for _, x := range rows {
		out[x.Entry] = append(out[x.Entry], x.Line)
	}
	return out, nil
}

// Record a placing: everybody’s awards are one decision each, a line for each award,
// with a letter that waits. Many are a job; work is its number, 0 when it is done.
func (s *Store) Record(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, rec Recording) (n int, job int64,
	err error) {
	if rec.Others != "" && rec.Others != lifecycle.NotAwarded && rec.Others != lifecycle.Reserve {
		return 0, 0, refusal.In("others", "Those who are given nothing are not awarded, in reserve, or stay open.")
	}
	choices, err := s.Choices(ctx, tx, r, f, rec)
	if err != nil {
		return 0, 0, err
	}
	if len(choices) == 0 {
		return 0, 0, refusal.Unfit("all of this is recorded already")
	}
	sit := decision.Sitting{Stage: lastStage(f), Choices: choices, Note: rec.Note,
		Reason: strings.TrimSpace(rec.Reason), LettersAt: rec.LettersAt}
	if len(choices) > work.Inline {
		if strings.TrimSpace(rec.Note) == "" {
			return 0, 0, refusal.In("note", "Say who decided and when, such as “Panel of 14 May, N. Sparrow in the chair”.")
		}
		job, err = s.Decisions.RecordLater(ctx, tx, r, sit)
		return len(choices), job, err
	}
	_, err = s.Decisions.Record(ctx, tx, r, f, sit)
	return len(choices), 0, err
}
