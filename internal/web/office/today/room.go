package today

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
)

//go:embed *.html
var pages embed.FS

// Room is the day of the office: what must be done, and finding anything.
var Room = site.Room{Name: "office/today", Pages: pages, Values: map[string]any{
	"find": findPage{}, "gifts": giftsPage{}, "today": today{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office", Action: access.SeeDesk, Handle: Today},
	{Method: site.Get, Path: "/gifts", Action: access.SeeGifts, Handle: Gifts},
	{Method: site.Get, Path: "/office/rounds/:round/awards/:award", Action: access.SeeGift, Handle: Gift},
	{Method: site.Get, Path: "/office/find", Action: access.SeeDesk, Handle: Find},
}}
