package panel

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

//go:embed *.html
var pages embed.FS

// Room is where the panel meets.
var Room = site.Room{Name: "office/panel", Pages: pages, Values: map[string]any{
	"panel": office.RoundPage[panelPage]{}, "sitting": office.RoundPage[sittingPage]{}, "screen": sittingPage{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds/:round/panel", Action: access.SeeWhole, Handle: Panel},
	{Method: site.Post, Path: "/office/rounds/:round/panel", Action: access.Decide, Limits: site.Costs, Handle: Call},
	{Method: site.Get, Path: "/office/rounds/:round/panel/:sitting", Action: access.SeeWhole, Handle: Sitting},
	{Method: site.Get, Path: "/office/rounds/:round/panel/:sitting/room", Action: access.SeeWhole, Handle: Screen},
	{Method: site.Get, Path: "/office/rounds/:round/panel/:sitting/papers.pdf", Action: access.SeeWhole,
		Limits: site.Costs,
		Handle: Papers},
	{Method: site.Get, Path: "/office/rounds/:round/panel/:sitting/minutes.pdf", Action: access.SeeWhole, Handle: Minutes},
	{Method: site.Post, Path: "/office/rounds/:round/panel/:sitting", Action: access.SitPanel, Handle: Act},
}}
