package reading

import (
	"context"
	"slices"

	"ulvant/core/connected"
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

// declaredLate has a reader step aside from the cases they were given already and have
// not sent, where those name what they declare now.
func (s *Store) declaredLate(ctx context.Context, tx *db.Tx, r round.Round, x Reader) error {
	if x.Interests == "" {
		return nil
	}
	var open []struct {
		Entry int64
		App   int64
		Place string
	}
	if err := tx.SelectContext(ctx, &open, `
		SELECT g.entry_id AS entry, g.application_id AS app, COALESCE(st.place, '') AS place FROM assignment g
		JOIN application a ON a.id = g.application_id LEFT JOIN standing st ON st.entry_id = g.entry_id
		WHERE a.round_id = $1 AND g.account_id = $2 AND g.sent_at IS NULL ORDER BY g.entry_id`, r.ID, x.Account); err != nil || len(open) == 0 {
		return err
	}
	apps := make([]int64, len(open))
	for i, o := range open {
		apps[i] = o.App
	}
	named, err := s.Connections.BehindAll(ctx, tx, apps)
	if err != nil {
		return err
	}
	for _, o := range open {
		names := []string{o.Place}
		for _, p := range named[o.App] {
			names = append(names, p.Name)
		}
		line, _ := connected.Declared(x.Interests, names)
		if line == "" {
			continue
		}
		c, err := s.Cases.ByEntry(ctx, tx, o.Entry)
		if err == nil {
			c, err = s.Cases.Lock(ctx, tx, c, false)
		}
		if err != nil {
			return err
		}
		if err := s.aside(ctx, tx, c, x.Account, "Declared afterwards: "+line); err != nil {
			return err
		}
	}
	return nil
}
