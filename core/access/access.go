// Package access says who may do what. Relations are to the case in hand, not
// to the account: an officer who applies is an applicant there. Another's case
// is "not found", so that nothing can be learnt by asking.
package access

import "ulvant/core/lifecycle"

// Action is what a request wants to do. Every route declares one.
type Action string

// The actions.
const (
	Visit        Action = "visit"          // public pages
	HaveDesk     Action = "have a desk"    // anything one's own account needs
	ViewCase     Action = "view the case"  // the applicant's own pages
	WriteCase    Action = "write the case" // answers, files
	AskPeople    Action = "ask people who answer for the case"
	GivePromised Action = "give what was to follow"
	Comment      Action = "comment on the case"
	SendCase     Action = "send the case" //
	LeadCase     Action = "lead the case" // who writes it with the lead, and who leads
	LeaveTeam    Action = "leave the team"
	Withdraw     Action = "withdraw the case"
	AnswerOffer  Action = "answer an offer"
	PayFee       Action = "pay the fee"
	LeadFee      Action = "say who pays the fee" // somebody else, an invoice
	AskTime      Action = "ask for more time"
	AskSupport   Action = "ask for support"
	AnswerAfter  Action = "answer the survey" // after sending, kept apart from the case
	TakeUp       Action = "take up the invitation to a stage"
	VouchFor     Action = "vouch" // by a referee's personal link

	// at the office, of no round or of any
	SeeDesk     Action = "see the office's desk"
	MakeRound   Action = "make a round"
	SeeBodies   Action = "see organisations"
	LookOver    Action = "look an organisation over"
	SeeSecurity Action = "see the safety of accounts"
	ShapeList   Action = "shape the register" // over all rounds; keep views of it, act on many, be away
	SeeOffice   Action = "see who works at the office"
	GiveRoles   Action = "give roles and take them away"
	SetOffice   Action = "set what holds for the whole office"
	// of an award that somebody gives
	SeeGifts Action = "see the awards one gives"
	SeeGift  Action = "see the award"
	// of a round
	SeeRound     Action = "see the round" // a part of it at least
	SeeWhole     Action = "see all of the round"
	SeeDesign    Action = "see the design"
	EditDesign   Action = "change the design"
	OpenRound    Action = "open the round"
	ShareCare    Action = "say who looks after what"
	InviteReader Action = "invite readers"
	HandOut      Action = "hand cases out"
	AnswerAsked  Action = "answer questions about the round"
	RemindPeople Action = "remind those asked" // of many cases at once
	Decide       Action = "decide"
	HoldLetters  Action = "stop letters and let them go"
	MindOffers   Action = "mind what is offered" // answer for somebody, give more time, open an offer again
	SeeFees      Action = "see the fees"
	TakeFees     Action = "take in what the payment desk says"
	// of a case
	SeeCase     Action = "see the case" // as the office does
	Nudge       Action = "nudge the applicant"
	GiveTime    Action = "give more time"
	SettleCheck Action = "settle a check"
	RuleBeyond  Action = "rule on what lies beyond one case" // people in common, like texts, proposals to lists
	ReviewTurn  Action = "review a case in one’s body’s turn"
	AskQuery    Action = "ask the applicant"
	WriteTo     Action = "write to the applicant"
	LabelCase   Action = "label the case"
	NoteCase    Action = "write notes about the case"
	GiveInHand  Action = "say who looks after the case"
	MindReading Action = "mind the reading of the case" // take it from a reader, open marks again, end it
	TakeLetters Action = "take letters"                 // that come by post, or later than their date
	SeeFee      Action = "see the fee of the case"
	SettleFee   Action = "settle the fee"                         // let off, put in a transfer, give time, propose to give back
	AgreeBack   Action = "agree to give money back"               // that somebody else proposed
	AnswerFee   Action = "answer what was proposed about the fee" // agree to it, or take one's own back

	ReadDesk    Action = "have a desk to read at"
	ReadCase    Action = "read the case"
	MarkCase    Action = "mark the case"
	StepAside   Action = "step aside"
	MeetPeople  Action = "invite people to interviews" // of a round: lay out days, give times, say who did not come
	MindMeeting Action = "mind the interview of the case"
	AnswerMeet  Action = "answer an invitation to an interview"
	MeetCase    Action = "meet whoever applies"
	MarkMeeting Action = "mark an interview"
	SitPanel    Action = "sit on the panel"  // vote, leave the room, and for whoever decides, lead the meeting
	SeeTray     Action = "see the mail tray" // the stand-in's, in demo mode only
)

