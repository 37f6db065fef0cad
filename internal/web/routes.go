package web

import (
	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/internal/web/applicant"
	"ulvant/internal/web/designer"
	"ulvant/internal/web/guest"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office/awards"
	"ulvant/internal/web/office/cases"
	"ulvant/internal/web/office/checking"
	"ulvant/internal/web/office/decide"
	"ulvant/internal/web/office/interviews"
	"ulvant/internal/web/office/panel"
	"ulvant/internal/web/office/people"
	"ulvant/internal/web/office/readings"
	"ulvant/internal/web/office/register"
	"ulvant/internal/web/office/rounds"
	"ulvant/internal/web/office/today"
	"ulvant/internal/web/office/votes"
	"ulvant/internal/web/public"
	"ulvant/internal/web/reader"
	"ulvant/internal/web/voter"
)

// Rooms are all of the site. Each has its part of the map, its pages and its
// handlers beside each other.
var Rooms = []site.Room{
	public.Room,
	applicant.Room,
	guest.Room,
	reader.Room,
	voter.Room,
	today.Room,
	people.Room,
	rounds.Room,
	designer.Room,
	cases.Room,
	checking.Room,
	readings.Room,
	interviews.Room,
	panel.Room,
	decide.Room,
	register.Room,
	awards.Room,
	votes.Room,
}

// Routes is the whole map. Every route says what it lets somebody do; the test
// in routes_test.go goes through all of them.
var Routes = func() (all []site.Route) {
	for _, room := range Rooms {
		all = append(all, room.Routes...)
	}
	return all
}()

// notFound is where every other address ends.
var notFound = site.Route{Method: site.Get, Path: "*", Action: access.Visit,
	Handle: func(*site.Request) error { return fiber.ErrNotFound }}
