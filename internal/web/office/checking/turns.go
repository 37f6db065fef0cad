package checking

import (
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/internal/desk"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// turnsPage is what office/checking/turns.html draws.
type turnsPage struct {
	Tabs   []tab
	Bodies []bodyTurns
	Zone   *time.Location
	Now    time.Time
	Theirs bool // the asker reviews for one of them
}

type bodyTurns struct {
	Label string
	Due   *time.Time
	N     map[string]int // by turn.State
	Rows  []desk.TurnRow
}

// Turns lists what reviewing bodies have: their own to whoever reviews, all of them
// to the office.
func Turns(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := turnsPage{Zone: f.Zone, Now: r.At}
	whole := r.May(access.SeeWhole)
	if whole {
		if d.Tabs, err = tabsOf(r, f, "turns"); err != nil {
			return err
		}
	}
	for _, b := range f.Design.Bodies {
		own := office.ReviewsFor(r, r.Round.ID, string(b.Key))
		if !whole && !own {
			continue
		}
		d.Theirs = d.Theirs || own
		x := bodyTurns{Label: b.Label}
		if x.N, err = r.Desk.TurnCounts(r.Context, r.Round.ID, string(b.Key)); err != nil {
			return err
		}
		if x.Rows, err = r.Desk.Turns(r.Context, r.Round.ID, string(b.Key), r.At, mostFound); err != nil {
			return err
		}
		if b.By != "" {
			at := f.At(b.By)
			x.Due = &at
		}
		d.Bodies = append(d.Bodies, x)
	}
	return office.Draw(r, fiber.StatusOK, "office/checking/turns", "In turn, "+r.Round.Name, "checks", f, d)
}
