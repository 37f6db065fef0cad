package connection

import (
	"context"
	"slices"

	"github.com/lib/pq"

	"ulvant/core/access"
	"ulvant/core/connected"
	"ulvant/internal/platform/db"
)

// judging is an account that judges or gives, with the party it is so far.
type judging struct {
	Account int64
	Name    string
	Email   string
	Reads   bool
	Roles   pq.StringArray
	Party   *int64
	Was     *string // name, mailbox and part of that party
}

// part somebody has who judges: what bears on a case most.
func (j judging) part() connected.Part {
	has := func(roles ...access.Role) bool {
		return slices.ContainsFunc(roles, func(r access.Role) bool { return slices.Contains(j.Roles, string(r)) })
	}
	switch {
	case j.Reads:
		return connected.Reader
	case has(access.Chairs, access.Sits):
		return connected.Panel
	case has(access.Gives) && len(j.Roles) == 1:
		return connected.Donor
	}
	return connected.Staff
}

// Sync brings up those who judge or give: readers, the office, panels, donors. Only
// who is new, is called otherwise or is none any more is touched.
func (s *Store) Sync(ctx context.Context, tx *db.Tx) error {
	var now []judging
	if err := tx.SelectContext(ctx, &now, `
		WITH who AS (
		  SELECT account_id, true AS reads, NULL AS role FROM reader
		  UNION ALL SELECT account_id, false, role FROM account_role WHERE ended_at IS NULL AND (until IS NULL OR until > $1))
		SELECT a.id AS account, a.name, a.email, bool_or(w.reads) AS reads, COALESCE(array_agg(DISTINCT w.role) FILTER (WHERE w.role IS NOT NULL), '{}') AS roles,
		       max(p.id) AS party, max(p.name || ' ' || p.mails[1] || ' ' || p.part) AS was
		FROM who w JOIN account a ON a.id = w.account_id LEFT JOIN party p ON p.account_id = a.id AND p.application_id IS NULL
		GROUP BY a.id ORDER BY a.id`, tx.At); err != nil {
		return err
	}
	var ids []int64
	accounts := []int64{} // never NULL: none means that nobody judges any more
	for _, j := range now {
		accounts = append(accounts, j.Account)
		if j.Was != nil && *j.Was == j.Name+" "+j.Email+" "+string(j.part()) {
			continue
		}
		phones, addresses, err := s.ownProfile(ctx, tx, j.Account)
		if err != nil {
			return err
		}
		var id int64
		if err := tx.QueryRowxContext(ctx, `
			INSERT INTO party (account_id, part, place, name, mails, phones, addresses, mark) VALUES ($1, $2, '', $3, $4, $5, $6, $7)
			ON CONFLICT (account_id) WHERE application_id IS NULL DO UPDATE SET part = EXCLUDED.part, name = EXCLUDED.name, mails = EXCLUDED.mails,
			  phones = EXCLUDED.phones, addresses = EXCLUDED.addresses, mark = EXCLUDED.mark RETURNING id`,
			j.Account, j.part(), j.Name, pq.StringArray{j.Email}, arr(phones), arr(addresses),
			markOf(connected.Party{Name: j.Name, Mails: []string{j.Email}})).Scan(&id); err != nil {
			return err
		}
		ids = append(ids, id)
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM party WHERE application_id IS NULL AND NOT account_id = ANY($1)`,
		accounts); err != nil {
		return err
	}
	return s.connect(ctx, tx, ids)
}

// ownProfile is what somebody who judges has said of themselves as a person.
func (s *Store) ownProfile(ctx context.Context, q db.Querier, account int64) (phones, addresses pq.StringArray,
	err error) {
	list, err := s.Profiles.Of(ctx, q, account)
	for _, p := range list {
		if x := profileParty(p); !x.Body {
			phones, addresses = x.Phones, x.Addresses
		}
	}
	return phones, addresses, err
}
