package interviews

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

//go:embed *.html
var pages embed.FS

// Room is whom panels meet, and when.
var Room = site.Room{Name: "office/interviews", Pages: pages, Values: map[string]any{
	"interviews": office.RoundPage[timetable]{}, "day": office.RoundPage[dayPage]{},
	"meeting": office.RoundPage[meetingPage]{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds/:round/interviews", Action: access.SeeWhole, Handle: Interviews},
	{Method: site.Post, Path: "/office/rounds/:round/interviews", Action: access.MeetPeople, Limits: site.Costs,
		Handle: Change},
	{Method: site.Get, Path: "/office/rounds/:round/interviews/:day", Action: access.SeeWhole, Handle: Day},
	{Method: site.Post, Path: "/office/rounds/:round/interviews/:day", Action: access.MeetPeople, Handle: ChangeDay},
	{Method: site.Get, Path: "/office/applications/:ref/interview", Action: access.SeeCase, Handle: Meeting},
	{Method: site.Post, Path: "/office/applications/:ref/interview", Action: access.MindMeeting, Handle: ChangeMeeting},
}}
