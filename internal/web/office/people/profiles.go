package people

import (
	"context"
	"errors"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	core "ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/core/slot"
	"ulvant/internal/desk"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/profile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// mostLooked is how many organisations the list shows that were looked over.
const mostLooked = 200

// profilesPage is what office/people/profiles.html draws.
type profilesPage struct {
	Waiting []profile.Profile
	Looked  []profile.Profile
	Zone    *time.Location
	Terms   core.Terms
	Text    string // of the form
	May     bool
	Problem string
}

// Profiles lists the organisations that wait to be looked over, and those that were.
func Profiles(r *site.Request) error { return drawProfiles(r, fiber.StatusOK, "") }

func drawProfiles(r *site.Request, status int, problem string) error {
	waiting, err := r.Profiles.Waiting(r.Context, r.DB)
	if err != nil {
		return err
	}
	looked, err := r.Profiles.Looked(r.Context, r.DB, mostLooked)
	if err != nil {
		return err
	}
	terms, err := r.Profiles.Terms(r.Context, r.DB)
	if err != nil {
		return err
	}
	text := terms.Text
	if problem != "" {
		text = r.FormValue("text")
	}
	return r.Draw(status, "office/people/profiles",
		view.Page{Title: "Organisations", Nav: "profiles", Data: profilesPage{Waiting: waiting, Looked: looked,
			Zone: r.Profiles.Zone(), Terms: terms, Text: text, May: r.May(access.LookOver), Problem: problem}})
}

// ChangeTerms writes a new version of the terms.
func ChangeTerms(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Profiles.ChangeTerms(ctx, tx, r.FormValue("text"))
	})
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawProfiles(r, fiber.StatusUnprocessableEntity, unfit.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell("A new version of the terms. Organisations that are known are asked to read what changed.")
	return r.See("/office/profiles")
}

func profileOf(r *site.Request) (profile.Profile, error) {
	id, err := strconv.ParseInt(r.Params("profile"), 10, 64)
	if err != nil {
		return profile.Profile{}, fiber.ErrNotFound
	}
	p, err := r.Profiles.ByID(r.Context, r.DB, id)
	if errors.Is(err, profile.ErrNotFound) {
		err = fiber.ErrNotFound
	}
	return p, err
}

// Profile shows one, with what the register says and who confirmed.
func Profile(r *site.Request) error { return drawProfile(r, fiber.StatusOK, "") }

// profilePage is what office/people/profile.html draws.
type profilePage struct {
	P        profile.Profile
	Numbers  []profile.Number
	Members  []profile.Member
	Officers []profile.Officer
	Holds    []profile.Sponsor
	Zone     *time.Location
	Problem  string
	Note     string

	Handovers []profile.Handover
	Before    []desk.Before
	Papers    []profile.Paper
	Renewal   profile.Renewal
}

// mostBefore is how many earlier applications stand on a profile's page.
const mostBefore = 20

func drawProfile(r *site.Request, status int, problem string) error {
	p, err := profileOf(r)
	if err != nil {
		return err
	}
	numbers, err := r.Profiles.Numbers(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	holds, err := r.Profiles.Holds(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	members, err := r.Profiles.Members(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	officers, err := r.Profiles.Officers(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	handovers, err := r.Profiles.Handovers(r.Context, r.DB, p.ID)
	if err != nil {
		return err
	}
	seen, err := r.Rounds.Seen(r.Context, r.Sight())
	if err != nil {
		return err
	}
	before, err := r.Desk.BeforeFor(r.Context, p.ID, seen.Whole, mostBefore)
	if err != nil {
		return err
	}
	papers, err := r.Profiles.Papers(r.Context, r.DB, p, r.At)
	if err != nil {
		return err
	}
	renewal, err := r.Profiles.Renewal(r.Context, r.DB, p, r.At)
	if err != nil {
		return err
	}
	return r.Draw(status, "office/people/profile", view.Page{Title: p.Name, Nav: "profiles",
		Data: profilePage{P: p, Numbers: numbers, Members: members, Officers: officers, Holds: holds, Zone: r.Profiles.Zone(),
			Problem: problem, Note: r.FormValue("note"), Handovers: handovers, Before: before, Papers: papers,
			Renewal: renewal}})
}

// ProfilePaper sends a paper that an organisation shows.
func ProfilePaper(r *site.Request) error {
	p, err := profileOf(r)
	if err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	x, err := r.Materials.PaperOf(r.Context, r.DB, p.ID, id)
	if err != nil {
		return err
	}
	return r.SendMaterial(material.File{Name: x.Name, SHA256: x.SHA256, MIME: x.MIME, State: slot.Ready, Facts: x.Facts})
}

// DecideProfile looks one over.
func DecideProfile(r *site.Request) error {
	p, err := profileOf(r)
	if err != nil {
		return err
	}
	known := r.FormValue("outcome") == "known"
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Profiles.Decide(ctx, tx, p.ID, known, r.FormValue("note"))
	})
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawProfile(r, fiber.StatusUnprocessableEntity, unfit.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell("They are told by mail.")
	return r.See("/office/profiles")
}

// AuthoriseMember asks another member to be the authorised person, when the one
// who was is gone.
func AuthoriseMember(r *site.Request) error {
	p, err := profileOf(r)
	if err != nil {
		return err
	}
	account, err := strconv.ParseInt(r.Params("account"), 10, 64)
	if err != nil {
		return fiber.ErrNotFound
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Profiles.Propose(ctx, tx, p.ID, account, r.FormValue("reason"), true)
	})
	var unfit refusal.Refusal
	switch {
	case errors.Is(err, profile.ErrNotFound):
		return fiber.ErrNotFound
	case refusal.AsUnfit(err, &unfit):
		return drawProfile(r, fiber.StatusUnprocessableEntity, unfit.Sentence())
	case err != nil:
		return err
	}
	r.Tell("They are asked, and whoever is it now is told. Nothing changes until they agree.")
	return r.See("/office/profiles/" + r.Params("profile"))
}
