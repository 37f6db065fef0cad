package application

import (
	"context"

	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
)

// DraftLead is whoever leads a draft, to be written to.
type DraftLead struct {
	Application int64
	Account     int64
	Ref         string
	Name        string
	Email       string
}

// DraftLeads are those of a round's drafts, by the number of the application, from the
// one after a number on and at most so many.
func (s *Store) DraftLeads(ctx context.Context, q db.Querier, roundID, after int64, most int) (out []DraftLead,
	err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT a.id AS application, p.id AS account, a.ref, p.name, p.email FROM application a
		JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id
		WHERE a.round_id = $1 AND a.id > $2
		  AND EXISTS (SELECT FROM entry e WHERE e.application_id = a.id AND e.state = ANY($3))
		ORDER BY a.id LIMIT $4`, roundID, after, lifecycle.With(lifecycle.Writing), most)
	return out, err
}
