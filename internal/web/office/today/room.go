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
	"find": findPage{}, "today": today{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office", Action: access.SeeDesk, Handle: Today},
	{Method: site.Get, Path: "/office/find", Action: access.SeeDesk, Handle: Find},
}}
