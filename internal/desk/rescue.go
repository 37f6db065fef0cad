package desk

import (
	"context"
	"slices"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/rescue"
)

// Draft is one that may still be brought in.
type Draft struct {
	Item
	rescue.Stuck
	EntryID   int64      `db:"entry_id"`
	Blocks    string     // names of the referees who are awaited, for a letter
	NudgedAt  *time.Time `db:"nudged_at"`
	NudgedWho string     `db:"nudged_who"`
	Closes    time.Time
}

// Rescue lists a round's drafts that a nudge may still bring in, the closest
// first.
func (d *Desk) Rescue(ctx context.Context, round int64, at time.Time, most int) ([]Draft, error) {
	var rows []Draft
	err := d.DB.SelectContext(ctx, &rows, `SELECT `+itemColumns+`, st.entry_id, n.at AS nudged_at, COALESCE(n.name, '') AS nudged_who, COALESCE(x.blocks, '') AS blocks `+itemFrom+`
		LEFT JOIN LATERAL (SELECT at, name FROM nudge WHERE entry_id = st.entry_id ORDER BY at DESC LIMIT 1) n ON true
		LEFT JOIN LATERAL (SELECT string_agg(f.name, ', ' ORDER BY f.id) AS blocks FROM referee f WHERE f.entry_id = st.entry_id AND f.state IN ('asked', 'accepted', 'uploaded')) x ON true
		WHERE st.round_id = $1 AND st.latest AND st.state = ANY($3) AND st.valid_until > $2`, round, at, lifecycle.With(lifecycle.Drafting))
	if err != nil {
		return nil, err
	}
	type ranked struct {
		row   Draft
		draft rescue.Draft
	}
	var list []ranked
	for _, r := range rows {
		x := rescue.Draft{Done: r.Done, Required: r.Required, Letter: r.Letter, Left: r.Until.Sub(at),
			Silent: at.Sub(r.ChangedAt)}
		for _, c := range r.Obstacles {
			x.Obstacles = append(x.Obstacles, form.Code(c))
		}
		if !rescue.Worth(x) {
			continue
		}
		r.Stuck, r.Closes = rescue.Look(x), *r.Until
		list = append(list, ranked{r, x})
	}
	slices.SortStableFunc(list, func(a, b ranked) int { return rescue.Compare(a.draft, b.draft) })
	var out []Draft
	for i, x := range list {
		if i < most {
			out = append(out, x.row)
		}
	}
	return out, nil
}

// Nudged counts the drafts of a round that were nudged, and those of them that
// were sent afterwards.
func (d *Desk) Nudged(ctx context.Context, round int64) (nudged, sent int, err error) {
	err = d.DB.QueryRowxContext(ctx, `
		SELECT count(*), count(*) FILTER (WHERE st.sent_at > n.first) FROM (
		  SELECT n.entry_id, min(n.at) AS first FROM nudge n GROUP BY n.entry_id) n JOIN standing st ON st.entry_id = n.entry_id WHERE st.round_id = $1`, round).Scan(&nudged, &sent)
	return nudged, sent, err
}
