package applicant

import (
	"context"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// MoreTime shows what was asked and answered about time, and asks for more.
func MoreTime(r *site.Request) error { return drawMoreTime(r, fiber.StatusOK, "") }

// moretimePage is what applicant/moretime.html draws.
type moretimePage struct {
	Case    application.Case
	Zone    *time.Location
	Closes  time.Time
	Asked   []application.MoreTime
	May     bool
	Reason  string
	Problem string
	Contact string
}

func drawMoreTime(r *site.Request, status int, problem string) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	asked, err := r.Cases.MoreTimes(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	waits := len(asked) > 0 && asked[0].DecidedAt == nil
	return r.Draw(status, "applicant/moretime", view.Page{Title: "More time for " + r.Case.Title, Nav: "applications",
		Data: moretimePage{Case: r.Case, Zone: f.Zone, Closes: r.Case.Window(f).Closes, Asked: asked,
			May: r.May(access.AskTime) && !waits, Reason: r.FormValue("reason"), Problem: problem, Contact: f.Design.Contact}})
}

// AskTime asks the office for more time.
func AskTime(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Cases.AskTime(ctx, tx, r.Case, r.FormValue("reason"))
	})
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawMoreTime(r, fiber.StatusUnprocessableEntity, unfit.Sentence())
	}
	if err != nil {
		return orConflict(r, err)
	}
	r.Tell("The office has your request. Go on writing; the answer comes by mail.")
	return r.See("/applications/" + r.Case.Ref + "/more-time" + r.Case.Query())
}
