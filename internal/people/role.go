package people

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"fmt"
	"time"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
)

// Roles that an account holds at the office, as they are read from PostgreSQL.
type Roles []access.Held

// Scan reads a JSON list.
func (r *Roles) Scan(from any) error {
	switch v := from.(type) {
	case []byte:
		return json.Unmarshal(v, r)
	case string:
		return json.Unmarshal([]byte(v), r)
	}
	return fmt.Errorf("roles cannot be read from a %T", from)
}

// Value is for the interface alone: roles are written one at a time.
func (r Roles) Value() (driver.Value, error) { return json.Marshal([]access.Held(r)) }

// RolesOf reads the roles of an account, as a column of a larger look-up; account
// is the expression for its number. Those whose time is over are among them.
func RolesOf(account string) string {
	return `COALESCE((SELECT json_agg(json_build_object('role', w.role, 'programme', w.programme, 'round', COALESCE(w.round_id, 0), 'place', w.place, 'body', w.body, 'award', w.award, 'until', w.until) ORDER BY w.id)
	  FROM account_role w WHERE w.account_id = ` + account + ` AND w.ended_at IS NULL), '[]')`
}

// Roles of an account at the office; none for most.
func (s *Store) Roles(ctx context.Context, q db.Querier, account int64) (out Roles, err error) {
	err = q.GetContext(ctx, &out, `SELECT `+RolesOf(`$1`), account)
	return out, err
}

// AtOffice reports an account that holds a role there.
func (s *Store) AtOffice(ctx context.Context, q db.Querier, account int64, at time.Time) (bool, error) {
	roles, err := s.Roles(ctx, q, account)
	return access.Of(roles, access.About{}, at).Any(access.Office), err
}

// GiveRole gives an account a role; one it holds already is held until the new
// date. Who holds one is confirmed by it.
func (s *Store) GiveRole(ctx context.Context, tx *db.Tx, account int64, h access.Held) error {
	if h.Until != nil && !tx.At.Before(*h.Until) {
		return refusal.Unfit("the role would be over already").But("give a later date")
	}
	if !h.Fits() {
		return refusal.Unfit("this role cannot hold there").But("a second body and an award are of a round that has one")
	}
	var round *int64
	if h.Round != 0 {
		round = &h.Round
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO account_role (account_id, role, programme, round_id, place, body, award, given_by, given_at, until) VALUES (@account_id, @role, @programme, @round_id, @place, @body, @award, @given_by, @given_at, @until)
		ON CONFLICT (account_id, role, programme, COALESCE(round_id, 0), place, body, award) WHERE ended_at IS NULL DO UPDATE SET until = @until`,
		db.Named{"account_id": account, "role": h.Role, "programme": h.Programme, "round_id": round, "place": h.Place,
			"body": h.Body, "award": h.Award,
			"given_by": tx.By.ID, "given_at": tx.At, "until": h.Until}); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE account SET confirmed_at = COALESCE(confirmed_at, $2) WHERE id = $1`,
		account, tx.At); err != nil {
		return err
	}
	return s.note(ctx, tx, account, say.OfficeGiven)
}

// TakeRole takes a role away from now on; what was done with it stands.
func (s *Store) TakeRole(ctx context.Context, tx *db.Tx, account int64, role access.Role, scope access.Scope) error {
	res, err := tx.ExecContext(ctx, `
		UPDATE account_role SET ended_at = @ended_at, ended_by = @ended_by
		WHERE account_id = @account_id AND role = @role AND programme = @programme AND COALESCE(round_id, 0) = @round_id AND place = @place AND body = @body AND award = @award AND ended_at IS NULL`,
		db.Named{"account_id": account, "role": role, "programme": scope.Programme, "round_id": scope.Round,
			"place": scope.Place, "body": scope.Body, "award": scope.Award,
			"ended_at": tx.At, "ended_by": tx.By.ID})
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return refusal.Unfit("they do not hold this role")
	}
	return s.note(ctx, tx, account, say.OfficeTaken)
}

// Office lists those who hold a role there at a time, by name; donors are not among them.
func (s *Store) Office(ctx context.Context, at time.Time) (out []Account, err error) {
	err = s.DB.SelectContext(ctx, &out, `
		SELECT `+Columns+` FROM account WHERE id IN (SELECT account_id FROM account_role WHERE ended_at IS NULL AND (until IS NULL OR until > $1) AND role <> $2) ORDER BY name`,
		at, access.Gives)
	return out, err
}

// Donors lists those who give an award, by name; they work nowhere.
func (s *Store) Donors(ctx context.Context, at time.Time) (out []Account, err error) {
	err = s.DB.SelectContext(ctx, &out, `
		SELECT `+Columns+` FROM account WHERE id IN (SELECT account_id FROM account_role WHERE ended_at IS NULL AND (until IS NULL OR until > $1) AND role = $2) ORDER BY name`,
		at, access.Gives)
	return out, err
}

// Names of accounts, by their ids.
func (s *Store) Names(ctx context.Context, q db.Querier, ids []int64) (map[int64]string, error) {
	var list []struct {
		ID   int64
		Name string
	}
	if err := q.SelectContext(ctx, &list, `SELECT id, name FROM account WHERE id = ANY($1)`, ids); err != nil {
		return nil, err
	}
	out := make(map[int64]string, len(list))
	for _, a := range list {
		out[a.ID] = a.Name
	}
	return out, nil
}
