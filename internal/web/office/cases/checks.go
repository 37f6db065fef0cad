package cases

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
	Open  []desk.Open // the oldest of them
	More  int         // open ones that are not listed
	Rules []form.Rule
	Names map[form.Key]string
	Zone  *time.Location
	Now   time.Time
}

// Checks lists every sent application with its rules worked through.
func Checks(r *site.Request) error {
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
	if d.First {
		if d.Open, err = r.Desk.OpenChecks(r.Context, r.Round.ID, office.PerPage); err != nil {
			return err
		}
		for i, o := range d.Open {
			d.Open[i].Reason = say.Found(f, form.Key(o.Rule), o.Reason)
		}
		all, err := r.Desk.OpenChecksOf(r.Context, r.Round.ID)
		if err != nil {
			return err
		}
		for _, o := range all {
			d.More = o.N - len(d.Open)
		}
	}
	return office.Draw(r, fiber.StatusOK, "office/cases/checks", "Checks, "+r.Round.Name, "checks", f, d)
}
