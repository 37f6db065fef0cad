package people

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
)

//go:embed *.html
var pages embed.FS

// Room is the organisations, and the safety of accounts.
var Room = site.Room{Name: "office/people", Pages: pages, Values: map[string]any{
	"profile": profilePage{}, "profiles": profilesPage{}, "security": safety{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/profiles", Action: access.SeeBodies, Handle: Profiles},
	{Method: site.Get, Path: "/office/profiles/:profile", Action: access.SeeBodies, Handle: Profile},
	{Method: site.Post, Path: "/office/profiles/:profile", Action: access.LookOver, Handle: DecideProfile},
	{Method: site.Post, Path: "/office/profiles/:profile/members/:account", Action: access.LookOver,
		Handle: AuthoriseMember},
	{Method: site.Get, Path: "/office/profiles/:profile/papers/:id", Action: access.SeeBodies, Handle: ProfilePaper},
	{Method: site.Post, Path: "/office/terms", Action: access.LookOver, Handle: ChangeTerms},
	{Method: site.Get, Path: "/office/security", Action: access.SeeSecurity, Handle: Security},
}}
