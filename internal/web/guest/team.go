package guest

import (
	"context"
	"net/url"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// invited is what somebody sees who is asked to have a part in an application.
type invited struct {
	Invitation application.Invitation
	Case       application.Case
	Lead       string
	As         *people.Account // who is signed in; nil for nobody
	Known      bool            // the address has an account to sign in with
	SignIn     string          // where to do that
	Barred     string          // why whoever is signed in cannot say yes
	Over       bool
	Problem    refusal.Refusal
	Name       string
}

// Team asks for the answer to an invitation.
func Team(r *site.Request) error { return drawAsked(r, fiber.StatusOK, refusal.Refusal{}) }

func drawAsked(r *site.Request, status int, problem refusal.Refusal) error {
	i, err := r.Cases.Invitation(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	c, err := r.Cases.Of(r.Context, r.DB, i.Application)
	if err != nil {
		return err
	}
	d := invited{Invitation: i, Case: c, As: r.Account, Problem: problem, Name: i.Name,
		Over:   i.State != application.InvitationAsked || !c.State.Writing(),
		SignIn: "/sign-in?next=" + url.QueryEscape(r.OriginalURL())}
	if problem.Says != "" && r.FormValue("name") != "" {
		d.Name = r.FormValue("name")
	}
	if r.Account != nil {
		rel, err := joins(r, c)
		if err != nil {
			return err
		}
		var barred refusal.Refusal
		if refusal.AsUnfit(intake.MayJoin(rel), &barred) {
			d.Barred = barred.Says
		}
	} else if a, err := r.People.ByEmail(r.Context, r.DB, i.Email); err == nil {
		d.Known = a.ConfirmedAt != nil
	}
	return r.Draw(status, "guest/team", view.Page{Title: "Join in writing “" + c.Title + "”", Data: d})
}

// joins are the relations of who is signed in that a part in a case would have
// to go together with.
func joins(r *site.Request, c application.Case) (rel access.Relations, err error) {
	office, err := r.People.AtOffice(r.Context, r.DB, r.Account.ID, r.At)
	if err != nil {
		return 0, err
	}
	if office {
		rel |= access.AtOffice
	}
	reads, err := r.Reading.ReadsIn(r.Context, r.DB, c.RoundID, r.Account.ID)
	if reads {
		rel |= access.ReaderOf
	}
	return rel, err
}

// AnswerTeam takes yes or no. Who has no account chooses a password with the yes.
func AnswerTeam(r *site.Request) error {
	var wrong refusal.Refusal
	if r.FormValue("answer") != "yes" {
		err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Intake.Decline(ctx, tx, r.Link.Subject) })
		if refusal.AsUnfit(err, &wrong) {
			return drawAsked(r, fiber.StatusConflict, wrong)
		}
		if err != nil {
			return err
		}
		return r.See(r.OriginalURL())
	}
	i, err := r.Cases.Invitation(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	c, err := r.Cases.Of(r.Context, r.DB, i.Application)
	if err != nil {
		return err
	}
	name, hash := r.FormValue("name"), ""
	if r.Account == nil {
		for _, err := range []error{people.CheckName(name), people.CheckPassword(r.FormValue("password"), i.Email, name)} {
			if refusal.AsUnfit(err, &wrong) {
				return drawAsked(r, fiber.StatusUnprocessableEntity, wrong)
			}
		}
		if hash, err = r.People.Hash(r.FormValue("password")); err != nil {
			return err
		}
	}
	var a people.Account
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		var rel access.Relations
		if r.Account != nil {
			a = *r.Account
			if rel, err = joins(r, c); err != nil {
				return err
			}
		} else if a, err = r.People.Join(ctx, tx, i.Email, name, hash); err != nil {
			return err
		}
		c, err = r.Intake.Join(ctx, tx, r.Link.Subject, a, rel)
		return err
	})
	if refusal.AsUnfit(err, &wrong) {
		return drawAsked(r, fiber.StatusUnprocessableEntity, wrong)
	}
	if err != nil {
		return err
	}
	if r.Account == nil {
		if err := r.Begin(a.ID); err != nil {
			return err
		}
	}
	r.Tell("You have a part in “" + c.Title + "” now.")
	return r.See("/applications/" + c.Ref)
}
