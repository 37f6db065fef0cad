package guest

import (
	"context"
	"database/sql"
	"errors"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// rolePage is what guest/role.html draws.
type rolePage struct {
	O         people.Offer
	Says, May string
	New       bool // they have no account with a password yet
	Problem   refusal.Refusal
}

// Role shows what somebody is asked to do at the office.
func Role(r *site.Request) error { return drawRole(r, fiber.StatusOK, refusal.Refusal{}) }

func drawRole(r *site.Request, status int, p refusal.Refusal) error {
	o, err := r.People.Offer(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	said := say.HeldRole{Role: o.Role, Programme: o.Programme, Round: o.RoundName, Place: o.Place, Until: o.Until,
		Zone: r.Profiles.Zone(), Body: o.Body, Award: o.Award}
	if o.Round != 0 {
		if err := named(r, o, &said); err != nil {
			return err
		}
	}
	fresh, err := isNew(r, o)
	if err != nil {
		return err
	}
	return r.Draw(status, "guest/role", view.Page{Title: "Work with us", Data: rolePage{O: o, Says: say.AskedTo(said),
		May: say.MayDo(o.Role, true), New: fresh, Problem: p}})
}

// isNew reports somebody who has no password here yet.
func isNew(r *site.Request, o people.Offer) (bool, error) {
	a, err := r.People.ByEmail(r.Context, r.DB, o.Email)
	if errors.Is(err, sql.ErrNoRows) {
		return true, nil
	}
	return a.PasswordHash == "", err
}

// named puts the names of a body or an award in the place of their keys.
func named(r *site.Request, o people.Offer, said *say.HeldRole) error {
	rd, err := r.Rounds.ByID(r.Context, r.DB, o.Round)
	if err != nil {
		return err
	}
	f, err := r.Rounds.Published(r.Context, r.DB, rd)
	if err != nil {
		return err
	}
	said.Body, said.Award = f.Design.BodyLabel(o.Body), f.Design.AwardLabel(o.Award)
	return nil
}

// AnswerRole says yes, with a password from somebody new, or no.
func AnswerRole(r *site.Request) error {
	o, err := r.People.Offer(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	if r.FormValue("answer") == "no" {
		if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.People.EndOffer(ctx, tx, o, true)
		}); err != nil {
			return err
		}
		r.Tell("Declined. Nothing holds, and nothing more comes of it.")
		return r.See("/")
	}
	fresh, err := isNew(r, o)
	if err != nil {
		return err
	}
	hash := ""
	if fresh {
		var p refusal.Refusal
		if errors.As(people.CheckPassword(r.FormValue("password"), o.Email, o.Name), &p) {
			return drawRole(r, fiber.StatusUnprocessableEntity, p)
		}
		if hash, err = r.People.Hash(r.FormValue("password")); err != nil {
			return err
		}
	}
	var account int64
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		account, err = r.People.AcceptOffer(ctx, tx, o, hash)
		return err
	})
	if err != nil {
		return err
	}
	next := "/office"
	if o.Role == access.Gives {
		next = "/gifts"
	}
	if hash == "" {
		return r.See("/sign-in?next=" + next)
	}
	if err := r.Begin(account); err != nil {
		return err
	}
	return r.See(next)
}
