package reading

import (
	"context"
	"slices"

	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Pooled is somebody who has been a reader of another round of the programme, as that
// round knows them.
type Pooled struct {
	Reader
	Round string // the latest they were invited to
	Sent  int    // cases they have marked in the programme
}

// Pool lists who has been a reader in other rounds of a round's programme and is none
// of this one, by name.
func (s *Store) Pool(ctx context.Context, q db.Querier, r round.Round) (out []Pooled, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT * FROM (
		  SELECT DISTINCT ON (x.account_id) x.account_id, p.name, p.email, x.invited_at, x.accepted_at, x.fields, x.languages, x.interests, x.knows,
		         x.organisation, x.own_most, x.declined_at, x.ended_at, x.why, d.name AS round,
		         (SELECT count(*) FROM assignment g JOIN application a ON a.id = g.application_id JOIN round o ON o.id = a.round_id
		          WHERE g.account_id = x.account_id AND g.sent_at IS NOT NULL AND o.programme = $1) AS sent
		  FROM reader x JOIN account p ON p.id = x.account_id JOIN round d ON d.id = x.round_id
		  WHERE d.programme = $1 AND NOT EXISTS (SELECT FROM reader n WHERE n.round_id = $2 AND n.account_id = x.account_id)
		  ORDER BY x.account_id, x.invited_at DESC) pool ORDER BY name, account_id`, r.Programme, r.ID)
	return out, err
}

// InvitePool invites some of the pool; what the round before knew of them is known of
// them here, as far as its questions are asked here too.
func (s *Store) InvitePool(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, accounts []int64) (n int,
	err error) {
	pool, err := s.Pool(ctx, tx, r)
	if err != nil {
		return 0, err
	}
	for _, x := range pool {
		if !slices.Contains(accounts, x.Account) {
			continue
		}
		if _, err := s.Invite(ctx, tx, r, x.Email, x.Name); err != nil {
			return n, err
		}
		if err := s.Describe(ctx, tx, r, f, x.Reader); err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}
