package rounds

import (
	"context"
	"errors"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/refusal"
	"ulvant/internal/enquiry"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// Enquiries lists the questions that were asked about a round.
func Enquiries(r *site.Request) error { return drawEnquiries(r, fiber.StatusOK, 0, "") }

// enquiriesPage is what office/rounds/enquiries.html draws.
type enquiriesPage struct {
	List     []enquiry.Enquiry
	Zone     *time.Location
	Key      string
	At       int64
	Problem  string
	Question string
	Answer   string
}

// answering is the form that answers one question.
type answering struct {
	E    enquiry.Enquiry
	D    enquiriesPage
	Here bool // what was typed to it was refused
	CSRF string
}

// Answering is the form for one.
func (p enquiriesPage) Answering(e enquiry.Enquiry, csrf string) answering {
	return answering{e, p, e.ID == p.At, csrf}
}

func drawEnquiries(r *site.Request, status int, id int64, problem string) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	list, err := r.Program.Enquiries.Of(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	return office.Draw(r, status, "office/rounds/enquiries", "Questions, "+r.Round.Name, "questions", f,
		enquiriesPage{List: list, Zone: f.Zone, Key: r.Round.Key, At: id, Problem: problem,
			Question: r.FormValue("question"), Answer: r.FormValue("answer")})
}

// AnswerEnquiry answers one.
func AnswerEnquiry(r *site.Request) error {
	id, err := strconv.ParseInt(r.Params("id"), 10, 64)
	if err != nil {
		return fiber.ErrNotFound
	}
	public := r.FormValue("public") == "yes"
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Enquiries.Answer(ctx, tx, r.Round, id, r.FormValue("question"), r.FormValue("answer"), public)
	})
	var unfit refusal.Refusal
	switch {
	case refusal.AsUnfit(err, &unfit):
		return drawEnquiries(r, fiber.StatusUnprocessableEntity, id, unfit.Sentence())
	case errors.Is(err, enquiry.ErrNotFound):
		return fiber.ErrNotFound
	case err != nil:
		return err
	}
	if public {
		r.Tell("Answered by mail, and for all to see on the round’s page.")
	} else {
		r.Tell("Answered by mail.")
	}
	return r.See("/office/rounds/" + r.Round.Key + "/questions")
}
