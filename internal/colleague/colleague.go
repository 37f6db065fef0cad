// Package colleague keeps what people at the office keep for themselves and each
// other about cases: views of the register, labels, notes with the colleagues they
// name, who looks after a case by hand, and who stands in while somebody is away.
// Nothing of it is the applicant's to see, and nothing of it leaves the house.
package colleague

import (
	"context"
	"strings"
	"time"

	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// Store keeps it.
type Store struct {
	DB     *db.DB
	Cases  *application.Store
	People *people.Store
}

// MostLabel is how long a label may be, in bytes; MostLabels how many a case has.
const (
	MostLabel  = 40
	MostLabels = 20
)

// ReadLabel reads a label as it is typed.
func ReadLabel(typed string) (string, error) {
	name := strings.Join(strings.Fields(typed), " ")
	switch {
	case name == "":
		return "", refusal.Unfit("Type the label.")
	case len(name) > MostLabel:
		return "", refusal.Unfit("A label is short: up to 40 characters.")
	case strings.ContainsAny(name, ",~"):
		return "", refusal.Unfit("A label has no comma and no “~”.")
	}
	return name, nil
}

// Label puts a label on a case, or takes it off; changed is false when it was so
// already.
func (s *Store) Label(ctx context.Context, tx *db.Tx, c application.Case, name string,
	on bool) (changed bool, err error) {
	if name, err = ReadLabel(name); err != nil {
		return false, err
	}
	if !on {
		res, err := tx.ExecContext(ctx, `DELETE FROM label WHERE application_id = $1 AND name = $2`, c.ID, name)
		if err != nil {
			return false, err
		}
		n, err := res.RowsAffected()
		return n > 0, err
	}
	var n int
	if err := tx.GetContext(ctx, &n, `SELECT count(*) FROM label WHERE application_id = $1`, c.ID); err != nil {
		return false, err
	}
	if n >= MostLabels {
		return false, refusal.Unfit("It has 20 labels already").But("take one off first")
	}
	res, err := tx.ExecContext(ctx,
		`INSERT INTO label (application_id, name, by_id, at) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`, c.ID, name,
		tx.By.ID, tx.At)
	if err != nil {
		return false, err
	}
	added, err := res.RowsAffected()
	return added > 0, err
}

// Labels of a case, in the order of the alphabet.
func (s *Store) Labels(ctx context.Context, q db.Querier, c application.Case) (out []string, err error) {
	err = q.SelectContext(ctx, &out, `SELECT name FROM label WHERE application_id = $1 ORDER BY name`, c.ID)
	return out, err
}

// InHand is who looks after a case by hand; 0 for nobody.
func (s *Store) InHand(ctx context.Context, q db.Querier, c application.Case) (account int64, err error) {
	err = q.GetContext(ctx, &account,
		`SELECT COALESCE((SELECT account_id FROM hand WHERE application_id = $1), 0)`, c.ID)
	return account, err
}

// Hand gives a case to a colleague to look after, before whoever looks after its
// place or field; account 0 gives it back to them. It says who had it by hand.
func (s *Store) Hand(ctx context.Context, tx *db.Tx, c application.Case, account int64) (before int64, err error) {
	if before, err = s.InHand(ctx, tx, c); err != nil || before == account {
		return before, err
	}
	if account == 0 {
		_, err = tx.ExecContext(ctx, `DELETE FROM hand WHERE application_id = $1`, c.ID)
	} else {
		works, werr := s.People.AtOffice(ctx, tx, account, tx.At)
		if werr != nil {
			return 0, werr
		}
		if !works {
			return 0, refusal.Unfit("They do not work at the office").But("choose a colleague")
		}
		_, err = tx.ExecContext(ctx, `
			INSERT INTO hand (application_id, account_id, by_id, at) VALUES ($1, $2, $3, $4)
			ON CONFLICT (application_id) DO UPDATE SET account_id = $2, by_id = $3, at = $4`, c.ID, account, tx.By.ID, tx.At)
	}
	if err != nil {
		return 0, err
	}
	names, err := s.People.Names(ctx, tx, []int64{account})
	if err != nil {
		return 0, err
	}
	to := names[account]
	if account == 0 {
		to = "whoever looks after its place or field"
	}
	return before, trail.Write(ctx, tx, "handed-to", c.ID, c.RoundID, map[string]string{"to": to})
}

// Away is somebody who is away, with who stands in.
type Away struct {
	ID       int64
	Account  int64      `db:"account_id"`
	Name     string     // of who is away
	From     time.Time  `db:"from_day"`
	To       time.Time  `db:"to_day"` // the last day
	Cover    int64      `db:"cover_id"`
	CoverBy  string     `db:"cover_name"`
	AgreedAt *time.Time `db:"agreed_at"`
}

const awayColumns = `w.id, w.account_id, p.name, w.from_day, w.to_day, w.cover_id, k.name AS cover_name, w.agreed_at`

const fromAway = ` FROM away w JOIN account p ON p.id = w.account_id JOIN account k ON k.id = w.cover_id `

// Aways lists those that are not over, of an account, or those it was asked to
// stand in for.
func (s *Store) Aways(ctx context.Context, q db.Querier, account int64, today time.Time) (out []Away, err error) {
	err = q.SelectContext(ctx, &out, `SELECT `+awayColumns+fromAway+`
		WHERE w.ended_at IS NULL AND w.to_day >= $2::date AND $1 IN (w.account_id, w.cover_id) ORDER BY w.from_day, w.id`, account, today)
	return out, err
}

// GoAway says from which day to which somebody is away, and asks a colleague to
// stand in; until they say yes nothing is theirs.
func (s *Store) GoAway(ctx context.Context, tx *db.Tx, from, to time.Time, cover int64) error {
	if to.Before(from) {
		return refusal.In("to", "The last day comes before the first.")
	}
	if cover == tx.By.ID {
		return refusal.In("cover", "Choose a colleague to stand in for you.")
	}
	works, err := s.People.AtOffice(ctx, tx, cover, tx.At)
	if err != nil {
		return err
	}
	if !works {
		return refusal.In("cover", "Choose a colleague to stand in for you.")
	}
	var same bool
	if err := tx.GetContext(ctx, &same, `
		SELECT EXISTS (SELECT FROM away WHERE account_id = $1 AND ended_at IS NULL AND from_day <= $3::date AND to_day >= $2::date)`,
		tx.By.ID, from, to); err != nil {
		return err
	}
	if same {
		return refusal.In("from", "You are away on some of these days already. Take that back first.")
	}
	_, err = tx.ExecContext(ctx,
		`INSERT INTO away (account_id, from_day, to_day, cover_id) VALUES ($1, $2::date, $3::date, $4)`,
		tx.By.ID, from, to, cover)
	return err
}

// AgreeAway says yes to standing in; EndAway takes it back, by either of the two.
func (s *Store) AgreeAway(ctx context.Context, tx *db.Tx, id int64) error {
	return one(tx.ExecContext(ctx,
		`UPDATE away SET agreed_at = $3 WHERE id = $1 AND cover_id = $2 AND ended_at IS NULL AND agreed_at IS NULL`, id,
		tx.By.ID, tx.At))
}

// EndAway takes it back: whoever is away, or whoever was asked to stand in.
func (s *Store) EndAway(ctx context.Context, tx *db.Tx, id int64) error {
	return one(tx.ExecContext(ctx,
		`UPDATE away SET ended_at = $3 WHERE id = $1 AND $2 IN (account_id, cover_id) AND ended_at IS NULL`, id, tx.By.ID,
		tx.At))
}
