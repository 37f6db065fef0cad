package reader

import (
	"github.com/gofiber/fiber/v3"

	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// Light shows one picture of each case that was given to the reader.
func Light(r *site.Request) error {
	list, err := r.Desk.ReaderDesk(r.Context, r.Account.ID)
	if err != nil {
		return err
	}
	var pictures []view.Shown
	if len(list) > 0 { // those of the round that is read now
		f, err := r.Rounds.Form(r.Context, r.DB, list[0].DesignID)
		if err != nil {
			return err
		}
		firsts, err := r.Desk.FirstsGiven(r.Context, r.Account.ID, list[0].RoundKey, casefile.PictureSlots(f))
		if err != nil {
			return err
		}
		pictures = casefile.Firsts(f, firsts, "/reading")
	}
	return r.Draw(fiber.StatusOK, "reader/light", view.Page{Title: "Side by side", Nav: "reading", Data: pictures})
}
