// Package votes is the desk of a public vote: what of each project the public sees, a
// rehearsal of the count, codes on paper, who has voted, and the result.
package votes

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

//go:embed *.html
var pages embed.FS

// Room is the public vote as the office runs it.
var Room = site.Room{Name: "office/votes", Pages: pages, Values: map[string]any{
	"vote": office.RoundPage[votePage]{}, "sheet": office.RoundPage[sheetPage]{}}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds/:round/vote", Action: access.SeeWhole, Handle: Vote},
	{Method: site.Get, Path: "/office/rounds/:round/vote/pictures/:project/:file", Action: access.SeeWhole,
		Handle: Picture},
	{Method: site.Get, Path: "/office/rounds/:round/vote/turnout.csv", Action: access.SeeWhole, Handle: Turnout},
	{Method: site.Post, Path: "/office/rounds/:round/vote/gather", Action: access.Decide, Limits: site.Costs,
		Handle: Gather},
	{Method: site.Post, Path: "/office/rounds/:round/vote/look", Action: access.Decide, Handle: Look},
	{Method: site.Post, Path: "/office/rounds/:round/vote/paper", Action: access.Decide, Handle: Paper},
	{Method: site.Post, Path: "/office/rounds/:round/vote/off", Action: access.Decide, Handle: Off},
	{Method: site.Post, Path: "/office/rounds/:round/vote/sheets", Action: access.Decide, Limits: site.Costs,
		Handle: Print},
	{Method: site.Post, Path: "/office/rounds/:round/vote/void", Action: access.Decide, Handle: Void},
	{Method: site.Post, Path: "/office/rounds/:round/vote/pattern", Action: access.Decide, Handle: Pattern},
	{Method: site.Post, Path: "/office/rounds/:round/vote/count", Action: access.Decide, Limits: site.Costs,
		Handle: Count},
	{Method: site.Post, Path: "/office/rounds/:round/vote/publish", Action: access.Decide, Handle: Publish},
}}
