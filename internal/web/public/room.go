package public

import (
	"embed"

	"ulvant/core/access"
	"ulvant/internal/platform/link"
	"ulvant/internal/web/kit/site"
)

//go:embed *.html
var pages embed.FS

// Room is for anybody: the rounds, the checks, accounts, and the mail tray of a demo.
var Room = site.Room{Name: "public", Pages: pages, Values: map[string]any{
	"account": accountPage{}, "address": addressPage{}, "check": checkPage{}, "checkall": checkallPage{},
	"code": codePage{}, "confirm": confirmForm{}, "enquiries": enquiriesPage{}, "enter": accountForm{},
	"fault": "", "forgot": accountForm{}, "leave": leavePage{}, "mail": mailPage{}, "recovery": []string{},
	"reset": resetPage{}, "round": roundPage{}, "rounds": roundsPage{}, "second": secondPage{},
	"sign-in": accountForm{}, "sign-up": accountForm{}, "texts": textsPage{}, "tray": trayPage{},
}, Routes: []site.Route{
	{Method: site.Get, Path: "/", Action: access.Visit, Handle: Rounds},
	{Method: site.Get, Path: "/check", Action: access.Visit, Handle: CheckAll},
	{Method: site.Post, Path: "/check", Action: access.Visit, Limits: site.Costs, Handle: AnswerAll},
	{Method: site.Get, Path: "/rounds/:round", Action: access.Visit, Handle: Round},
	{Method: site.Get, Path: "/rounds/:round/check", Action: access.Visit, Handle: Check},
	{Method: site.Post, Path: "/rounds/:round/check", Action: access.Visit, Limits: site.Costs, Handle: Answer},
	{Method: site.Get, Path: "/rounds/:round/files/:id", Action: access.Visit, Handle: GuidanceFile},
	{Method: site.Get, Path: "/rounds/:round/questions", Action: access.Visit, Handle: Enquiries},
	{Method: site.Post, Path: "/rounds/:round/questions", Action: access.HaveDesk, Limits: site.Fills,
		Handle: Enquire},
	{Method: site.Get, Path: "/sign-up", Action: access.Visit, Handle: SignUpForm},
	{Method: site.Post, Path: "/sign-up", Action: access.Visit, Handle: SignUp},
	{Method: site.Get, Path: "/sign-in", Action: access.Visit, Handle: SignInForm},
	{Method: site.Post, Path: "/sign-in", Action: access.Visit, Handle: SignIn},
	{Method: site.Post, Path: "/sign-in/mail", Action: access.Visit, Handle: SendEnter},
	{Method: site.Get, Path: "/enter/:token", Action: access.Visit, Link: link.Enter, Handle: EnterForm},
	{Method: site.Post, Path: "/enter/:token", Action: access.Visit, Link: link.Enter, Handle: Enter},
	{Method: site.Post, Path: "/sign-in/code", Action: access.Visit, Handle: SignInCode},
	{Method: site.Post, Path: "/sign-in/as", Action: access.SeeTray, Handle: SignInAs},
	{Method: site.Post, Path: "/sign-out", Action: access.Visit, Handle: SignOut},
	{Method: site.Get, Path: "/confirm/:token", Action: access.Visit, Link: link.Confirm, Handle: ConfirmForm},
	{Method: site.Post, Path: "/confirm/:token", Action: access.Visit, Link: link.Confirm, Handle: Confirm},
	{Method: site.Get, Path: "/forgot", Action: access.Visit, Handle: ForgotForm},
	{Method: site.Post, Path: "/forgot", Action: access.Visit, Handle: Forgot},
	{Method: site.Get, Path: "/reset/:token", Action: access.Visit, Link: link.Reset, Handle: ResetForm},
	{Method: site.Post, Path: "/reset/:token", Action: access.Visit, Link: link.Reset, Handle: Reset},
	{Method: site.Get, Path: "/account", Action: access.HaveDesk, Handle: Account},
	{Method: site.Post, Path: "/account/password", Action: access.HaveDesk, Handle: ChangePassword},
	{Method: site.Post, Path: "/account/address", Action: access.HaveDesk, Limits: site.Mails, Handle: AskAddress},
	{Method: site.Get, Path: "/address/:token", Action: access.Visit, Link: link.Address, Handle: AddressForm},
	{Method: site.Post, Path: "/address/:token", Action: access.Visit, Link: link.Address, Handle: ChangeAddress},
	{Method: site.Post, Path: "/account/lasting", Action: access.HaveDesk, Limits: site.Mails, Handle: AskLasting},
	{Method: site.Get, Path: "/lasting/:token", Action: access.Visit, Link: link.Lasting, Handle: LastingForm},
	{Method: site.Post, Path: "/lasting/:token", Action: access.Visit, Link: link.Lasting, Handle: ConfirmLasting},
	{Method: site.Post, Path: "/account/texts", Action: access.HaveDesk, Limits: site.Mails, Handle: AskTexts},
	{Method: site.Get, Path: "/texts/:token", Action: access.Visit, Link: link.Texts, Handle: TextsForm},
	{Method: site.Post, Path: "/texts/:token", Action: access.Visit, Link: link.Texts, Handle: ConfirmTexts},
	{Method: site.Get, Path: "/account/second", Action: access.HaveDesk, Handle: Second},
	{Method: site.Get, Path: "/account/second/picture", Action: access.HaveDesk, Handle: SecondPicture},
	{Method: site.Post, Path: "/account/second/begin", Action: access.HaveDesk, Handle: BeginSecond},
	{Method: site.Post, Path: "/account/second/on", Action: access.HaveDesk, Handle: TurnOnSecond},
	{Method: site.Post, Path: "/account/second/off", Action: access.HaveDesk, Handle: TurnOffSecond},
	{Method: site.Get, Path: "/account/leave", Action: access.HaveDesk, Handle: LeaveForm},
	{Method: site.Post, Path: "/account/leave", Action: access.HaveDesk, Handle: Leave},
	{Method: site.Post, Path: "/account/end-others", Action: access.HaveDesk, Handle: EndOthers},
	{Method: site.Get, Path: "/tray", Action: access.SeeTray, Handle: Tray},
	{Method: site.Get, Path: "/tray/:mail", Action: access.SeeTray, Handle: Mail},
	{Method: site.Get, Path: "/tray/:mail/attachment", Action: access.SeeTray, Handle: Attachment},
}}
