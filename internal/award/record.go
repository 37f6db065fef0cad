package award

import (
	"cmp"
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
	Award     form.Key        // this one alone: those who have others keep them as recorded; "": all
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
	given, err := s.linesBy(ctx, q,
		`SELECT entry_id, award, amount FROM placed WHERE placing_id = $1 ORDER BY amount DESC, award`, rec.Placing)
	if err != nil {
		return nil, err
	}
	recorded, err := s.linesBy(ctx, q, `
		SELECT w.entry_id, w.award, w.amount FROM candidate c
		JOIN LATERAL (SELECT act_id FROM decision WHERE entry_id = c.entry_id ORDER BY act_id DESC LIMIT 1) d ON true
		JOIN awarded w ON w.act_id = d.act_id AND w.entry_id = c.entry_id AND NOT EXISTS (SELECT FROM came_back b WHERE b.entry_id = w.entry_id AND b.act_id = w.act_id AND b.award = w.award) WHERE c.round_id = $1 ORDER BY w.amount DESC, w.award`, r.ID)
	if err != nil {
		return nil, err
	}
	if rec.Award != "" {
		return alone(t.Rows, rec.Award, given, recorded), nil
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
		if row.State.Back() && ch.Lines == nil { // they declined, or did not answer: that stays what became of it
			continue
		}
		stands := row.State.Decided() && row.State.Outcome() == ch.Outcome && slices.Equal(recorded[row.EntryID], ch.Lines)
		if ch.Outcome != "" && !stands {
			out = append(out, ch)
		}
	}
	return out, nil
}

// onlyAdds reports that nobody loses anything by some decisions.
func onlyAdds(choices []decision.Choice) bool {
	return !slices.ContainsFunc(choices, func(c decision.Choice) bool { return c.Lines == nil })
}

// alone are the decisions by which one award is given: whoever is placed on it has it
// beside what they were given before, whoever has it and is not placed any more loses it.
func alone(rows []decision.Row, award form.Key, given, recorded map[int64][]decision.Line) (out []decision.Choice) {
	is := func(l decision.Line) bool { return l.Award == award }
	for _, row := range rows {
		now, before := given[row.EntryID], recorded[row.EntryID]
		i, j := slices.IndexFunc(now, is), slices.IndexFunc(before, is)
		if i < 0 && j < 0 || i >= 0 && j >= 0 && now[i] == before[j] {
			continue
		}
		lines := slices.DeleteFunc(slices.Clone(before), is)
		if i >= 0 {
			lines = append(lines, now[i])
		}
		slices.SortFunc(lines, func(a, b decision.Line) int {
			return cmp.Or(cmp.Compare(b.Amount, a.Amount), cmp.Compare(a.Award, b.Award))
		})
		ch := decision.Choice{EntryID: row.EntryID, Version: row.Version, Outcome: lifecycle.NotAwarded}
		if len(lines) > 0 {
			ch.Outcome, ch.Lines = lifecycle.Awarded, lines
		}
		for _, l := range lines {
			ch.Amount += l.Amount
		}
		out = append(out, ch)
	}
	return out
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
	if _, there := f.Design.Award(rec.Award); rec.Award != "" && !there {
		return 0, 0, refusal.In("only", "There is no such award in this round.")
	}
	choices, err := s.Choices(ctx, tx, r, f, rec)
	if err != nil {
		return 0, 0, err
	}
	if len(choices) == 0 {
		return 0, 0, refusal.Unfit("all of this is recorded already")
	}
	if rec.Award != "" && strings.TrimSpace(rec.Reason) == "" && onlyAdds(choices) {
		rec.Reason = "“" + f.Design.AwardLabel(string(rec.Award)) + "” is given beside what was given before."
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
