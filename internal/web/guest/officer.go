package guest

import (
	"context"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/platform/db"
	"ulvant/internal/profile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// officerPage is what guest/officer.html draws.
type officerPage struct {
	O       profile.Officer
	P       profile.Profile
	Who     profile.Member
	Contact string
	Says    string // what they confirm, word for word
	Token   string
	Zone    *time.Location
}

// Officer shows an officer of an organisation what they are asked to confirm.
func Officer(r *site.Request) error {
	o, err := r.Profiles.Officer(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	p, err := r.Profiles.ByID(r.Context, r.DB, o.ProfileID)
	if err != nil {
		return err
	}
	members, err := r.Profiles.Members(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	if len(members) == 0 { // whoever took it on has left
		return fiber.ErrNotFound
	}
	return r.Draw(fiber.StatusOK, "guest/officer", view.Page{Title: "May you sign for “" + p.Name + "”?",
		Data: officerPage{O: o, P: p, Who: members[0], Contact: r.Profiles.Contact(),
			Says: profile.OfficerConfirms(o, p, members[0]), Token: r.Params("token"),
			Zone: r.Profiles.Zone()}})
}

// ConfirmOfficer takes the answer.
func ConfirmOfficer(r *site.Request) error {
	yes := r.FormValue("answer") == "yes"
	err := r.DB.Do(r.Context, r.Actor(), r.At, func(ctx context.Context, tx *db.Tx) error {
		return r.Profiles.Confirm(ctx, tx, r.Link.Subject, yes)
	})
	if err != nil {
		return err
	}
	if yes {
		r.Tell("Confirmed. You can close this page.")
	} else {
		r.Tell("Refused. Nothing is signed in your name.")
	}
	return r.See(r.OriginalURL())
}