// Actions lists them all.
var Actions = []Action{Visit, HaveDesk, ViewCase, WriteCase, AskPeople, GivePromised, Comment, SendCase,
	LeadCase, LeaveTeam, Withdraw, AnswerOffer, PayFee, LeadFee, AskTime, AskSupport, AnswerAfter, TakeUp, VouchFor,
	SeeDesk, MakeRound,
	SeeBodies, LookOver, SeeSecurity, ShapeList, SeeOffice, GiveRoles, SetOffice, SeeGifts, SeeGift, SeeRound,
	SeeWhole, SeeDesign, EditDesign, OpenRound, ShareCare, InviteReader, HandOut, AnswerAsked, RemindPeople,
	Decide, HoldLetters, MindOffers, SeeFees, TakeFees, SeeFee, SettleFee, AgreeBack, AnswerFee, SeeCase, Nudge, GiveTime,
	SettleCheck,
	RuleBeyond, ReviewTurn, AskQuery, WriteTo, LabelCase, NoteCase, GiveInHand, MindReading, TakeLetters, ReadDesk,
	ReadCase, MarkCase,
	StepAside, MeetPeople, MindMeeting, AnswerMeet, MeetCase, MarkMeeting, SitPanel,
	SeeTray}

// Reads reports what a reader does with a case.
func (a Action) Reads() bool { return a == ReadCase || a == MarkCase || a == StepAside }

// Applies reports what somebody does with a case on the applicant's pages, where
// a decision is seen when its letter has left.
func (a Action) Applies() bool {
	switch a {
	case ViewCase,
		WriteCase,
		AskPeople,
		GivePromised,
		Comment,
		SendCase,
		LeadCase,
		LeaveTeam,
		Withdraw,
		AnswerOffer,
		PayFee,
		LeadFee,
		AskTime,
		AskSupport,
		AnswerAfter,
		TakeUp,
		AnswerMeet:
		return true
	}
	return false
}

// Relations somebody has to what a request names; a set.
type Relations uint32

// The relations.
const (
	SignedIn Relations = 1 << iota
	Lead
	Teammate
	RefereeOf // holds the personal link
	ReaderOf
	SteppedAside
	AtOffice        // holds a role of the office, somewhere
	ReaderSomewhere // reads in some round
	Demo            // the program runs as a demo on loopback
	Commenter       // asked to read a draft and say something to it, and to change nothing
	InRound         // holds a role for the round, or for a part of it
	Runner          // and the roles that hold for what is named, see Role
	Carer
	Checker
	MoneyMaker
	MoneyReleaser
	Chair
	Looker
	Sitter
	BodyMember    // of a second body that reviews the case
	RunsSomewhere // runs rounds: all of them, those of a programme, or one
	DonorOf       // gives the award that is named
	DonorSomewhere
	PanelOf // meets whoever applies
)

// Office is every relation that comes of working there.
const Office = AtOffice | InRound | anyRole | BodyMember | RunsSomewhere

const anyRole = Runner | Carer | Checker | MoneyMaker | MoneyReleaser | Chair | Looker | Sitter

// ofCase is whoever at the office sees a case.
const ofCase = anyRole | BodyMember

// All lists the single relations.
var All = []Relations{SignedIn, Lead, Teammate, RefereeOf, ReaderOf, SteppedAside, AtOffice, ReaderSomewhere, Demo,
	Commenter, InRound, Runner, Carer, Checker, MoneyMaker, MoneyReleaser, Chair, Looker, Sitter, BodyMember,
	RunsSomewhere,
	DonorOf, DonorSomewhere, PanelOf}

// PartOf is the relation of somebody who has a part in an application, by the
// word it is kept under; 0 for none of ours.
func PartOf(part string) Relations {
	return map[string]Relations{"lead": Lead, "teammate": Teammate, "commenter": Commenter}[part]
}

