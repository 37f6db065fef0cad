package applicant

import (
	"context"
	"errors"
	"slices"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// stageAsks is a section that the stage asks.
type stageAsks struct {
	*form.Section
	Again, Carried bool // asked again; and from what was answered
}

// invitedPage is what applicant/invited.html draws.
type invitedPage struct {
	Case    application.Case
	Stage   form.Stage
	Stages  []casefile.StageLink
	Asks    []stageAsks
	Window  calendar.Window
	Phase   string
	Zone    *time.Location
	Problem string
	Contact string
	Lead    bool
}

// drawInvitation shows a stage that the case was invited to, before it is begun.
func drawInvitation(r *site.Request, status int, problem string) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	all, err := stages(r, f)
	if err != nil {
		return err
	}
	key := form.Key(r.Case.Stage)
	carried := f.Carried(key)
	var list []stageAsks
	for i := range f.Design.Sections {
		s := &f.Design.Sections[i]
		if again := slices.Contains(s.Again, key); again || s.Stage == key {
			starts := slices.ContainsFunc(carried, func(q *form.Question) bool { return f.SectionOf(q.Key) == s.Key })
			list = append(list, stageAsks{s, again, starts})
		}
	}
	var stage form.Stage
	for _, s := range f.Applying() {
		if s.Key == key {
			stage = *s
		}
	}
	window := f.StageWindow(key)
	return r.Draw(status, "applicant/invited", view.Page{Title: "Invited on: " + r.Case.Title, Nav: "applications",
		Data: invitedPage{Case: r.Case, Stage: stage, Stages: all, Asks: list, Window: window,
			Phase: string(window.Phase(r.At)), Zone: f.Zone,
			Problem: problem, Contact: f.Design.Contact, Lead: r.Account.ID == r.Case.LeadID}})
}

// TakeUp begins a stage that the case was invited to.
func TakeUp(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Intake.TakeUp(ctx, tx, r.Case) })
	var early intake.NotOpen
	if errors.As(err, &early) || errors.Is(err, intake.ErrClosed) {
		return drawInvitation(r, fiber.StatusConflict, "Nothing was begun: this stage is not open now.")
	}
	if err != nil {
		return err
	}
	return r.See("/applications/" + r.Case.Ref)
}

// Withdraw takes an application out for good, once the applicant says that they
// mean it.
func Withdraw(r *site.Request) error {
	back := "/applications/" + r.Case.Ref
	if r.FormValue("sure") != "yes" {
		r.Tell("Nothing was withdrawn: tick that you mean it, then press again.")
		return r.See(back)
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Intake.Withdraw(ctx, tx, r.Case) }); err != nil {
		return err
	}
	r.Tell("“" + r.Case.Title + "” is withdrawn. What you wrote stays here to read.")
	return r.See("/applications")
}
