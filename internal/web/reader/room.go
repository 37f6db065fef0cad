package reader

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

//go:embed *.html
var pages embed.FS

// Room is the desk of readers.
var Room = site.Room{Name: "reader", Pages: pages, Values: map[string]any{
	"about": aboutPage{}, "case": casePage{}, "desk": shelf{}, "light": []view.Shown{}, "met": metPage{},
	"sheet": sheetPage{}, "sample": samplePage{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/reading", Action: access.ReadDesk, Handle: Desk},
	{Method: site.Get, Path: "/reading/light", Action: access.ReadDesk, Handle: Light},
	{Method: site.Get, Path: "/reading/about/:round", Action: access.ReadDesk, Handle: About},
	{Method: site.Post, Path: "/reading/about/:round", Action: access.ReadDesk, Handle: SayAbout},
	{Method: site.Get, Path: "/reading/sample/:round", Action: access.ReadDesk, Handle: Sample},
	{Method: site.Post, Path: "/reading/sample/:round", Action: access.ReadDesk, Handle: TrySample},
	{Method: site.Get, Path: "/reading/interviews/:day", Action: access.ReadDesk, Handle: Sheet},
	{Method: site.Get, Path: "/reading/:ref/interview", Action: access.MeetCase, Handle: Met},
	{Method: site.Post, Path: "/reading/:ref/interview", Action: access.MarkMeeting, Handle: MarkMet},
	{Method: site.Get, Path: "/reading/:ref/interview/materials/:id", Action: access.MeetCase, Handle: File},
	{Method: site.Get, Path: "/reading/:ref", Action: access.ReadCase, Handle: Case},
	{Method: site.Post, Path: "/reading/:ref/marks", Action: access.MarkCase, Handle: Marks},
	{Method: site.Post, Path: "/reading/:ref/send", Action: access.MarkCase, Handle: Send},
	{Method: site.Post, Path: "/reading/:ref/margin", Action: access.ReadCase, Handle: NoteMargin},
	{Method: site.Post, Path: "/reading/:ref/talk", Action: access.MarkCase, Handle: Say},
	{Method: site.Post, Path: "/reading/:ref/aside", Action: access.StepAside, Handle: StepAside},
	{Method: site.Get, Path: "/reading/:ref/materials/:id", Action: access.ReadCase, Handle: File},
}}
