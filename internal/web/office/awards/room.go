// Package awards is the desk at which many awards are placed.
package awards

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

//go:embed *.html
var pages embed.FS

// Room is who meets which award, who is given it, and why.
var Room = site.Room{Name: "office/awards", Pages: pages, Values: map[string]any{
	"placing": office.RoundPage[placingPage]{}, "compare": office.RoundPage[comparePage]{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds/:round/placing", Action: access.SeeWhole, Handle: Placing},
	{Method: site.Get, Path: "/office/rounds/:round/placing/compare", Action: access.SeeWhole, Handle: Compare},
	{Method: site.Get, Path: "/office/rounds/:round/placing.csv", Action: access.SeeWhole, Handle: Export},
	{Method: site.Get, Path: "/office/rounds/:round/placing.xlsx", Action: access.SeeWhole, Handle: Export},
	{Method: site.Get, Path: "/office/rounds/:round/placing.json", Action: access.SeeWhole, Handle: Export},
	{Method: site.Post, Path: "/office/rounds/:round/placing/work-out", Action: access.Decide, Limits: site.Costs,
		Handle: WorkOut},
	{Method: site.Post, Path: "/office/rounds/:round/placing/pair", Action: access.Decide, Handle: SettlePair},
	{Method: site.Post, Path: "/office/rounds/:round/placing/what-if", Action: access.Decide, Handle: KeepWhatIf},
	{Method: site.Post, Path: "/office/rounds/:round/placing/record", Action: access.Decide, Handle: Record},
}}
