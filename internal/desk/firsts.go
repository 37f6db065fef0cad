package desk

import (
	"context"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/material"
)

// First is the first picture of a case, as it was sent.
type First struct {
	EntryID int64 `db:"entry_id"`
	Ref     string
	Title   string
	Stage   form.Key
	File    int64
	Size    int64
	Facts   material.Facts
}

// firsts picks the first picture of each case that is in, from the slots in their order.
const firsts = `
	SELECT e.id AS entry_id, a.ref, a.title, e.stage, m.id AS file, m.size, m.facts
	FROM entry e JOIN application a ON a.id = e.application_id
	JOIN LATERAL (
	  SELECT id, size, facts FROM material
	  WHERE entry_id = e.id AND removed_at IS NULL AND state = 'ready' AND facts->>'kind' = 'picture' AND slot = ANY($1)
	  ORDER BY array_position($1, slot), place, id LIMIT 1) m ON true
	WHERE e.seal_id IS NOT NULL`

// FirstsGiven lists the first pictures of the cases of a round that a reader was given.
func (d *Desk) FirstsGiven(ctx context.Context, account int64, round string, slots []string) (out []First, err error) {
	err = d.DB.SelectContext(ctx, &out, firsts+`
		AND e.id IN (SELECT g.entry_id FROM assignment g WHERE g.account_id = $2)
		AND NOT EXISTS (SELECT FROM recusal x WHERE x.account_id = $2 AND x.application_id = a.id)
		AND a.round_id = (SELECT id FROM round WHERE key = $3) ORDER BY a.ref`, pq.StringArray(slots), account, round)
	return out, err
}

// FirstsOf lists the first pictures of the cases of a round, those that are in, at most
// so many behind a reference.
func (d *Desk) FirstsOf(ctx context.Context, round int64, slots []string, after string,
	most int) (out []First, err error) {
	err = d.DB.SelectContext(ctx, &out, firsts+`
		AND a.round_id = $2 AND a.ref > $3 AND e.state = ANY($4) ORDER BY a.ref LIMIT $5`, pq.StringArray(slots), round, after,
		lifecycle.With(lifecycle.In), most)
	return out, err
}
