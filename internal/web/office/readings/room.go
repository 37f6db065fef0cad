package readings

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

//go:embed *.html
var pages embed.FS

// Room is who reads what.
var Room = site.Room{Name: "office/readings", Pages: pages, Values: map[string]any{
	"light": office.RoundPage[lightDesk]{}, "reading": office.RoundPage[readingDesk]{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds/:round/reading", Action: access.SeeWhole, Handle: Reading},
	{Method: site.Get, Path: "/office/rounds/:round/light", Action: access.SeeWhole, Handle: Light},
	{Method: site.Post, Path: "/office/rounds/:round/readers", Action: access.InviteReader, Handle: InviteReader},
	{Method: site.Post, Path: "/office/rounds/:round/hand-out", Action: access.HandOut, Handle: HandOut},
}}
