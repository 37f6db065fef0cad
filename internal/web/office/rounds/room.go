package rounds

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

//go:embed *.html
var pages embed.FS

// Room is a round seen by the office: how it stands, its applications, those who need help.
var Room = site.Room{Name: "office/rounds", Pages: pages, Values: map[string]any{
	"costs": office.RoundPage[costsPage]{}, "care": office.RoundPage[carePage]{},
	"design": designForm{}, "enquiries": office.RoundPage[enquiriesPage]{}, "guidance": office.RoundPage[guidancePage]{},
	"asked": office.RoundPage[askedPage]{}, "askednudge": office.RoundPage[nudgePage]{},
	"overview": office.RoundPage[overviewPage]{}, "watch": office.RoundPage[watchPage]{},
	"rescue": office.RoundPage[rescuePage]{},
	"fees":   office.RoundPage[feesPage]{}, "feesdesk": office.RoundPage[deskPage]{},
	"rounds": allRounds{}, "survey": office.RoundPage[surveyPage]{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds", Action: access.SeeDesk, Handle: Rounds},
	{Method: site.Get, Path: "/office/new-round", Action: access.MakeRound, Handle: NewRound},
	{Method: site.Post, Path: "/office/new-round", Action: access.MakeRound, Handle: MakeRound},
	{Method: site.Get, Path: "/office/rounds/:round", Action: access.SeeRound, Handle: Overview},
	{Method: site.Get, Path: "/office/rounds/:round/watch", Action: access.SeeWhole, Limits: site.Costs, Handle: Watch},
	{Method: site.Get, Path: "/office/rounds/:round/care", Action: access.SeeWhole, Handle: Care},
	{Method: site.Post, Path: "/office/rounds/:round/care", Action: access.ShareCare, Handle: SetCare},
	{Method: site.Get, Path: "/office/rounds/:round/rescue", Action: access.SeeWhole, Handle: Rescue},
	{Method: site.Post, Path: "/office/rounds/:round/rescue", Action: access.RemindPeople, Handle: NudgeAll},
	{Method: site.Post, Path: "/office/rounds/:round/same-time", Action: access.RemindPeople, Handle: SameTime},
	{Method: site.Post, Path: "/office/applications/:ref/nudge", Action: access.Nudge, Handle: Nudge},
	{Method: site.Get, Path: "/office/rounds/:round/asked", Action: access.SeeWhole, Handle: Asked},
	{Method: site.Get, Path: "/office/rounds/:round/asked/remind", Action: access.RemindPeople, Handle: AskNudge},
	{Method: site.Post, Path: "/office/rounds/:round/asked/remind", Action: access.RemindPeople, Large: true,
		Limits: site.Mails,
		Handle: NudgeAsked},
	{Method: site.Get, Path: "/office/rounds/:round/questions", Action: access.SeeWhole, Handle: Enquiries},
	{Method: site.Post, Path: "/office/rounds/:round/questions/:id", Action: access.AnswerAsked,
		Handle: AnswerEnquiry},
	{Method: site.Get, Path: "/office/rounds/:round/guidance", Action: access.SeeWhole, Handle: Guidance},
	{Method: site.Post, Path: "/office/rounds/:round/guidance", Action: access.EditDesign, Large: true, Limits: site.Costs,
		Handle: PutGuidance},
	{Method: site.Post, Path: "/office/rounds/:round/guidance/:id/remove", Action: access.EditDesign,
		Handle: RemoveGuidance},
	{Method: site.Get, Path: "/office/rounds/:round/guidance/:id/:number", Action: access.SeeWhole, Handle: GuidanceFile},
	{Method: site.Get, Path: "/office/rounds/:round/costs", Action: access.SeeWhole, Limits: site.Costs, Handle: Costs},
	{Method: site.Get, Path: "/office/rounds/:round/costs.csv", Action: access.SeeWhole, Limits: site.Costs,
		Handle: CostRows},
	{Method: site.Get, Path: "/office/rounds/:round/fees", Action: access.SeeFees, Handle: Fees},
	{Method: site.Get, Path: "/office/rounds/:round/fees/ledger.csv", Action: access.SeeFees, Handle: LedgerRows},
	{Method: site.Get, Path: "/office/rounds/:round/fees/ledger.json", Action: access.SeeFees, Handle: LedgerRows},
	{Method: site.Get, Path: "/office/rounds/:round/fees/desk", Action: access.SeeFees, Limits: site.Costs,
		Handle: FeesDesk},
	{Method: site.Post, Path: "/office/rounds/:round/fees/desk", Action: access.SeeFees, Large: true, Limits: site.Costs,
		Handle: FeesFile},
	{Method: site.Post, Path: "/office/rounds/:round/fees/take", Action: access.TakeFees, Limits: site.Costs,
		Handle: TakeFromDesk},
	{Method: site.Get, Path: "/office/rounds/:round/survey", Action: access.SeeWhole, Handle: Survey},
	{Method: site.Get, Path: "/office/rounds/:round/survey.csv", Action: access.SeeWhole, Handle: SurveyRows},
	{Method: site.Get, Path: "/office/rounds/:round/survey.json", Action: access.SeeWhole, Handle: SurveyRows},
}}
