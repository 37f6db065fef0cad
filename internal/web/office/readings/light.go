package readings

import (
	"net/url"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// mostPictures on one light table.
const mostPictures = 60

// lightDesk is what office/readings/light.html draws.
type lightDesk struct {
	Pictures []view.Shown
	Next     string
}

// Light shows one picture of each case of a round, for those who meet about it.
func Light(r *site.Request) error {
	f, err := r.Rounds.Published(r.Context, r.DB, r.Round)
	if err != nil {
		return err
	}
	list, err := r.Desk.FirstsOf(r.Context, r.Round.ID, casefile.PictureSlots(f), r.Query("after"), mostPictures)
	if err != nil {
		return err
	}
	d := lightDesk{Pictures: casefile.Firsts(f, list, "/office/applications")}
	if n := len(list); n == mostPictures {
		d.Next = "?after=" + url.QueryEscape(list[n-1].Ref)
	}
	return office.Draw(r, fiber.StatusOK, "office/readings/light", "Side by side", "reading", f, d)
}
