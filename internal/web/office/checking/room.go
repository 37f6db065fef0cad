// Package checking is where the office works through what a machine could not
// settle: rules one after another by keyboard, people in common, texts that are
// alike, proposals to lists, and what reviewing bodies have.
package checking

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

//go:embed *.html
var pages embed.FS

// Room is the checks of a round.
var Room = site.Room{Name: "office/checking", Pages: pages, Values: map[string]any{
	"queue": office.RoundPage[queuePage]{}, "all": office.RoundPage[checking]{}, "people": office.RoundPage[peoplePage]{},
	"texts": office.RoundPage[textsPage]{}, "text": office.RoundPage[textPage]{}, "lists": office.RoundPage[listsPage]{},
	"turns": office.RoundPage[turnsPage]{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds/:round/checks", Action: access.SeeWhole, Handle: Queue},
	{Method: site.Post, Path: "/office/applications/:ref/check/:rule", Action: access.SettleCheck, Handle: SettleNext},
	{Method: site.Post, Path: "/office/rounds/:round/checks/sentences/:id/drop", Action: access.ShareCare,
		Handle: DropSentence},
	{Method: site.Get, Path: "/office/rounds/:round/checks/all", Action: access.SeeWhole, Handle: All},
	{Method: site.Get, Path: "/office/rounds/:round/checks/people", Action: access.SeeWhole, Handle: People},
	{Method: site.Post, Path: "/office/rounds/:round/checks/people/:id", Action: access.RuleBeyond, Handle: RulePeople},
	{Method: site.Get, Path: "/office/rounds/:round/checks/texts", Action: access.SeeWhole, Handle: Texts},
	{Method: site.Get, Path: "/office/rounds/:round/checks/texts/:id", Action: access.SeeWhole, Handle: Text},
	{Method: site.Post, Path: "/office/rounds/:round/checks/texts/:id", Action: access.RuleBeyond, Handle: RuleText},
	{Method: site.Get, Path: "/office/rounds/:round/checks/lists", Action: access.SeeWhole, Handle: Lists},
	{Method: site.Post, Path: "/office/rounds/:round/checks/lists/:id", Action: access.RuleBeyond, Handle: RuleList},
	{Method: site.Post, Path: "/office/rounds/:round/checks/rework", Action: access.RuleBeyond, Handle: Rework},
	{Method: site.Get, Path: "/office/rounds/:round/turns", Action: access.SeeRound, Handle: Turns},
}}
