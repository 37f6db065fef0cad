package people

import (
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/desk"
	"ulvant/internal/people"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// mostEvents on the page of security events.
const mostEvents = 200

// mostReturned mails that the page shows.
const mostReturned = 50

// safety is what the page of security events shows.
type safety struct {
	Events []people.Event
	Most   int
	Back   []desk.Returned // mails that came back, of no application
	Zone   *time.Location
}

// Security lists what touched the safety of any account, the latest first.
func Security(r *site.Request) error {
	events, err := r.People.Events(r.Context, 0, mostEvents)
	if err != nil {
		return err
	}
	back, err := r.Desk.Returned(r.Context, mostReturned)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "office/people/security",
		view.Page{Title: "Safety of accounts", Nav: "today", Data: safety{events, mostEvents, back, time.UTC}})
}
