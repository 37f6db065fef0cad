package applicant

import (
	"context"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// supportPage is what applicant/support.html draws.
type supportPage struct {
	Case    application.Case
	List    []application.Support
	Adviser string // who of the office looks after the case; "" for nobody by name
	Contact string
	Zone    *time.Location
	Text    string
	Problem string
}

// Support is where an applicant asks for support.
func Support(r *site.Request) error { return drawSupport(r, fiber.StatusOK, "") }

func drawSupport(r *site.Request, status int, problem string) error {
	f, err := r.Cases.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	d := supportPage{Case: r.Case, Contact: f.Design.Contact, Zone: f.Zone, Text: r.FormValue("text"), Problem: problem}
	if d.List, err = r.Cases.Supports(r.Context, r.DB, r.Case); err != nil {
		return err
	}
	if d.Adviser, err = adviserOf(r); err != nil {
		return err
	}
	return r.Draw(status, "applicant/support", view.Page{Title: "Support, " + r.Case.Title, Nav: "mine", Data: d})
}

// adviserOf is who of the office looks after the case, by its area or field.
func adviserOf(r *site.Request) (string, error) {
	st, err := r.Cases.Standing(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return "", err
	}
	return r.Desk.CarerOf(r.Context, r.Case.ID, r.Case.RoundID, st.Place, r.At.In(r.Profiles.Zone()))
}

// AskSupport asks for it.
func AskSupport(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Cases.AskSupport(ctx, tx, r.Case, r.FormValue("text"))
	})
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawSupport(r, fiber.StatusUnprocessableEntity, unfit.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell("The office has it, and writes to you.")
	return r.See("/applications/" + r.Case.Ref + "/support" + r.Case.Query())
}
