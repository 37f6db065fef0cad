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
	"plan": office.RoundPage[planPage]{}, "reader": office.RoundPage[readerPage]{},
	"sample": office.RoundPage[samplePage]{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds/:round/reading", Action: access.SeeWhole, Handle: Reading},
	{Method: site.Get, Path: "/office/rounds/:round/light", Action: access.SeeWhole, Handle: Light},
	{Method: site.Post, Path: "/office/rounds/:round/readers", Action: access.InviteReader, Handle: InviteReader},
	{Method: site.Post, Path: "/office/rounds/:round/readers/remind", Action: access.InviteReader, Handle: Remind},
	{Method: site.Get, Path: "/office/rounds/:round/readers/:account", Action: access.SeeWhole, Handle: Reader},
	{Method: site.Post, Path: "/office/rounds/:round/readers/:account", Action: access.InviteReader, Handle: SetReader},
	{Method: site.Get, Path: "/office/rounds/:round/reading/sample", Action: access.SeeWhole, Handle: Sample},
	{Method: site.Post, Path: "/office/rounds/:round/reading/sample", Action: access.InviteReader, Handle: SetSample},
	{Method: site.Get, Path: "/office/rounds/:round/reading/plan", Action: access.SeeWhole, Limits: site.Costs,
		Handle: Plan},
	{Method: site.Post, Path: "/office/rounds/:round/reading/plan", Action: access.HandOut, Handle: ChangePlan},
	{Method: site.Post, Path: "/office/rounds/:round/reading/work-out", Action: access.HandOut, Limits: site.Costs,
		Handle: WorkOut},
	{Method: site.Post, Path: "/office/applications/:ref/reading", Action: access.MindReading, Handle: CaseReading},
	{Method: site.Post, Path: "/office/rounds/:round/hand-out", Action: access.HandOut, Handle: HandOut},
}}
