package rounds

import (
	"context"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/desk"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// carePage is what office/rounds/care.html draws.
type carePage struct {
	Places  []desk.Places
	Office  []people.Account
	Heading string
	Key     string
}

// Care shows who looks after which cases of a round, by place or field.
func Care(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	places, err := r.Desk.PlacesOf(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	colleagues, err := r.People.Office(r.Context, r.At)
	if err != nil {
		return err
	}
	return office.Draw(r, fiber.StatusOK, "office/rounds/care", "Who looks after what, "+r.Round.Name, "applications", f,
		carePage{Places: places, Office: colleagues, Heading: f.Design.Listed.Heading, Key: r.Round.Key})
}

// SetCare keeps it.
func SetCare(r *site.Request) error {
	places, err := r.Desk.PlacesOf(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		for i, p := range places {
			account, err := strconv.ParseInt(r.FormValue("care"+strconv.Itoa(i), "0"), 10, 64)
			if err != nil || r.FormValue("place"+strconv.Itoa(i)) != p.Place {
				continue // not on the page that was sent, or not as it stands now
			}
			if err := r.Rounds.LooksAfter(ctx, tx, r.Round.ID, p.Place, account); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	r.Tell("Kept.")
	return r.See("/office/rounds/" + r.Round.Key + "/care")
}