// Inside reports somebody who works at the office itself on what is named, and not
// for another body that looks at it.
func (r Relations) Inside() bool { return r.Any(anyRole) }

// Has reports every relation in r.
func (r Relations) Has(want Relations) bool { return r&want == want }

// Any reports one relation of some in r.
func (r Relations) Any(of Relations) bool { return r&of != 0 }

// atOffice is who may do what there: whoever has one of the relations.
var atOffice = map[Action]Relations{
	SeeDesk:      AtOffice,
	MakeRound:    Runner,
	SeeBodies:    Runner | Carer | Checker | Looker,
	LookOver:     Runner | Checker,
	SeeSecurity:  Runner,
	ShapeList:    AtOffice,
	SeeOffice:    AtOffice,
	GiveRoles:    RunsSomewhere,
	SetOffice:    Runner,
	SeeGifts:     DonorSomewhere,
	SeeGift:      DonorOf | anyRole,
	SeeRound:     InRound,
	SeeWhole:     anyRole,
	SeeDesign:    anyRole,
	EditDesign:   Runner,
	OpenRound:    Runner,
	ShareCare:    Runner,
	InviteReader: Runner | Chair,
	HandOut:      Runner | Chair,
	AnswerAsked:  Runner | Carer,
	Decide:       Runner | Chair,
	HoldLetters:  Runner | Chair,
	MindOffers:   Runner | Carer | Chair,
	SeeCase:      ofCase,
	WriteTo:      Runner | Carer,
	LabelCase:    Runner | Carer | Checker | Chair,
	NoteCase:     ofCase &^ Looker,
	GiveInHand:   Runner | Carer,
	MindReading:  Runner | Chair,
	MeetPeople:   Runner | Chair,
	SitPanel:     Runner | Chair | Sitter,
	MindMeeting:  Runner | Chair,
	Nudge:        Runner | Carer,
	GiveTime:     Runner | Carer,
	SettleCheck:  Runner | Checker,
	RuleBeyond:   Runner | Checker,
	ReviewTurn:   BodyMember,
	AskQuery:     Runner | Carer | Checker,
	TakeLetters:  Runner | Carer | Checker,
	RemindPeople: Runner | Carer,
	SeeFees:      anyRole,
	TakeFees:     Runner | MoneyMaker | MoneyReleaser,
	SeeFee:       anyRole,
	SettleFee:    Runner | MoneyMaker,
	AgreeBack:    Runner | MoneyReleaser,
	AnswerFee:    Runner | MoneyMaker | MoneyReleaser,
}

// Acts of a role: what it lets somebody do where it holds, in the order of the
// actions.
func (r Role) Acts() (out []Action) {
	rel := r.relation()
	switch {
	case rel == 0:
		return nil
	case r == Gives:
		rel |= DonorSomewhere
	default:
		rel |= AtOffice | InRound
	}
	if r == RunsRounds {
		rel |= RunsSomewhere
	}
	for _, a := range Actions {
		if a.ByRole() && rel.Any(atOffice[a]) {
			out = append(out, a)
		}
	}
	return out
}

// inState is when an act of the office on a case can be done; nil: at any time.
var inState = map[Action]lifecycle.Fact{GiveTime: lifecycle.Drafting, SettleCheck: lifecycle.Sealed,
	ReviewTurn: lifecycle.Sealed,
	AskQuery:   lifecycle.Sealed}

// ByRole reports an act of somebody at the office.
func (a Action) ByRole() bool { return atOffice[a] != 0 }

// Theirs reports that an act of the office is one of somebody in these relations;
// acts that are not the office's are anybody's.
func (a Action) Theirs(r Relations) bool { return !a.ByRole() || r.Any(atOffice[a]) }

// effective drops what an interest of one's own rules out: who writes an
// application does not judge it. Having said yes to reading a draft rules
// nothing out, since it ends at sending; nobody at the office or of the round's
// readers can say yes to writing (intake.MayJoin), so that naming somebody
// never takes a case from those who must handle it.
func (r Relations) effective() Relations {
	if r.Has(Lead) || r.Has(Teammate) {
		r &^= Office | ReaderOf | DonorOf | PanelOf
	}
	if r.Has(SteppedAside) {
		r &^= ReaderOf | PanelOf | Sitter | Chair
	}
	return r
}

