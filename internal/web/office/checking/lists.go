package checking

import (
	"context"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/check"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// listsPage is what office/checking/lists.html draws.
type listsPage struct {
	Tabs  []tab
	Rows  []proposal
	May   bool
	Zone  *time.Location
	Wrong refusal.Refusal
	At    int64
	Typed string
}

type proposal struct {
	check.Proposal
	List, Ruled string
	Near        string // an item of the list that is called much the same; "" for none
}

// Lists are what applicants proposed for the lists of a round.
func Lists(r *site.Request) error { return drawLists(r, fiber.StatusOK, 0, refusal.Refusal{}) }

func drawLists(r *site.Request, status int, at int64, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := listsPage{May: r.May(access.RuleBeyond), Zone: f.Zone, Wrong: wrong, At: at, Typed: r.FormValue("reason")}
	if d.Tabs, err = tabsOf(r, f, "/lists"); err != nil {
		return err
	}
	list, err := r.Program.Checks.Proposals(r.Context, r.DB, r.Round.ID, mostFound)
	if err != nil {
		return err
	}
	for _, p := range list {
		d.Rows = append(d.Rows, proposal{p, f.ListLabel(form.Key(p.List)), say.RulingWord(string(p.Ruling)),
			f.NearItem(form.Key(p.List), p.Text)})
	}
	return office.Draw(r, status, "office/checking/lists", "Proposed for lists, "+r.Round.Name, "checks", f, d)
}

// RuleList rules on a proposal.
func RuleList(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	ruling := check.Ruling(r.FormValue("ruling"))
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Checks.RuleProposal(ctx, tx, r.Round.ID, id, ruling, r.FormValue("reason"))
	})
	if no, ok := refusal.Of(err); ok && no.Kind != refusal.KindMissing {
		return drawLists(r, fiber.StatusUnprocessableEntity, id, no)
	}
	if err != nil {
		return err
	}
	r.Tell("Ruled: " + say.RulingWord(string(ruling)) + ". The applicant sees it on the page of the application.")
	return r.See("/office/rounds/" + r.Round.Key + "/checks/lists")
}
