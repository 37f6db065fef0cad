package applicant

import (
	"context"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// Team shows who writes an application.
func Team(r *site.Request) error { return drawTeam(r, fiber.StatusOK, "", "", "") }

// teamPage is what applicant/team.html draws.
type teamPage struct {
	Case     application.Case
	Team     []application.Person
	Asked    []application.Invitation
	Own      int64
	MayLeave bool
	May      bool
	Name     string
	Email    string
	Problem  string
}

func drawTeam(r *site.Request, status int, name, email, problem string) error {
	team, err := r.Cases.Team(r.Context, r.DB, r.Case.ID)
	if err != nil {
		return err
	}
	asked, err := r.Cases.Invitations(r.Context, r.DB, r.Case.ID)
	if err != nil {
		return err
	}
	return r.Draw(status, "applicant/team", view.Page{Title: "Who writes " + r.Case.Title, Nav: "applications",
		Data: teamPage{Case: r.Case, Team: team, Asked: asked, Own: r.Account.ID, MayLeave: r.May(access.LeaveTeam),
			May: r.May(access.LeadCase), Name: name, Email: email, Problem: problem}})
}

// InviteTeammate asks somebody to write it too.
func InviteTeammate(r *site.Request) error {
	name, email := r.FormValue("name"), r.FormValue("email")
	part := application.Teammate
	if r.FormValue("part") == application.Commenter {
		part = application.Commenter
	}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Intake.InviteTeammate(ctx, tx, r.Case, email, name, part)
	})
	var p refusal.Refusal
	if refusal.AsUnfit(err, &p) {
		return drawTeam(r, fiber.StatusUnprocessableEntity, name, email, p.Says)
	}
	if err != nil {
		return orConflict(r, err)
	}
	r.Tell(name + " is asked by mail.")
	return r.See("/applications/" + r.Case.Ref + "/team")
}

// DropTeammate ends somebody's part.
func DropTeammate(r *site.Request) error {
	return withTeammate(r, "They no longer write it.", r.Intake.DropTeammate)
}

// AskToLead asks somebody else to lead.
func AskToLead(r *site.Request) error {
	return withTeammate(r, "They are asked by mail. You lead it until they say yes.", r.Intake.AskToLead)
}

// TakeInvitationBack ends an invitation that is not answered.
func TakeInvitationBack(r *site.Request) error {
	id, err := strconv.ParseInt(r.Params("invitation"), 10, 64)
	if err != nil {
		return fiber.ErrNotFound
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Intake.TakeInvitationBack(ctx, tx, r.Case,
			id)
	}); err != nil {
		return orConflict(r, err)
	}
	r.Tell("Taken back. Their link no longer works.")
	return r.See("/applications/" + r.Case.Ref + "/team")
}

// LeaveTeam ends one's own part.
func LeaveTeam(r *site.Request) error {
	if r.FormValue("sure") != "yes" {
		r.Tell("Tick that you mean it. You still have your part in it.")
		return r.See("/applications/" + r.Case.Ref + "/team")
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Intake.LeaveTeam(ctx, tx, r.Case,
			*r.Account)
	}); err != nil {
		return orConflict(r, err)
	}
	r.Tell("You have left “" + r.Case.Title + "”. What you wrote in it stays.")
	return r.See("/applications")
}

func withTeammate(r *site.Request, says string, do func(context.Context, *db.Tx, application.Case, int64) error) error {
	account, err := strconv.ParseInt(r.Params("account"), 10, 64)
	if err != nil {
		return fiber.ErrNotFound
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error { return do(ctx, tx, r.Case, account) })
	var p refusal.Refusal
	if refusal.AsUnfit(err, &p) {
		return drawTeam(r, fiber.StatusUnprocessableEntity, "", "", p.Says)
	}
	if err != nil {
		return orConflict(r, err)
	}
	r.Tell(says)
	return r.See("/applications/" + r.Case.Ref + "/team")
}
