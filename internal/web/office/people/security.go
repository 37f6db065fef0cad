package people

import (
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/people"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// mostEvents on the page of security events.
const mostEvents = 200

// safety is what the page of security events shows.
type safety struct {
	Events []people.Event
	Most   int
	Zone   *time.Location
}

// Security lists what touched the safety of any account, the latest first.
func Security(r *site.Request) error {
	events, err := r.People.Events(r.Context, 0, mostEvents)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "office/people/security",
		view.Page{Title: "Safety of accounts", Nav: "today", Data: safety{events, mostEvents, time.UTC}})
}
