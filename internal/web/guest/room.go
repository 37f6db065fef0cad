package guest

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/platform/link"
	"ulvant/internal/web/kit/site"
)

//go:embed *.html
var pages embed.FS

// Room is for those who come by a personal link.
var Room = site.Room{Name: "guest", Pages: pages, Values: map[string]any{
	"letter": letterPage{}, "officer": officerPage{}, "reader": readerPage{}, "role": rolePage{}, "sponsor": sponsorPage{},
	"team": invited{}, "everything": everythingPage{},
	"pay": payPage{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/team/:token", Action: access.Visit, Link: link.Team, Handle: Team},
	{Method: site.Post, Path: "/team/:token", Action: access.Visit, Link: link.Team, Handle: AnswerTeam},
	{Method: site.Get, Path: "/officer/:token", Action: access.Visit, Link: link.Officer, Handle: Officer},
	{Method: site.Post, Path: "/officer/:token", Action: access.Visit, Link: link.Officer, Handle: ConfirmOfficer},
	{Method: site.Get, Path: "/sponsor/:token", Action: access.Visit, Link: link.Sponsor, Handle: Sponsor},
	{Method: site.Post, Path: "/sponsor/:token", Action: access.Visit, Link: link.Sponsor, Handle: AnswerSponsor},
	{Method: site.Get, Path: "/letter/:token", Action: access.VouchFor, Link: link.Referee, Handle: Letter},
	{Method: site.Post, Path: "/letter/:token/answer", Action: access.VouchFor, Link: link.Referee, Handle: Answer},
	{Method: site.Post, Path: "/letter/:token/keep", Action: access.VouchFor, Link: link.Referee, Large: true,
		Limits: site.Fills,
		Handle: Keep},
	{Method: site.Post, Path: "/letter/:token/file", Action: access.VouchFor, Link: link.Referee, Large: true,
		Limits: site.Fills,
		Handle: PutFile},
	{Method: site.Get, Path: "/letter/:token/own/:page", Action: access.VouchFor, Link: link.Referee, Handle: OwnFile},
	{Method: site.Post, Path: "/letter/:token/take/:page", Action: access.VouchFor, Link: link.Referee, Large: true,
		Limits: site.Fills,
		Handle: TakePage},
	{Method: site.Post, Path: "/letter/:token/reuse", Action: access.VouchFor, Link: link.Referee, Handle: Reuse},
	{Method: site.Get, Path: "/letter/:token/shown/:id", Action: access.VouchFor, Link: link.Referee, Handle: ShownFile},
	{Method: site.Get, Path: "/letter/:token/evidence.pdf", Action: access.VouchFor, Link: link.Referee,
		Handle: OwnEvidence},
	{Method: site.Get, Path: "/letter/:token/all", Action: access.VouchFor, Link: link.Referee, Handle: Everything},
	{Method: site.Get, Path: "/officer/:token/evidence.pdf", Action: access.Visit, Link: link.Officer,
		Handle: OfficerEvidence},
	{Method: site.Get, Path: "/officer/:token/all", Action: access.Visit, Link: link.Officer, Handle: Everything},
	{Method: site.Get, Path: "/sponsor/:token/evidence.pdf", Action: access.Visit, Link: link.Sponsor,
		Handle: SponsorEvidence},
	{Method: site.Get, Path: "/sponsor/:token/all", Action: access.Visit, Link: link.Sponsor, Handle: Everything},
	{Method: site.Get, Path: "/pay/:token", Action: access.Visit, Link: link.Payer, Handle: Pay},
	{Method: site.Post, Path: "/pay/:token", Action: access.Visit, Link: link.Payer, Handle: PayNow},
	{Method: site.Get, Path: "/pay/:token/back", Action: access.Visit, Link: link.Payer, Handle: PaidBack},
	{Method: site.Get, Path: "/pay/:token/receipt/:number", Action: access.Visit, Link: link.Payer, Handle: PayReceipt},
	{Method: site.Get, Path: "/pay/:token/invoice.pdf", Action: access.Visit, Link: link.Payer, Handle: PayInvoice},
	{Method: site.Post, Path: "/paydesk/notices", Action: access.Visit, Machine: true, Handle: Notice},
	{Method: site.Get, Path: "/asked", Action: access.HaveDesk, Handle: AskedOfMe},
	{Method: site.Post, Path: "/letter/:token/send", Action: access.VouchFor, Link: link.Referee, Large: true,
		Limits: site.Fills,
		Handle: Send},
	{Method: site.Get, Path: "/role/:token", Action: access.Visit, Link: link.Role, Handle: Role},
	{Method: site.Post, Path: "/role/:token", Action: access.Visit, Link: link.Role, Handle: AnswerRole},
	{Method: site.Get, Path: "/reader/:token", Action: access.Visit, Link: link.Reader, Handle: Invitation},
	{Method: site.Post, Path: "/reader/:token", Action: access.Visit, Link: link.Reader, Handle: Accept},
}}
