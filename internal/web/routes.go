package web

import (
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/internal/platform/limit"
	"ulvant/internal/platform/link"
	"ulvant/internal/web/applicant"
	"ulvant/internal/web/designer"
	"ulvant/internal/web/guest"
	"ulvant/internal/web/officer"
	"ulvant/internal/web/public"
	"ulvant/internal/web/reader"
	"ulvant/internal/web/site"
)

const (
	get  = fiber.MethodGet
	post = fiber.MethodPost
)

// How often one visitor may do what has us write to others, what takes a core
// for a while, and what stays on a disk. People stay far below; who runs into
// one is told to wait.
var (
	mails = []limit.Rule{{Name: "mails", Most: 60, Per: time.Hour}}
	costs = []limit.Rule{{Name: "costs", Most: 120, Per: 10 * time.Minute}}
	fills = []limit.Rule{{Name: "fills", Most: 300, Per: time.Hour}}
)

// Routes is the whole site. Every route says what it lets somebody do; the
// test in routes_test.go goes through all of them.
var Routes = []site.Route{
	// anyone
	{Method: get, Path: "/", Action: access.Visit, Handle: public.Rounds},
	{Method: get, Path: "/check", Action: access.Visit, Handle: public.CheckAll},
	{Method: post, Path: "/check", Action: access.Visit, Limits: costs, Handle: public.AnswerAll},
	{Method: get, Path: "/rounds/:round", Action: access.Visit, Handle: public.Round},
	{Method: get, Path: "/rounds/:round/check", Action: access.Visit, Handle: public.Check},
	{Method: post, Path: "/rounds/:round/check", Action: access.Visit, Limits: costs, Handle: public.Answer},
	{Method: get, Path: "/rounds/:round/questions", Action: access.Visit, Handle: public.Enquiries},
	{Method: post, Path: "/rounds/:round/questions", Action: access.HaveDesk, Limits: fills, Handle: public.Enquire},
	{Method: get, Path: "/sign-up", Action: access.Visit, Handle: public.SignUpForm},
	{Method: post, Path: "/sign-up", Action: access.Visit, Handle: public.SignUp},
	{Method: get, Path: "/sign-in", Action: access.Visit, Handle: public.SignInForm},
	{Method: post, Path: "/sign-in", Action: access.Visit, Handle: public.SignIn},
	{Method: post, Path: "/sign-in/mail", Action: access.Visit, Handle: public.SendEnter},
	{Method: get, Path: "/enter/:token", Action: access.Visit, Link: link.Enter, Handle: public.EnterForm},
	{Method: post, Path: "/enter/:token", Action: access.Visit, Link: link.Enter, Handle: public.Enter},
	{Method: post, Path: "/sign-in/code", Action: access.Visit, Handle: public.SignInCode},
	{Method: post, Path: "/sign-in/as", Action: access.SeeTray, Handle: public.SignInAs},
	{Method: post, Path: "/sign-out", Action: access.Visit, Handle: public.SignOut},
	{Method: get, Path: "/confirm/:token", Action: access.Visit, Link: link.Confirm, Handle: public.ConfirmForm},
	{Method: post, Path: "/confirm/:token", Action: access.Visit, Link: link.Confirm, Handle: public.Confirm},
	{Method: get, Path: "/forgot", Action: access.Visit, Handle: public.ForgotForm},
	{Method: post, Path: "/forgot", Action: access.Visit, Handle: public.Forgot},
	{Method: get, Path: "/reset/:token", Action: access.Visit, Link: link.Reset, Handle: public.ResetForm},
	{Method: post, Path: "/reset/:token", Action: access.Visit, Link: link.Reset, Handle: public.Reset},
	{Method: get, Path: "/account", Action: access.HaveDesk, Handle: public.Account},
	{Method: post, Path: "/account/password", Action: access.HaveDesk, Handle: public.ChangePassword},
	{Method: post, Path: "/account/address", Action: access.HaveDesk, Limits: mails, Handle: public.AskAddress},
	{Method: get, Path: "/address/:token", Action: access.Visit, Link: link.Address, Handle: public.AddressForm},
	{Method: post, Path: "/address/:token", Action: access.Visit, Link: link.Address, Handle: public.ChangeAddress},
	{Method: get, Path: "/account/second", Action: access.HaveDesk, Handle: public.Second},
	{Method: get, Path: "/account/second/picture", Action: access.HaveDesk, Handle: public.SecondPicture},
	{Method: post, Path: "/account/second/begin", Action: access.HaveDesk, Handle: public.BeginSecond},
	{Method: post, Path: "/account/second/on", Action: access.HaveDesk, Handle: public.TurnOnSecond},
	{Method: post, Path: "/account/second/off", Action: access.HaveDesk, Handle: public.TurnOffSecond},
	{Method: get, Path: "/account/leave", Action: access.HaveDesk, Handle: public.LeaveForm},
	{Method: post, Path: "/account/leave", Action: access.HaveDesk, Handle: public.Leave},
	{Method: post, Path: "/account/end-others", Action: access.HaveDesk, Handle: public.EndOthers},
	{Method: get, Path: "/tray", Action: access.SeeTray, Handle: public.Tray},
	{Method: get, Path: "/tray/:mail", Action: access.SeeTray, Handle: public.Mail},
	{Method: get, Path: "/tray/:mail/attachment", Action: access.SeeTray, Handle: public.Attachment},

	// applicants
	{Method: get, Path: "/rounds/:round/start", Action: access.HaveDesk, Handle: applicant.StartForm},
	{Method: post, Path: "/rounds/:round/start", Action: access.HaveDesk, Limits: fills, Handle: applicant.Start},
	{Method: get, Path: "/applications", Action: access.HaveDesk, Handle: applicant.Mine},
	{Method: get, Path: "/applications/:ref", Action: access.ViewCase, Handle: applicant.Workspace},
	{Method: get, Path: "/applications/:ref/sections/:section", Action: access.ViewCase, Handle: applicant.Workspace},
	{Method: post, Path: "/applications/:ref/sections/:section", Action: access.WriteCase, Handle: applicant.SaveForm},
	{Method: post, Path: "/applications/:ref/answers", Action: access.WriteCase, Handle: applicant.Save},
	{Method: post, Path: "/applications/:ref/title", Action: access.WriteCase, Handle: applicant.Rename},
	{Method: post, Path: "/applications/:ref/file/:slot", Action: access.WriteCase, Large: true, Limits: fills, Handle: applicant.PutFile},
	{Method: post, Path: "/applications/:ref/materials/:id/remove", Action: access.WriteCase, Handle: applicant.RemoveFile},
	{Method: post, Path: "/applications/:ref/materials/:id/forward", Action: access.WriteCase, Handle: applicant.MoveFile(true)},
	{Method: post, Path: "/applications/:ref/materials/:id/back", Action: access.WriteCase, Handle: applicant.MoveFile(false)},
	{Method: get, Path: "/applications/:ref/materials/:id", Action: access.ViewCase, Handle: applicant.File},
	{Method: post, Path: "/applications/:ref/referees/:question", Action: access.WriteCase, Limits: mails, Handle: applicant.NameReferee},
	{Method: post, Path: "/applications/:ref/referee/:id/remind", Action: access.WriteCase, Limits: mails, Handle: applicant.RemindReferee},
	{Method: post, Path: "/applications/:ref/referee/:id/withdraw", Action: access.WriteCase, Limits: mails, Handle: applicant.WithdrawReferee},
	{Method: get, Path: "/applications/:ref/papers/:question", Action: access.ViewCase, Handle: applicant.Paper},
	{Method: post, Path: "/applications/:ref/papers/:question", Action: access.WriteCase, Large: true, Limits: fills, Handle: applicant.PutPaper},
	{Method: get, Path: "/applications/:ref/stream", Action: access.ViewCase, Handle: applicant.Stream},
	{Method: get, Path: "/applications/:ref/answers", Action: access.ViewCase, Handle: applicant.Answers},
	{Method: post, Path: "/applications/:ref/comments/:question", Action: access.Comment, Limits: fills, Handle: applicant.Comment},
	{Method: post, Path: "/applications/:ref/comments/:question/done", Action: access.Comment, Handle: applicant.TickOffComment},
	{Method: get, Path: "/applications/:ref/team", Action: access.ViewCase, Handle: applicant.Team},
	{Method: post, Path: "/applications/:ref/team", Action: access.LeadCase, Limits: mails, Handle: applicant.InviteTeammate},
	{Method: post, Path: "/applications/:ref/team/:account/drop", Action: access.LeadCase, Handle: applicant.DropTeammate},
	{Method: post, Path: "/applications/:ref/team/:account/lead", Action: access.LeadCase, Limits: mails, Handle: applicant.AskToLead},
	{Method: post, Path: "/applications/:ref/team/invitations/:invitation/back", Action: access.LeadCase, Handle: applicant.TakeInvitationBack},
	{Method: post, Path: "/applications/:ref/team/leave", Action: access.LeaveTeam, Handle: applicant.LeaveTeam},
	{Method: get, Path: "/applications/:ref/earlier/:question", Action: access.ViewCase, Handle: applicant.Earlier},
	{Method: post, Path: "/applications/:ref/earlier/:question", Action: access.WriteCase, Handle: applicant.BringBack},
	{Method: get, Path: "/applications/:ref/more-time", Action: access.ViewCase, Handle: applicant.MoreTime},
	{Method: post, Path: "/applications/:ref/more-time", Action: access.AskTime, Handle: applicant.AskTime},
	{Method: post, Path: "/applications/:ref/withdraw", Action: access.Withdraw, Handle: applicant.Withdraw},
	{Method: post, Path: "/applications/:ref/take-up", Action: access.TakeUp, Handle: applicant.TakeUp},
	{Method: get, Path: "/applications/:ref/nearest", Action: access.ViewCase, Limits: costs, Handle: applicant.Nearest},
	{Method: get, Path: "/applications/:ref/send", Action: access.ViewCase, Handle: applicant.SendForm},
	{Method: post, Path: "/applications/:ref/send", Action: access.SendCase, Handle: applicant.Send},
	{Method: get, Path: "/applications/:ref/sent", Action: access.ViewCase, Handle: applicant.Sent},
	{Method: get, Path: "/applications/:ref/survey", Action: access.AnswerAfter, Handle: applicant.SurveyForm},
	{Method: post, Path: "/applications/:ref/survey", Action: access.AnswerAfter, Handle: applicant.AnswerSurvey},
	{Method: get, Path: "/applications/:ref/copy", Action: access.ViewCase, Limits: costs, Handle: applicant.Copy},

	// profiles
	{Method: get, Path: "/profiles", Action: access.HaveDesk, Handle: applicant.Profiles},
	{Method: post, Path: "/profiles", Action: access.HaveDesk, Limits: fills, Handle: applicant.MakeProfile},
	{Method: post, Path: "/profiles/claim", Action: access.HaveDesk, Limits: mails, Handle: applicant.Claim},
	{Method: post, Path: "/profiles/join", Action: access.HaveDesk, Handle: applicant.Join},
	{Method: get, Path: "/profiles/:profile", Action: access.HaveDesk, Handle: applicant.Profile},
	{Method: post, Path: "/profiles/:profile/steps/:step", Action: access.HaveDesk, Handle: applicant.KeepStep},
	{Method: post, Path: "/profiles/:profile/officers", Action: access.HaveDesk, Limits: mails, Handle: applicant.AskOfficer},
	{Method: post, Path: "/profiles/:profile/officers/:officer/revoke", Action: access.HaveDesk, Handle: applicant.RevokeOfficer},
	{Method: post, Path: "/profiles/:profile/sponsor", Action: access.HaveDesk, Limits: mails, Handle: applicant.AskSponsor},
	{Method: post, Path: "/profiles/:profile/sponsors/:id/end", Action: access.HaveDesk, Handle: applicant.EndSponsor},
	{Method: post, Path: "/profiles/:profile/hand-in", Action: access.HaveDesk, Handle: applicant.HandInProfile},
	{Method: post, Path: "/profiles/:profile/members/:account/authorise", Action: access.HaveDesk, Handle: applicant.AuthoriseMember},
	{Method: post, Path: "/profiles/:profile/members/:account/drop", Action: access.HaveDesk, Handle: applicant.DropMember},
	{Method: post, Path: "/applications/:ref/profile", Action: access.WriteCase, Handle: applicant.SettleDifference},

	// by personal link
	{Method: get, Path: "/team/:token", Action: access.Visit, Link: link.Team, Handle: guest.Team},
	{Method: post, Path: "/team/:token", Action: access.Visit, Link: link.Team, Handle: guest.AnswerTeam},
	{Method: get, Path: "/officer/:token", Action: access.Visit, Link: link.Officer, Handle: guest.Officer},
	{Method: post, Path: "/officer/:token", Action: access.Visit, Link: link.Officer, Handle: guest.ConfirmOfficer},
	{Method: get, Path: "/sponsor/:token", Action: access.Visit, Link: link.Sponsor, Handle: guest.Sponsor},
	{Method: post, Path: "/sponsor/:token", Action: access.Visit, Link: link.Sponsor, Handle: guest.AnswerSponsor},
	{Method: get, Path: "/letter/:token", Action: access.VouchFor, Link: link.Referee, Handle: guest.Letter},
	{Method: post, Path: "/letter/:token/answer", Action: access.VouchFor, Link: link.Referee, Handle: guest.Answer},
	{Method: post, Path: "/letter/:token/keep", Action: access.VouchFor, Link: link.Referee, Large: true, Limits: fills, Handle: guest.Keep},
	{Method: post, Path: "/letter/:token/file", Action: access.VouchFor, Link: link.Referee, Large: true, Limits: fills, Handle: guest.PutFile},
	{Method: get, Path: "/letter/:token/own", Action: access.VouchFor, Link: link.Referee, Handle: guest.OwnFile},
	{Method: post, Path: "/letter/:token/send", Action: access.VouchFor, Link: link.Referee, Large: true, Limits: fills, Handle: guest.Send},
	{Method: get, Path: "/reader/:token", Action: access.Visit, Link: link.Reader, Handle: guest.Invitation},
	{Method: post, Path: "/reader/:token", Action: access.Visit, Link: link.Reader, Handle: guest.Accept},

	// readers
	{Method: get, Path: "/reading", Action: access.ReadDesk, Handle: reader.Desk},
	{Method: get, Path: "/reading/:ref", Action: access.ReadCase, Handle: reader.Case},
	{Method: post, Path: "/reading/:ref/marks", Action: access.MarkCase, Handle: reader.Marks},
	{Method: post, Path: "/reading/:ref/send", Action: access.MarkCase, Handle: reader.Send},
	{Method: post, Path: "/reading/:ref/aside", Action: access.StepAside, Handle: reader.StepAside},
	{Method: get, Path: "/reading/:ref/materials/:id", Action: access.ReadCase, Handle: reader.File},

	// the office
	{Method: get, Path: "/office", Action: access.SeeDesk, Handle: officer.Today},
	{Method: get, Path: "/office/profiles", Action: access.SeeBodies, Handle: officer.Profiles},
	{Method: get, Path: "/office/profiles/:profile", Action: access.SeeBodies, Handle: officer.Profile},
	{Method: post, Path: "/office/profiles/:profile", Action: access.LookOver, Handle: officer.DecideProfile},
	{Method: post, Path: "/office/profiles/:profile/members/:account", Action: access.LookOver, Handle: officer.AuthoriseMember},
	{Method: get, Path: "/office/security", Action: access.SeeSecurity, Handle: officer.Security},
	{Method: get, Path: "/office/find", Action: access.SeeDesk, Handle: officer.Find},
	{Method: get, Path: "/office/rounds", Action: access.SeeDesk, Handle: officer.Rounds},
	{Method: get, Path: "/office/new-round", Action: access.MakeRound, Handle: officer.NewRound},
	{Method: post, Path: "/office/new-round", Action: access.MakeRound, Handle: officer.MakeRound},
	{Method: get, Path: "/office/rounds/:round", Action: access.SeeRound, Handle: officer.Overview},

	// the design of a round
	{Method: get, Path: "/office/rounds/:round/design", Action: access.SeeDesign, Handle: designer.Page},
	{Method: post, Path: "/office/rounds/:round/design", Action: access.EditDesign, Handle: designer.Set},
	{Method: post, Path: "/office/rounds/:round/design/add", Action: access.EditDesign, Handle: designer.Add},
	{Method: post, Path: "/office/rounds/:round/design/move", Action: access.EditDesign, Handle: designer.Move},
	{Method: post, Path: "/office/rounds/:round/design/copy", Action: access.EditDesign, Handle: designer.Duplicate},
	{Method: post, Path: "/office/rounds/:round/design/keep", Action: access.EditDesign, Handle: designer.Keep},
	{Method: post, Path: "/office/rounds/:round/design/remove", Action: access.EditDesign, Handle: designer.Remove},
	{Method: post, Path: "/office/rounds/:round/design/undo", Action: access.EditDesign, Handle: designer.Undo},
	{Method: post, Path: "/office/rounds/:round/design/redo", Action: access.EditDesign, Handle: designer.Redo},
	{Method: post, Path: "/office/rounds/:round/design/import", Action: access.EditDesign, Large: true, Handle: designer.Import},
	{Method: get, Path: "/office/rounds/:round/design/questions.csv", Action: access.SeeDesign, Handle: designer.Questions},
	{Method: get, Path: "/office/rounds/:round/design/questions.json", Action: access.SeeDesign, Handle: designer.Questions},
	{Method: get, Path: "/office/rounds/:round/design/awards.csv", Action: access.SeeDesign, Handle: designer.Awards},
	{Method: get, Path: "/office/rounds/:round/design/awards.json", Action: access.SeeDesign, Handle: designer.Awards},
	{Method: get, Path: "/office/rounds/:round/design.json", Action: access.SeeDesign, Handle: designer.Export},
	{Method: get, Path: "/office/rounds/:round/design/proof", Action: access.SeeDesign, Handle: designer.Proof},
	{Method: post, Path: "/office/rounds/:round/design/mend", Action: access.EditDesign, Handle: designer.Mend},
	{Method: get, Path: "/office/rounds/:round/design/table", Action: access.SeeDesign, Handle: designer.Table},
	{Method: get, Path: "/office/rounds/:round/design/table.csv", Action: access.SeeDesign, Handle: designer.TableRows},
	{Method: get, Path: "/office/rounds/:round/design/table.json", Action: access.SeeDesign, Handle: designer.TableRows},
	{Method: get, Path: "/office/rounds/:round/design/replay", Action: access.SeeDesign, Handle: designer.Replay},
	{Method: get, Path: "/office/rounds/:round/design/rehearse", Action: access.SeeDesign, Handle: designer.Rehearse},
	{Method: get, Path: "/office/rounds/:round/design/try", Action: access.SeeDesign, Handle: designer.Try},
	{Method: post, Path: "/office/rounds/:round/design/try", Action: access.SeeDesign, Handle: designer.Try},
	{Method: get, Path: "/office/rounds/:round/open", Action: access.SeeDesign, Handle: designer.LastLook},
	{Method: post, Path: "/office/rounds/:round/open", Action: access.OpenRound, Handle: designer.Open},

	{Method: get, Path: "/office/rounds/:round/applications", Action: access.SeeRound, Handle: officer.Applications},
	{Method: get, Path: "/office/rounds/:round/care", Action: access.SeeWhole, Handle: officer.Care},
	{Method: post, Path: "/office/rounds/:round/care", Action: access.ShareCare, Handle: officer.SetCare},
	{Method: get, Path: "/office/rounds/:round/rescue", Action: access.SeeWhole, Handle: officer.Rescue},
	{Method: post, Path: "/office/applications/:ref/nudge", Action: access.Nudge, Handle: officer.Nudge},
	{Method: get, Path: "/office/rounds/:round/checks", Action: access.SeeWhole, Handle: officer.Checks},
	{Method: get, Path: "/office/rounds/:round/reading", Action: access.SeeWhole, Handle: officer.Reading},
	{Method: post, Path: "/office/rounds/:round/readers", Action: access.InviteReader, Handle: officer.InviteReader},
	{Method: post, Path: "/office/rounds/:round/hand-out", Action: access.HandOut, Handle: officer.HandOut},
	{Method: get, Path: "/office/rounds/:round/questions", Action: access.SeeWhole, Handle: officer.Enquiries},
	{Method: post, Path: "/office/rounds/:round/questions/:id", Action: access.AnswerAsked, Handle: officer.AnswerEnquiry},
	{Method: get, Path: "/office/rounds/:round/survey", Action: access.SeeWhole, Handle: officer.Survey},
	{Method: get, Path: "/office/rounds/:round/survey.csv", Action: access.SeeWhole, Handle: officer.SurveyRows},
	{Method: get, Path: "/office/rounds/:round/survey.json", Action: access.SeeWhole, Handle: officer.SurveyRows},
	{Method: get, Path: "/office/rounds/:round/decisions", Action: access.SeeWhole, Handle: officer.Decisions},
	{Method: post, Path: "/office/rounds/:round/decisions", Action: access.Decide, Handle: officer.Record},
	{Method: post, Path: "/office/rounds/:round/decisions/choose", Action: access.Decide, Handle: officer.Choose},
	{Method: get, Path: "/office/rounds/:round/work/:work", Action: access.SeeWhole, Handle: officer.Progress},
	{Method: post, Path: "/office/rounds/:round/acts/:act/stop", Action: access.HoldLetters, Handle: officer.StopLetters},
	{Method: post, Path: "/office/rounds/:round/acts/:act/release", Action: access.HoldLetters, Handle: officer.ReleaseLetters},
	{Method: get, Path: "/office/applications/:ref", Action: access.SeeCase, Handle: officer.Case},
	{Method: post, Path: "/office/applications/:ref/checks/:rule", Action: access.SettleCheck, Handle: officer.Settle},
	{Method: post, Path: "/office/applications/:ref/query", Action: access.AskQuery, Handle: officer.Ask},
	{Method: post, Path: "/office/applications/:ref/query/back", Action: access.AskQuery, Handle: officer.TakeQueryBack},
	{Method: post, Path: "/office/applications/:ref/query/seen", Action: access.AskQuery, Handle: officer.SeeQuery},
	{Method: post, Path: "/office/applications/:ref/more-time", Action: access.GiveTime, Handle: officer.GiveTime},
	{Method: get, Path: "/office/applications/:ref/materials/:id", Action: access.SeeCase, Handle: officer.File},
}

// notFound is where every other address ends.
var notFound = site.Route{Method: get, Path: "*", Action: access.Visit, Handle: func(*site.Request) error { return fiber.ErrNotFound }}
