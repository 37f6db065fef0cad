package people

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
)

//go:embed *.html
var pages embed.FS

// Room is the organisations, who works at the office, and the safety of accounts.
var Room = site.Room{Name: "office/people", Pages: pages, Values: map[string]any{
	"profile": profilePage{}, "profiles": profilesPage{}, "security": safety{},
	"colleagues": colleaguesPage{}, "settings": settingsPage{}, "person": personPage{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/profiles", Action: access.SeeBodies, Handle: Profiles},
	{Method: site.Get, Path: "/office/profiles/:profile", Action: access.SeeBodies, Handle: Profile},
	{Method: site.Post, Path: "/office/profiles/:profile", Action: access.LookOver, Handle: DecideProfile},
	{Method: site.Post, Path: "/office/profiles/:profile/members/:account", Action: access.LookOver,
		Handle: AuthoriseMember},
	{Method: site.Get, Path: "/office/profiles/:profile/papers/:id", Action: access.SeeBodies, Handle: ProfilePaper},
	{Method: site.Post, Path: "/office/terms", Action: access.LookOver, Handle: ChangeTerms},
	{Method: site.Get, Path: "/office/settings", Action: access.SetOffice, Handle: Settings},
	{Method: site.Post, Path: "/office/settings", Action: access.SetOffice, Handle: SetSettings},
	{Method: site.Get, Path: "/office/people", Action: access.SeeOffice, Handle: Colleagues},
	{Method: site.Post, Path: "/office/people", Action: access.GiveRoles, Limits: site.Mails, Handle: GiveRole},
	{Method: site.Get, Path: "/office/people/:account", Action: access.SeeOffice, Handle: Person},
	{Method: site.Post, Path: "/office/people/:account/roles/:role/until", Action: access.GiveRoles, Handle: SetUntil},
	{Method: site.Post, Path: "/office/people/:account/roles/:role/take", Action: access.GiveRoles, Handle: TakeRole},
	{Method: site.Post, Path: "/office/offers/:offer", Action: access.HaveDesk, Handle: AnswerOffer},
	{Method: site.Post, Path: "/office/offers/:offer/back", Action: access.GiveRoles, Handle: TakeOffer},
	{Method: site.Post, Path: "/office/away", Action: access.ShapeList, Handle: GoAway},
	{Method: site.Post, Path: "/office/away/:away/agree", Action: access.ShapeList, Handle: AgreeAway},
	{Method: site.Post, Path: "/office/away/:away/end", Action: access.ShapeList, Handle: EndAway},
	{Method: site.Get, Path: "/office/security", Action: access.SeeSecurity, Handle: Security},
}}
