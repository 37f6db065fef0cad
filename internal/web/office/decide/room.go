package decide

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

//go:embed *.html
var pages embed.FS

// Room is the order, the decisions and their letters.
var Room = site.Room{Name: "office/decide", Pages: pages, Values: map[string]any{
	"decisions": office.RoundPage[deciding]{}, "marks": office.RoundPage[marksPage]{},
	"whatif": office.RoundPage[whatIfPage]{}, "compare": office.RoundPage[comparePage]{},
	"letters": office.RoundPage[lettersPage]{}, "offers": office.RoundPage[offersPage]{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/office/rounds/:round/decisions", Action: access.SeeWhole, Handle: Decisions},
	{Method: site.Get, Path: "/office/rounds/:round/marks", Action: access.SeeWhole, Limits: site.Costs, Handle: Marks},
	{Method: site.Get, Path: "/office/rounds/:round/what-ifs", Action: access.SeeWhole, Handle: WhatIfs},
	{Method: site.Get, Path: "/office/rounds/:round/what-ifs/compare", Action: access.SeeWhole, Handle: CompareWhatIfs},
	{Method: site.Post, Path: "/office/rounds/:round/what-ifs/try", Action: access.SeeWhole, Handle: TryWhatIf},
	{Method: site.Post, Path: "/office/rounds/:round/what-ifs", Action: access.Decide, Handle: KeepWhatIf},
	{Method: site.Post, Path: "/office/rounds/:round/decisions", Action: access.Decide, Handle: Record},
	{Method: site.Post, Path: "/office/rounds/:round/decisions/move-up", Action: access.Decide, Handle: MoveUp},
	{Method: site.Post, Path: "/office/rounds/:round/decisions/between", Action: access.Decide, Handle: BetweenMeetings},
	{Method: site.Post, Path: "/office/rounds/:round/decisions/choose", Action: access.Decide, Handle: Choose},
	{Method: site.Get, Path: "/office/rounds/:round/offers", Action: access.SeeWhole, Handle: Offers},
	{Method: site.Post, Path: "/office/rounds/:round/offers/:offer", Action: access.MindOffers, Limits: site.Mails,
		Handle: MindOffer},
	{Method: site.Get, Path: "/office/rounds/:round/work/:work", Action: access.SeeWhole, Handle: Progress},
	{Method: site.Get, Path: "/office/rounds/:round/acts/:act/letters", Action: access.SeeWhole, Handle: Letters},
	{Method: site.Post, Path: "/office/rounds/:round/acts/:act/letters", Action: access.HoldLetters, Handle: RewordLetter},
	{Method: site.Get, Path: "/office/rounds/:round/acts/:act/progress", Action: access.SeeWhole, Handle: LettersLeaving},
	{Method: site.Post, Path: "/office/rounds/:round/acts/:act/stop", Action: access.HoldLetters,
		Handle: StopLetters},
	{Method: site.Post, Path: "/office/rounds/:round/acts/:act/release", Action: access.HoldLetters,
		Handle: ReleaseLetters},
}}
