package public

import (
	"context"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/refusal"
	"ulvant/internal/enquiry"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// Enquiries shows what was asked about a round and answered for all, and takes
// a question.
func Enquiries(r *site.Request) error { return drawEnquiries(r, fiber.StatusOK, "") }

// enquiriesPage is what public/enquiries.html draws.
type enquiriesPage struct {
	R       listed
	All     []enquiry.Enquiry
	Own     []enquiry.Enquiry
	Text    string
	Problem string
}

func drawEnquiries(r *site.Request, status int, problem string) error {
	l, err := list(r, r.Round)
	if err != nil {
		return err
	}
	all, err := r.Program.Enquiries.Public(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	var own []enquiry.Enquiry
	if r.Account != nil {
		if own, err = r.Program.Enquiries.By(r.Context, r.DB, r.Round.ID, r.Account.ID); err != nil {
			return err
		}
	}
	return r.Draw(status, "public/enquiries", view.Page{Title: "Questions about " + r.Round.Name, Nav: "rounds",
		Data: enquiriesPage{R: l, All: all, Own: own, Text: r.FormValue("text"), Problem: problem}})
}

// Enquire asks one.
func Enquire(r *site.Request) error {
	if r.Round.DesignID == nil {
		return fiber.ErrNotFound
	}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Enquiries.Ask(ctx, tx, r.Round, r.FormValue("text"))
	})
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawEnquiries(r, fiber.StatusUnprocessableEntity, unfit.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell("Your question is with the office. The answer comes by mail.")
	return r.See("/rounds/" + r.Round.Key + "/questions")
}
