package checking

import (
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/internal/desk"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// checking is what the page of checks shows.
type checking struct {
	Rows  []desk.Checked
	Next  string
	First bool
	Tabs  []tab
	Rules []form.Rule
	Names map[form.Key]string
	Zone  *time.Location
	Now   time.Time
}

// All lists every sent application with its rules worked through.
func All(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := checking{Rules: f.Design.Rules, Names: say.RuleNames(f), Zone: f.Zone, Now: r.At, First: office.After(r) == 0}
	rows, err := r.Desk.Checks(r.Context, r.Round.ID, office.After(r), office.PerPage+1)
	if err != nil {
		return err
	}
	d.Rows, d.Next = office.PageOf(rows, func(c desk.Checked) int64 { return c.EntryID })
	if d.Tabs, err = tabsOf(r, f, "/all"); err != nil {
		return err
	}
	return office.Draw(r, fiber.StatusOK, "office/checking/all", "Checks, "+r.Round.Name, "checks", f, d)
}
