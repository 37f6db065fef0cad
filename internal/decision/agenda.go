package decision

import (
	"context"
	"errors"
	"math"

	"ulvant/core/agenda"
	"ulvant/core/calibrate"
	"ulvant/core/form"
	"ulvant/core/mark"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Agenda of a meeting over what is still to be decided: the entries, and its items by
// their places. draw is where chance comes from.
func (s *Store) Agenda(ctx context.Context, q db.Querier, r round.Round, f *form.Form, stage form.Key, minutes int,
	draw calibrate.Normal) (entries []int64, items []agenda.Item, err error) {
	table, err := s.Order(ctx, q, r, f, stage)
	if err != nil {
		return nil, nil, err
	}
	chance := map[int64]float64{}
	switch scale, err := s.Scale(ctx, q, r, f, stage, draw); {
	case errors.Is(err, calibrate.ErrTooFew):
	case err != nil:
		return nil, nil, err
	default:
		for _, c := range scale.Cases {
			chance[c.EntryID] = c.Chance
		}
	}
	line := 0
	for i, row := range table.Rows {
		if row.Within {
			line = i + 1
		}
	}
	most := f.Design.MostMark()
	var cases []agenda.Case
	for i, row := range table.Rows {
		if row.State.Decided() {
			continue
		}
		c := agenda.Case{Known: row.Score.Known(), Chance: math.NaN(), Apart: mark.Apart(row.Scores, most),
			Above: row.Within, Near: line - 1 - i}
		if i >= line {
			c.Near = i - line
		}
		if p, ok := chance[row.EntryID]; ok {
			c.Chance = p
		}
		cases, entries = append(cases, c), append(entries, row.EntryID)
	}
	return entries, agenda.Of(cases, minutes), nil
}