// Answer to a request.
type Answer int8

// The answers: NotFound where the asker must not learn that the thing is
// there, Refused where they see it but may not do this now, SignIn where an
// account is needed first.
const (
	NotFound Answer = iota
	SignIn
	Refused
	Allowed
)

// String names the answer.
func (a Answer) String() string { return [...]string{"not found", "sign in", "refused", "allowed"}[a] }

// Allow answers whether somebody in these relations to a case in this state
// may act. state is "" where there is no case.
func Allow(action Action, r Relations, state lifecycle.State) Answer {
	r = r.effective()
	if action == Visit {
		return Allowed
	}
	if action == SeeTray {
		return found(r.Has(Demo))
	}
	if action == VouchFor {
		return found(r.Has(RefereeOf))
	}
	if !r.Has(SignedIn) {
		return SignIn
	}
	if who := atOffice[action]; who != 0 {
		when, only := inState[action]
		switch {
		case !r.Any(who | ofCase):
			return NotFound
		case !r.Any(who), only && !state.Is(when): // they see it; it is a colleague's to do, or not the time
			return Refused
		}
		return Allowed
	}
	team := r.Has(Lead) || r.Has(Teammate)
	switch action {
	case HaveDesk:
		return Allowed
	case ViewCase: // a commenter's access ends at sending
		return found(team || r.Has(Commenter) && state.Is(lifecycle.Drafting))
	case Comment:
		return when(team || r.Has(Commenter) && state.Is(lifecycle.Drafting), state.Open())
	case WriteCase:
		return when(team, state.Open())
	case AskPeople: // some may answer after it was sent
		return when(team, state.Open() || r.Has(Lead) && state.Is(lifecycle.In))
	case GivePromised:
		return when(team, r.Has(Lead) && state.Is(lifecycle.In))
	case AskSupport:
		return when(team, !state.Is(lifecycle.Gone))
	case AskTime:
		return when(team, r.Has(Lead) && state.Is(lifecycle.Drafting))
	case LeadCase:
		return when(team, r.Has(Lead) && state.Is(lifecycle.Drafting))
	case LeaveTeam: // at any time; the lead hands over instead
		return when(team || r.Has(Commenter), !r.Has(Lead))
	case Withdraw:
		_, err := lifecycle.Next(state, lifecycle.Withdraw, true)
		return when(team, r.Has(Lead) && err == nil)
	case AnswerOffer: // whoever accepted may still step back
		return when(team, r.Has(Lead) && state.Is(lifecycle.Answers|lifecycle.Taken))
	case PayFee:
		return when(team, state.Sealed())
	case LeadFee:
		return when(team, r.Has(Lead) && state.Sealed())
	case AnswerAfter:
		return when(team, r.Has(Lead) && state.Sealed())
	case TakeUp:
		return when(team, r.Has(Lead) && state.Is(lifecycle.Offered))
	case SendCase:
		// what was sent already may be sent again, to the same effect
		return when(team, r.Has(Lead) && state.Is(lifecycle.Drafting|lifecycle.Sealed))
	case ReadDesk:
		return found(r.Has(ReaderSomewhere))
	case ReadCase:
		return found(r.Has(ReaderOf) && state.Sealed())
	case AnswerMeet:
		return when(team, r.Has(Lead) && state.Is(lifecycle.ToMeet))
	case MeetCase:
		return found(r.Has(PanelOf) && state.Sealed())
	case MarkMeeting:
		return when(r.Has(PanelOf) && state.Sealed(), state.Is(lifecycle.ToMeet))
	case MarkCase, StepAside:
		return when(r.Has(ReaderOf) && state.Sealed(), state.Is(lifecycle.BeingRead))
	}
	return NotFound
}

func found(ok bool) Answer {
	if ok {
		return Allowed
	}
	return NotFound
}

// when: not found for a stranger, refused when it is not the time for it.
func when(related, now bool) Answer {
	switch {
	case !related:
		return NotFound
	case !now:
		return Refused
	}
	return Allowed
}
