package people

import (
	"context"
	"database/sql"
	"errors"
	"strings"
	"time"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Offer is a role that somebody is asked to take; it holds when they say yes.
type Offer struct {
	ID    int64
	Email string
	Name  string
	HeldRole
	ByID int64 `db:"by_id"`
	By   string
	At   time.Time
}

// HeldRole is a role with where it holds, as a row has it, and the names of that.
type HeldRole struct {
	ID        int64
	Role      access.Role
	Programme string
	Round     int64 `db:"round"`
	Place     string
	Body      string
	Award     string
	Until     *time.Time
	RoundKey  string `db:"round_key"`
	RoundName string `db:"round_name"`
}

// Access is the role as core/access takes it.
func (h HeldRole) Access() access.Held {
	return access.Held{Role: h.Role, Scope: access.Scope{Programme: h.Programme, Round: h.Round, Place: h.Place,
		Body: h.Body, Award: h.Award}, Until: h.Until}
}

// RoleRow is a role that an account holds, with who gave it.
type RoleRow struct {
	HeldRole
	By      string    // "" for the command line
	GivenAt time.Time `db:"given_at"`
}

const heldColumns = `w.id, w.role, w.programme, COALESCE(w.round_id, 0) AS round, w.place, w.body, w.award, w.until,
	COALESCE(r.key, '') AS round_key, COALESCE(r.name, '') AS round_name`

// HeldBy lists the roles of an account that are not over, in the order they were given.
func (s *Store) HeldBy(ctx context.Context, q db.Querier, account int64, at time.Time) (out []RoleRow, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT `+heldColumns+`, COALESCE(p.name, '') AS by, w.given_at FROM account_role w
		LEFT JOIN round r ON r.id = w.round_id LEFT JOIN account p ON p.id = w.given_by
		WHERE w.account_id = $1 AND w.ended_at IS NULL AND (w.until IS NULL OR w.until > $2) ORDER BY w.id`, account, at)
	return out, err
}

const offerColumns = heldColumns + `, w.email, w.name, w.by_id, p.name AS by, w.at`

const fromOffer = ` FROM role_invitation w LEFT JOIN round r ON r.id = w.round_id JOIN account p ON p.id = w.by_id `

// Offers that wait for an answer: to one address, or ("") all of them, the latest first.
func (s *Store) Offers(ctx context.Context, q db.Querier, email string) (out []Offer, err error) {
	err = q.SelectContext(ctx, &out, `SELECT `+offerColumns+fromOffer+`
		WHERE w.accepted_at IS NULL AND w.ended_at IS NULL AND ($1 = '' OR w.email = $1) ORDER BY w.id DESC LIMIT 200`, email)
	return out, err
}

// Offer finds one that waits for an answer.
func (s *Store) Offer(ctx context.Context, q db.Querier, id int64) (o Offer, err error) {
	err = q.GetContext(ctx, &o,
		`SELECT `+offerColumns+fromOffer+`WHERE w.id = $1 AND w.accepted_at IS NULL AND w.ended_at IS NULL`,
		id)
	if errors.Is(err, sql.ErrNoRows) {
		err = refusal.Over("this was answered already, or taken back")
	}
	return o, err
}

// MostOffers that may wait for one address.
const mostOffers = 20

// OfferRole asks somebody by mail to take a role. said is how it is said, where it
// holds by the names that people know.
func (s *Store) OfferRole(ctx context.Context, tx *db.Tx, email, name string, h access.Held, said say.HeldRole,
	life time.Duration) error {
	email, name = Fold(email), strings.TrimSpace(name)
	if err := CheckEmail(email); err != nil {
		return err
	}
	own, err := s.Roles(ctx, tx, tx.By.ID)
	if err != nil {
		return err
	}
	if !h.Fits() {
		return refusal.In("where", "This role cannot hold there. Choose a round, and which part of it.")
	}
	if !access.MayGive(own, h, tx.At) {
		return refusal.In("where", "You can give roles where you run rounds yourself. Choose another place.")
	}
	if h.Until != nil && !tx.At.Before(*h.Until) {
		return refusal.In("until", "The role would be over already. Give a later date.")
	}
	a, err := byEmail(ctx, tx, email)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return err
	}
	if a.ID == tx.By.ID {
		return refusal.In("email", "Nobody gives themselves a role. Ask somebody else who runs rounds.")
	}
	if a.ID != 0 {
		name = a.Name
		held, err := s.Roles(ctx, tx, a.ID)
		if err != nil {
			return err
		}
		for _, x := range held {
			if x.Role == h.Role && x.Scope == h.Scope && !x.Over(tx.At) {
				return refusal.In("email", a.Name+" holds this role already. Change its date on their page.")
			}
		}
	} else if err := CheckName(name); err != nil {
		return err
	}
	var n int
	if err := tx.GetContext(ctx, &n,
		`SELECT count(*) FROM role_invitation WHERE email = $1 AND accepted_at IS NULL AND ended_at IS NULL`,
		email); err != nil {
		return err
	}
	if n >= mostOffers {
		return refusal.In("email", "So many wait for their answer already. Take some back first.")
	}
	var round *int64
	if h.Round != 0 {
		round = &h.Round
	}
	var id int64
	if err := tx.GetContext(ctx, &id, `
		INSERT INTO role_invitation (email, name, role, programme, round_id, place, body, award, until, by_id, at)
		VALUES (@email, @name, @role, @programme, @round, @place, @body, @award, @until, @by, @at) RETURNING id`,
		db.Named{"email": email, "name": name, "role": h.Role, "programme": h.Programme, "round": round, "place": h.Place,
			"body": h.Body, "award": h.Award, "until": h.Until, "by": tx.By.ID, "at": tx.At}); err != nil {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Role, id, life)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE role_invitation SET link_id = $2 WHERE id = $1`, id, l); err != nil {
		return err
	}
	by, err := s.Find(ctx, tx, tx.By.ID)
	if err != nil {
		return err
	}
	subject, body := say.RoleOffer(name, by.Name, s.Post.Name(), said, post.LinkMark)
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "role-offered", Account: a.ID, To: email, ToName: name, Link: l,
		Subject: subject, Body: body})
	return err
}

