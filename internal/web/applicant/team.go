package applicant

import (
	"context"
	"errors"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/internal/application"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/site"
	"ulvant/internal/web/view"
)

// Team shows who writes an application.
func Team(r *site.Request) error { return drawTeam(r, fiber.StatusOK, "", "", "") }

func drawTeam(r *site.Request, status int, name, email, problem string) error {
	team, err := r.Cases.Team(r.Context, r.DB, r.Case.ID)
	if err != nil {
		return err
	}
	return r.Draw(status, "applicant/team", view.Page{Title: "Who writes " + r.Case.Title, Nav: "applications", Data: map[string]any{
		"Case": r.Case, "Team": team, "May": r.May(access.LeadCase), "Name": name, "Email": email, "Problem": problem}})
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
	var p people.Problem
	if errors.As(err, &p) {
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

// HandOver makes somebody else the lead.
func HandOver(r *site.Request) error {
	return withTeammate(r, "It is handed over. You are a teammate now.", r.Intake.HandOver)
}

func withTeammate(r *site.Request, says string, do func(context.Context, *db.Tx, application.Case, int64) error) error {
	account, err := strconv.ParseInt(r.Params("account"), 10, 64)
	if err != nil {
		return fiber.ErrNotFound
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error { return do(ctx, tx, r.Case, account) }); err != nil {
		return orConflict(r, err)
	}
	r.Tell(says)
	return r.See("/applications/" + r.Case.Ref + "/team")
}
