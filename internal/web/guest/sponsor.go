package guest

import (
	"context"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/profile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// sponsorPage is what guest/sponsor.html draws.
type sponsorPage struct {
	X       profile.Sponsor
	Body    string
	Agrees  string // what they would agree to, word for word
	Who     profile.Member
	Contact string
	Token   string
}

// Sponsor shows a body for whom it is asked to hold money.
func Sponsor(r *site.Request) error {
	x, err := r.Profiles.Sponsor(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	if x.SponsorID == nil || x.State == "ended" || x.State == "taken back" {
		return fiber.ErrNotFound
	}
	body, err := r.Profiles.ByID(r.Context, r.DB, *x.SponsorID)
	if err != nil {
		return err
	}
	members, err := r.Profiles.Members(r.Context, r.DB, x.ProfileID)
	if err != nil {
		return err
	}
	if len(members) == 0 { // whoever asked has left
		return fiber.ErrNotFound
	}
	return r.Draw(fiber.StatusOK, "guest/sponsor", view.Page{Title: "Will you hold money for " + x.For + "?",
		Data: sponsorPage{X: x, Body: body.Name, Agrees: profile.SponsorAgrees(body.Name, x.For), Who: members[0],
			Contact: r.Profiles.Contact(), Token: r.Params("token")}})
}

// AnswerSponsor takes the answer.
func AnswerSponsor(r *site.Request) error {
	yes := r.FormValue("answer") == "yes"
	err := r.DB.Do(r.Context, r.Actor(), r.At, func(ctx context.Context, tx *db.Tx) error {
		return r.Profiles.AnswerSponsor(ctx, tx, r.Link.Subject, yes)
	})
	var unfit refusal.Refusal
	switch {
	case refusal.AsUnfit(err, &unfit):
		r.Tell(unfit.Sentence())
	case err != nil:
		return err
	case yes:
		r.Tell("Agreed. They are told; you can close this page.")
	default:
		r.Tell("Refused. They are told; you can close this page.")
	}
	return r.See(r.OriginalURL())
}