// AcceptOffer gives the role to whoever the offer is to. hash is the password that
// somebody without an account has chosen; "" for one who has.
func (s *Store) AcceptOffer(ctx context.Context, tx *db.Tx, o Offer, hash string) (account int64, err error) {
	a, err := s.Invite(ctx, tx, o.Email, o.Name)
	if err != nil {
		return 0, err
	}
	if hash != "" && a.PasswordHash == "" {
		if err := s.SetPassword(ctx, tx, a.ID, hash); err != nil {
			return 0, err
		}
	}
	giver, err := s.Roles(ctx, tx, o.ByID)
	if err != nil {
		return 0, err
	}
	if !access.MayGive(giver, o.Access(), tx.At) {
		return 0, refusal.Over("whoever asked you may not give this role any more").But("ask the office")
	}
	by := tx.By
	tx.By = db.Account(o.ByID) // it is their giving that is kept
	err = s.GiveRole(ctx, tx, a.ID, o.Access())
	tx.By = by
	if err != nil {
		return 0, err
	}
	return a.ID, one(tx.ExecContext(ctx,
		`UPDATE role_invitation SET accepted_at = $2 WHERE id = $1 AND accepted_at IS NULL AND ended_at IS NULL`, o.ID,
		tx.At))
}

// EndOffer ends it: declined by whoever it is to, or taken back.
func (s *Store) EndOffer(ctx context.Context, tx *db.Tx, o Offer, declined bool) error {
	return one(tx.ExecContext(ctx,
		`UPDATE role_invitation SET ended_at = $2, declined = $3 WHERE id = $1 AND accepted_at IS NULL AND ended_at IS NULL`,
		o.ID, tx.At, declined))
}

func one(res sql.Result, err error) error {
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return refusal.Over("this was answered already, or taken back")
	}
	return nil
}

// EndRole takes a role away, for a reason that is told to whoever held it. Somebody
// must be left who runs rounds in the whole office.
func (s *Store) EndRole(ctx context.Context, tx *db.Tx, account int64, h HeldRole, said say.HeldRole,
	why string) error {
	own, err := s.Roles(ctx, tx, tx.By.ID)
	if err != nil {
		return err
	}
	if !access.MayGive(own, h.Access(), tx.At) {
		return refusal.Unfit("Roles are taken away by whoever may give them.")
	}
	if why = strings.TrimSpace(why); why == "" || len(why) > 1000 {
		return refusal.In("why", "Give the reason, in up to 1,000 characters. It is told to them.")
	}
	if h.Role == access.RunsRounds && h.Access().Scope == (access.Scope{}) {
		if _, err := tx.ExecContext(ctx,
			`SELECT pg_advisory_xact_lock(hashtext('the last who runs the office'))`); err != nil {
			return err
		}
		var others int
		if err := tx.GetContext(ctx, &others, `
			SELECT count(*) FROM account_role WHERE role = $1 AND programme = '' AND round_id IS NULL AND ended_at IS NULL AND until IS NULL AND account_id <> $2`,
			access.RunsRounds, account); err != nil {
			return err
		}
		if others == 0 {
			return refusal.In("why", "Nobody else runs rounds in the whole office without an end. Ask somebody to, first.")
		}
	}
	if err := s.TakeRole(ctx, tx, account, h.Role, h.Access().Scope); err != nil {
		return err
	}
	a, err := s.Find(ctx, tx, account)
	if err != nil {
		return err
	}
	by, err := s.Find(ctx, tx, tx.By.ID)
	if err != nil {
		return err
	}
	subject, body := say.RoleTaken(a.Name, by.Name, s.Post.Name(), said, why)
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "role-taken", Account: a.ID, To: a.Email, ToName: a.Name,
		Subject: subject, Body: body})
	return err
}

// UntilWhen sets when a role ends; nil: when it is taken away.
func (s *Store) UntilWhen(ctx context.Context, tx *db.Tx, account int64, h HeldRole, until *time.Time) error {
	own, err := s.Roles(ctx, tx, tx.By.ID)
	if err != nil {
		return err
	}
	if !access.MayGive(own, h.Access(), tx.At) || account == tx.By.ID {
		return refusal.Unfit("Whoever may give this role sets its end, and nobody their own.")
	}
	x := h.Access()
	x.Until = until
	return s.GiveRole(ctx, tx, account, x)
}
