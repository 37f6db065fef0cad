package cases

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

//go:embed *.html
var pages embed.FS

// Room is one case at the office: its checks, queries, time.
var Room = site.Room{Name: "office/cases", Pages: pages, Values: map[string]any{
	"case": office.RoundPage[casePage]{}, "post": office.RoundPage[postPage]{},
	"fee": office.RoundPage[feePage]{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/applications/:ref", Action: access.SeeCase, Handle: Case},
	{Method: site.Post, Path: "/office/applications/:ref/checks/:rule", Action: access.SettleCheck, Handle: Settle},
	{Method: site.Post, Path: "/office/applications/:ref/turn", Action: access.ReviewTurn, Handle: AnswerTurn},
	{Method: site.Post, Path: "/office/applications/:ref/registers", Action: access.SettleCheck, Handle: SeeRegisters},
	{Method: site.Post, Path: "/office/applications/:ref/support/:id", Action: access.WriteTo, Limits: site.Mails,
		Handle: EndSupport},
	{Method: site.Get, Path: "/office/applications/:ref/post", Action: access.SeeWhole, Handle: Post},
	{Method: site.Post, Path: "/office/applications/:ref/query", Action: access.AskQuery, Handle: Ask},
	{Method: site.Post, Path: "/office/applications/:ref/query/back", Action: access.AskQuery,
		Handle: TakeQueryBack},
	{Method: site.Post, Path: "/office/applications/:ref/query/seen", Action: access.AskQuery, Handle: SeeQuery},
	{Method: site.Post, Path: "/office/applications/:ref/asked", Action: access.TakeLetters, Large: true,
		Limits: site.Fills,
		Handle: Enter},
	{Method: site.Post, Path: "/office/applications/:ref/asked/:id/time", Action: access.TakeLetters, Limits: site.Mails,
		Handle: LetterTime},
	{Method: site.Get, Path: "/office/applications/:ref/asked/:id/evidence.pdf", Action: access.SeeCase, Handle: Evidence},
	{Method: site.Get, Path: "/office/applications/:ref/fee", Action: access.SeeFee, Handle: Fee},
	{Method: site.Post, Path: "/office/applications/:ref/fee/let-off", Action: access.SettleFee, Limits: site.Mails,
		Handle: LetOff},
	{Method: site.Post, Path: "/office/applications/:ref/fee/ask-again", Action: access.SettleFee, Handle: AskFee},
	{Method: site.Post, Path: "/office/applications/:ref/fee/back", Action: access.SettleFee, Handle: GiveFeeBack},
	{Method: site.Post, Path: "/office/applications/:ref/fee/agree", Action: access.AnswerFee, Handle: AgreeFeeBack},
	{Method: site.Post, Path: "/office/applications/:ref/fee/answer", Action: access.AnswerFee, Limits: site.Mails,
		Handle: AnswerFee},
	{Method: site.Post, Path: "/office/applications/:ref/fee/again", Action: access.SettleFee, Handle: FeeBackAgain},
	{Method: site.Post, Path: "/office/applications/:ref/fee/transferred", Action: access.SettleFee,
		Handle: FeeTransferred},
	{Method: site.Post, Path: "/office/applications/:ref/fee/paid-in", Action: access.SettleFee, Handle: FeePaidIn},
	{Method: site.Post, Path: "/office/applications/:ref/fee/time", Action: access.SettleFee, Limits: site.Mails,
		Handle: FeeTime},
	{Method: site.Get, Path: "/office/applications/:ref/fee/receipt/:number", Action: access.SeeFee, Handle: FeeReceipt},
	{Method: site.Post, Path: "/office/applications/:ref/more-time", Action: access.GiveTime, Handle: GiveTime},
	{Method: site.Get, Path: "/office/applications/:ref/materials/:id", Action: access.SeeCase, Handle: File},
}}
