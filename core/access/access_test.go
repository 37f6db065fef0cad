package access

import (
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/lifecycle"
)

// Who may do what, as a grants officer would read it out.
func TestAllow(t *testing.T) {
	const in, runs = SignedIn, AtOffice | InRound | Runner
	const checks, looks, chairs, cares = AtOffice | InRound | Checker, AtOffice | InRound | Looker,
		AtOffice | InRound | Chair, AtOffice | InRound | Carer
	for _, c := range []struct {
		what  string
		act   Action
		rel   Relations
		state lifecycle.State
		want  Answer
	}{
		{"anyone reads public pages", Visit, 0, "", Allowed},
		{"a desk needs an account", HaveDesk, 0, "", SignIn},
		{"the lead writes a draft", WriteCase, in | Lead, lifecycle.Draft, Allowed},
		{"the lead gives what was to follow", GivePromised, in | Lead, lifecycle.Complete, Allowed},
		{"nothing follows a draft", GivePromised, in | Lead, lifecycle.Draft, Refused},
		{"a teammate's access has ended", GivePromised, in | Teammate, lifecycle.Sent, Refused},
		{"a teammate asks people while it is written", AskPeople, in | Teammate, lifecycle.Draft, Allowed},
		{"the lead asks those who may answer after sending", AskPeople, in | Lead, lifecycle.Sent, Allowed},
		{"a teammate does not", AskPeople, in | Teammate, lifecycle.Sent, Refused},
		{"nor the lead of one taken back", AskPeople, in | Lead, lifecycle.Withdrawn, Refused},
		{"nor the office in their name", AskPeople, in | runs, lifecycle.Draft, NotFound},
		{"nobody writes after sending", WriteCase, in | Lead, lifecycle.Sent, Refused},
		{"a commenter reads a draft", ViewCase, in | Commenter, lifecycle.Draft, Allowed},
		{"and comments on it", Comment, in | Commenter, lifecycle.Draft, Allowed},
		{"and changes nothing", WriteCase, in | Commenter, lifecycle.Draft, NotFound},
		{"and sees nothing once it is sent", ViewCase, in | Commenter, lifecycle.Sent, NotFound},
		{"having read a draft takes nothing from the office", SeeCase, in | runs | Commenter, lifecycle.Sent, Allowed},
		{"nor from a reader", MarkCase, in | ReaderOf | Commenter, lifecycle.Reading, Allowed},
		{"a teammate reads no case of their own", ReadCase, in | ReaderOf | Teammate, lifecycle.Reading, NotFound},
		{"a teammate leaves at any time", LeaveTeam, in | Teammate, lifecycle.Reading, Allowed},
		{"who comments leaves too", LeaveTeam, in | Commenter, lifecycle.Draft, Allowed},
		{"the lead hands over instead", LeaveTeam, in | Lead, lifecycle.Draft, Refused},
		{"what was handed back is written", WriteCase, in | Teammate, lifecycle.HandedBack, Allowed},
		{"the lead asks for more time", AskTime, in | Lead, lifecycle.Draft, Allowed},
		{"a teammate asks for support", AskSupport, in | Teammate, lifecycle.Draft, Allowed},
		{"after it was sent too", AskSupport, in | Lead, lifecycle.Complete, Allowed},
		{"not once it was withdrawn", AskSupport, in | Lead, lifecycle.Withdrawn, Refused},
		{"nobody else asks for them", AskSupport, in, lifecycle.Draft, NotFound},
		{"not once it is sent", AskTime, in | Lead, lifecycle.Sent, Refused},
		{"the office gives it", GiveTime, in | runs, lifecycle.Draft, Allowed},
		{"not to its own", GiveTime, in | runs | Lead, lifecycle.Draft, NotFound},
		{"nobody gives it to themselves", GiveTime, in | Lead, lifecycle.Draft, NotFound},
		{"the lead takes up an invitation", TakeUp, in | Lead, lifecycle.Invited, Allowed},
		{"the lead withdraws what was sent", Withdraw, in | Lead, lifecycle.Complete, Allowed},
		{"the lead asks others to write", LeadCase, in | Lead, lifecycle.Draft, Allowed},
		{"not after sending", LeadCase, in | Lead, lifecycle.Sent, Refused},
		{"whoever writes it pays for it", PayFee, in | Teammate, lifecycle.Owing, Allowed},
		{"not before it is sealed", PayFee, in | Lead, lifecycle.Draft, Refused},
		{"the lead says who else pays", LeadFee, in | Lead, lifecycle.Owing, Allowed},
		{"a teammate does not", LeadFee, in | Teammate, lifecycle.Owing, Refused},
		{"nor the office", LeadFee, in | runs, lifecycle.Owing, NotFound},
		{"who checks lets nobody off", SettleFee, in | checks, lifecycle.Owing, Refused},
		{"who prepares money does", SettleFee, in | AtOffice | InRound | MoneyMaker, lifecycle.Owing, Allowed},
		{"and does not agree to it", AgreeBack, in | AtOffice | InRound | MoneyMaker, lifecycle.Sent, Refused},
		{"who releases it agrees", AgreeBack, in | AtOffice | InRound | MoneyReleaser, lifecycle.Sent, Allowed},
		{"who is owed a fee withdraws", Withdraw, in | Lead, lifecycle.Owing, Allowed},
		{"a teammate asks nobody", LeadCase, in | Teammate, lifecycle.Draft, Refused},
		{"not what is decided", Withdraw, in | Lead, lifecycle.Awarded, Refused},
		{"the lead answers what is offered", AnswerOffer, in | Lead, lifecycle.OnOffer, Allowed},
		{"and may step back from it", AnswerOffer, in | Lead, lifecycle.Accepted, Allowed},
		{"not before it is told", AnswerOffer, in | Lead, lifecycle.Awarded, Refused},
		{"nor once it came back", AnswerOffer, in | Lead, lifecycle.OfferLapsed, Refused},
		{"a teammate answers nothing", AnswerOffer, in | Teammate, lifecycle.OnOffer, Refused},
		{"the office has an action of its own for it", AnswerOffer, in | runs, lifecycle.OnOffer, NotFound},
		{"nor may a teammate", Withdraw, in | Teammate, lifecycle.Draft, Refused},
		{"another's is not found", Withdraw, in | runs, lifecycle.Draft, NotFound},
		{"once", TakeUp, in | Lead, lifecycle.Draft, Refused},
		{"nobody writes before it is taken up", WriteCase, in | Lead, lifecycle.Invited, Refused},
		{"the office does not see a stage that is not sent as sealed", SettleCheck, in | runs, lifecycle.Invited, Refused},
		{"a teammate writes", WriteCase, in | Teammate, lifecycle.Draft, Allowed},
		{"but only the lead sends", SendCase, in | Teammate, lifecycle.Draft, Refused},
		{"another's case is not found", ViewCase, in, lifecycle.Draft, NotFound},
		{"not for the office either, on the applicant's pages", WriteCase, in | runs, lifecycle.Draft, NotFound},
		{"the office sees every case", SeeCase, in | runs, lifecycle.Draft, Allowed},
		{"but settles only what was sent", SettleCheck, in | runs, lifecycle.Draft, Refused},
		{"an officer who applies is an applicant there", SeeCase, in | runs | Lead, lifecycle.Sent, NotFound},
		{"a reader marks while reading", MarkCase, in | ReaderOf, lifecycle.Reading, Allowed},
		{"and not afterwards", MarkCase, in | ReaderOf, lifecycle.Read, Refused},
		{"a reader who stepped aside sees nothing", ReadCase, in | ReaderOf | SteppedAside, lifecycle.Reading, NotFound},
		{"a reader who applies does not mark it", MarkCase, in | ReaderOf | Lead, lifecycle.Reading, NotFound},
		{"the lead answers an invitation to an interview", AnswerMeet, in | Lead, lifecycle.Interview, Allowed},
		{"a teammate does not", AnswerMeet, in | Teammate, lifecycle.Interview, Refused},
		{"not before there is one", AnswerMeet, in | Lead, lifecycle.Read, Refused},
		{"who is of the panel marks whom they meet", MarkMeeting, in | PanelOf, lifecycle.Interview, Allowed},
		{"and not afterwards", MarkMeeting, in | PanelOf, lifecycle.Read, Refused},
		{"but sees the case", MeetCase, in | PanelOf, lifecycle.Read, Allowed},
		{"not the panel's own teammate", MeetCase, in | PanelOf | Teammate, lifecycle.Interview, NotFound},
		{"nor who stepped aside", MarkMeeting, in | PanelOf | SteppedAside, lifecycle.Interview, NotFound},
		{"a reader is not of the panel", MeetCase, in | ReaderOf, lifecycle.Interview, NotFound},
		{"who sits on the panel and stepped out of a case does not see it", SeeCase,
			in | AtOffice | InRound | Sitter | SteppedAside, lifecycle.Read, NotFound},
		{"nor who chairs", SeeCase, in | chairs | SteppedAside, lifecycle.Read, NotFound},
		{"who chairs invites people", MeetPeople, in | chairs, "", Allowed},
		{"and who checks does not", MeetPeople, in | checks, "", Refused},
		{"a referee needs the link, not an account", VouchFor, RefereeOf, lifecycle.Draft, Allowed},
		{"without it there is nothing there", VouchFor, in | runs, lifecycle.Draft, NotFound},
		{"who checks settles", SettleCheck, in | checks, lifecycle.Complete, Allowed},
		{"and sees that others decide", Decide, in | checks, "", Refused},
		{"who chairs decides", Decide, in | chairs, "", Allowed},
		{"and settles no check", SettleCheck, in | chairs, lifecycle.Complete, Refused},
		{"who looks after cases asks the applicant", AskQuery, in | cares, lifecycle.Sent, Allowed},
		{"and gives time while it is written", GiveTime, in | cares, lifecycle.Draft, Allowed},
		{"and not afterwards", GiveTime, in | cares, lifecycle.Sent, Refused},
		{"and changes no design", EditDesign, in | cares, "", Refused},
		{"who looks only sees the design", SeeDesign, in | looks, "", Allowed},
		{"and changes nothing of it", EditDesign, in | looks, "", Refused},
		{"who prepares money sees a case", SeeCase, in | AtOffice | InRound | MoneyMaker, lifecycle.Awarded, Allowed},
		{"who releases it decides nothing", Decide, in | AtOffice | InRound | MoneyReleaser, "", Refused},
		{"whose role is for another round finds none here", SeeWhole, in | AtOffice, "", NotFound},
		{"nor a case", SeeCase, in | AtOffice, lifecycle.Sent, NotFound},
		{"but has a desk", SeeDesk, in | AtOffice, "", Allowed},
		{"whose role is for a part of the round sees that it is there", SeeRound, in | AtOffice | InRound, "", Allowed},
		{"and not all of it", SeeWhole, in | AtOffice | InRound, "", NotFound},
		{"who looks only and applies sees nothing of it at the office", SeeCase, in | looks | Teammate, lifecycle.Sent,
			NotFound},
		{"the tray is the demo's alone", SeeTray, in | runs, "", NotFound},
	} {
		if got := Allow(c.act, c.rel, c.state); got != c.want {
			t.Errorf("%s: %s", c.what, got)
		}
	}
}

// Over every action, relation and state: strangers learn nothing about a
// case, and nobody without an account gets past a public page or a link.
func TestNobodyGetsInByTheBack(t *testing.T) {
	for _, act := range Actions {
		for _, s := range append(lifecycle.States(), "") {
			for _, rel := range append(All, 0) {
				got := Allow(act, rel, s)
				if !rel.Has(SignedIn) && got == Allowed && act != Visit && !(act == VouchFor && rel == RefereeOf) &&
					!(act == SeeTray && rel == Demo) {
					t.Errorf("%s as %b without signing in: %s", act, rel, got)
				}
				if rel == SignedIn && got == Allowed && act != Visit && act != HaveDesk {
					t.Errorf("a stranger may %s a case that is %q", act, s)
				}
			}
		}
	}
}

// What roles make of somebody, by where they hold and until when.
func TestOf(t *testing.T) {
	now := time.Date(2027, 3, 1, 12, 0, 0, 0, time.UTC)
	over, later := now, now.Add(time.Minute)
	shore := About{Programme: "Shore", Round: 7, Place: "Corvoe"}
	for _, c := range []struct {
		name  string
		roles []Held
		about About
		want  Relations
	}{
		{"none", nil, shore, 0},
		{"the whole office", []Held{{Role: RunsRounds}}, shore,
			AtOffice | InRound | Runner | RunsSomewhere},
		{"the whole office, nothing named", []Held{{Role: RunsRounds}}, About{}, AtOffice | Runner | RunsSomewhere},
		{"runs a programme, nothing named", []Held{{Role: RunsRounds, Scope: Scope{Programme: "Shore"}}}, About{},
			AtOffice | RunsSomewhere},
		{"runs an area alone", []Held{{Role: RunsRounds, Scope: Scope{Round: 7, Place: "Corvoe"}}}, shore,
			AtOffice | InRound | Runner},
		{"sits on its panel", []Held{{Role: Sits, Scope: Scope{Round: 7}}}, shore, AtOffice | InRound | Sitter},
		{"a body that the case is for", []Held{{Role: Reviews, Scope: Scope{Round: 7, Body: "islands"}}},
			About{Round: 7, Bodies: []string{"peat", "islands"}}, AtOffice | InRound | BodyMember},
		{"a body that the case is not for", []Held{{Role: Reviews, Scope: Scope{Round: 7, Body: "islands"}}},
			About{Round: 7, Bodies: []string{"peat"}}, AtOffice | InRound},
		{"a body, and the round named", []Held{{Role: Reviews, Scope: Scope{Round: 7, Body: "islands"}}}, About{Round: 7},
			AtOffice | InRound},
		{"a donor, of a case", []Held{{Role: Gives, Scope: Scope{Round: 7, Award: "oar"}}}, shore, DonorSomewhere},
		{"a donor, of their award", []Held{{Role: Gives, Scope: Scope{Round: 7, Award: "oar"}}},
			About{Round: 7, Award: "oar"}, DonorSomewhere | DonorOf},
		{"a donor, of another award", []Held{{Role: Gives, Scope: Scope{Round: 7, Award: "oar"}}},
			About{Round: 7, Award: "keel"}, DonorSomewhere},
		{"a donor, of the same award last year", []Held{{Role: Gives, Scope: Scope{Round: 7, Award: "oar"}}},
			About{Round: 6, Award: "oar"}, DonorSomewhere},
		{"its programme", []Held{{Role: Checks, Scope: Scope{Programme: "Shore"}}}, shore, AtOffice | InRound | Checker},
		{"another programme", []Held{{Role: Checks, Scope: Scope{Programme: "Boats"}}}, shore, AtOffice},
		{"its programme, nothing named", []Held{{Role: Checks, Scope: Scope{Programme: "Shore"}}}, About{}, AtOffice},
		{"its round", []Held{{Role: Chairs, Scope: Scope{Round: 7}}}, shore, AtOffice | InRound | Chair},
		{"another round", []Held{{Role: Chairs, Scope: Scope{Round: 8}}}, shore, AtOffice},
		{"its area", []Held{{Role: LooksAfter, Scope: Scope{Round: 7, Place: "Corvoe"}}}, shore, AtOffice | InRound | Carer},
		{"another area of its round", []Held{{Role: LooksAfter, Scope: Scope{Round: 7, Place: "Tarl"}}}, shore,
			AtOffice | InRound},
		{"an area, and the round named", []Held{{Role: LooksAfter, Scope: Scope{Round: 7, Place: "Corvoe"}}},
			About{Programme: "Shore", Round: 7}, AtOffice | InRound},
		{"until later", []Held{{Role: LooksOnly, Until: &later}}, shore, AtOffice | InRound | Looker},
		{"over on the instant", []Held{{Role: LooksOnly, Until: &over}}, shore, 0},
		{"two", []Held{{Role: PreparesMoney}, {Role: ReleasesMoney, Scope: Scope{Round: 8}}}, shore,
			AtOffice | InRound | MoneyMaker},
		{"no role of ours", []Held{{Role: "sweeps the floor"}}, shore, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := Of(c.roles, c.about, now); got != c.want {
				t.Errorf("%b, want %b", got, c.want)
			}
		})
	}
}

// What of the office's lists is seen.
func TestSees(t *testing.T) {
	now := time.Date(2027, 3, 1, 12, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name  string
		roles []Held
		want  Sight
	}{
		{"nothing", nil, Sight{}},
		{"all", []Held{{Role: Checks, Scope: Scope{Round: 7}}, {Role: LooksOnly}}, Sight{All: true}},
		{"a programme", []Held{{Role: Checks, Scope: Scope{Programme: "Shore"}}}, Sight{Programmes: []string{"Shore"}}},
		{"two areas of a round", []Held{{Role: LooksAfter, Scope: Scope{Round: 7, Place: "Tarl"}},
			{Role: Checks, Scope: Scope{Round: 7, Place: "Corvoe"}}},
			Sight{Rounds: []int64{7}, Parts: map[int64][]Part{7: {{Place: "Tarl"}, {Place: "Corvoe"}}}}},
		{"an area, and the whole round besides", []Held{{Role: LooksAfter, Scope: Scope{Round: 7, Place: "Tarl"}},
			{Role: LooksOnly, Scope: Scope{Round: 7}}},
			Sight{Rounds: []int64{7}, Parts: map[int64][]Part{}}},
		{"what is over", []Held{{Role: RunsRounds, Until: &now}}, Sight{}},
		{"a body’s cases", []Held{{Role: Reviews, Scope: Scope{Round: 7, Body: "islands"}}},
			Sight{Rounds: []int64{7}, Parts: map[int64][]Part{7: {{Body: "islands"}}}}},
		{"a body of no round", []Held{{Role: Reviews}}, Sight{}},
		{"a donor", []Held{{Role: Gives, Scope: Scope{Round: 7, Award: "oar"}}}, Sight{}},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := Sees(c.roles, now); !reflect.DeepEqual(got, c.want) {
				t.Errorf("%+v, want %+v", got, c.want)
			}
		})
	}
}

// Every act of the office is done by those who run rounds, every role sees what
// it is for, and who looks only changes nothing.
func TestRolesAndActs(t *testing.T) {
	sees := map[Action]bool{SeeDesk: true, SeeBodies: true, SeeRound: true, SeeWhole: true, SeeDesign: true, SeeCase: true,
		SeeFees: true, SeeFee: true, ShapeList: true, SeeOffice: true, SeeGift: true}
	donors := map[Action]bool{SeeGifts: true, SeeGift: true}
	for _, act := range Actions {
		if !act.ByRole() {
			continue
		}
		ever := func(r Relations) bool {
			for _, s := range append(lifecycle.States(), "") {
				if Allow(act, SignedIn|r, s) == Allowed {
					return true
				}
			}
			return false
		}
		if !ever(AtOffice|InRound|Runner|RunsSomewhere) && act != SeeGifts && act != ReviewTurn { // what is others’ alone
			t.Errorf("nobody may %s", act)
		}
		if ever(DonorOf|DonorSomewhere) != donors[act] {
			t.Errorf("a donor may %s: %v", act, !donors[act])
		}
		if ever(AtOffice|InRound|Looker) != sees[act] {
			t.Errorf("who looks only may %s: %v", act, !sees[act])
		}
		if ever(0) {
			t.Errorf("anybody may %s", act)
		}
	}
	for _, r := range Roles {
		if r.relation() == 0 || !slices.Contains(All, r.relation()) {
			t.Errorf("%s makes nobody anything", r)
		}
	}
}

// What a reader does with a case, and every way of working at the office.
func TestKindsOfActs(t *testing.T) {
	for _, a := range Actions {
		if reads := a == ReadCase || a == MarkCase || a == StepAside; a.Reads() != reads {
			t.Errorf("%s: a reader's is %v", a, !reads)
		}
	}
	for _, r := range All {
		office := slices.Contains([]Relations{AtOffice, InRound, Runner, Carer, Checker, MoneyMaker, MoneyReleaser, Chair,
			Looker, Sitter, BodyMember, RunsSomewhere}, r)
		if Office.Has(r) != office || r.Any(Office) != office {
			t.Errorf("%b is of the office: %v", r, !office)
		}
	}
	for _, r := range []Relations{Runner, Carer, Checker, MoneyMaker, MoneyReleaser, Chair, Looker, Sitter} {
		if Allow(SeeCase, SignedIn|r, lifecycle.Sent) != Allowed || Allow(SeeWhole, SignedIn|r, "") != Allowed {
			t.Errorf("%b does not see the round", r)
		}
		if Allow(SeeCase, SignedIn|r|Lead, lifecycle.Sent) != NotFound {
			t.Errorf("%b sees their own case as the office", r)
		}
	}
}

// Who may give which role: whoever runs rounds, as far as they run them.
func TestMayGive(t *testing.T) {
	now := time.Date(2027, 3, 1, 12, 0, 0, 0, time.UTC)
	whole := Held{Role: RunsRounds}
	shore := Held{Role: RunsRounds, Scope: Scope{Programme: "Shore"}}
	round := Held{Role: RunsRounds, Scope: Scope{Programme: "Shore", Round: 7}}
	tarl := Held{Role: RunsRounds, Scope: Scope{Programme: "Shore", Round: 7, Place: "Tarl"}}
	for _, c := range []struct {
		name  string
		roles []Held
		give  Scope
		want  bool
	}{
		{"nobody", nil, Scope{}, false},
		{"who checks", []Held{{Role: Checks}}, Scope{Round: 7}, false},
		{"who runs all, for all", []Held{whole}, Scope{}, true},
		{"who runs all, for an area", []Held{whole}, Scope{Programme: "Shore", Round: 7, Place: "Tarl"}, true},
		{"who runs a programme, for all", []Held{shore}, Scope{}, false},
		{"who runs a programme, for it", []Held{shore}, Scope{Programme: "Shore"}, true},
		{"who runs a programme, for a round of it", []Held{shore}, Scope{Programme: "Shore", Round: 7}, true},
		{"who runs a programme, for another", []Held{shore}, Scope{Programme: "Boats"}, false},
		{"who runs a round, for its programme", []Held{round}, Scope{Programme: "Shore"}, false},
		{"who runs a round, for a body of it", []Held{round}, Scope{Programme: "Shore", Round: 7, Body: "islands"}, true},
		{"who runs a round, for another", []Held{round}, Scope{Programme: "Shore", Round: 8}, false},
		{"who runs an area", []Held{tarl}, Scope{Programme: "Shore", Round: 7, Place: "Tarl"}, false},
		{"who ran all", []Held{{Role: RunsRounds, Until: &now}}, Scope{}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := MayGive(c.roles, Held{Role: Checks, Scope: c.give}, now); got != c.want {
				t.Errorf("%v, want %v", got, c.want)
			}
		})
	}
}

// Where a role can hold.
func TestFits(t *testing.T) {
	for _, c := range []struct {
		name string
		held Held
		want bool
	}{
		{"checks, everywhere", Held{Role: Checks}, true},
		{"checks an area", Held{Role: Checks, Scope: Scope{Round: 7, Place: "Tarl"}}, true},
		{"checks an area of no round", Held{Role: Checks, Scope: Scope{Place: "Tarl"}}, false},
		{"checks for a body", Held{Role: Checks, Scope: Scope{Round: 7, Body: "islands"}}, false},
		{"checks an award", Held{Role: Checks, Scope: Scope{Round: 7, Award: "oar"}}, false},
		{"reviews for a body", Held{Role: Reviews, Scope: Scope{Round: 7, Body: "islands"}}, true},
		{"reviews for nobody", Held{Role: Reviews, Scope: Scope{Round: 7}}, false},
		{"reviews for a body of no round", Held{Role: Reviews, Scope: Scope{Body: "islands"}}, false},
		{"gives an award", Held{Role: Gives, Scope: Scope{Round: 7, Award: "oar"}}, true},
		{"gives nothing", Held{Role: Gives, Scope: Scope{Round: 7}}, false},
		{"gives an award for a body", Held{Role: Gives, Scope: Scope{Round: 7, Award: "oar", Body: "islands"}}, false},
		{"no role of ours", Held{Role: "sweeps the floor"}, false},
	} {
		if got := c.held.Fits(); got != c.want {
			t.Errorf("%s: %v", c.name, got)
		}
	}
}

// What of a round that is seen in part is shown.
func TestShows(t *testing.T) {
	s := Sight{Parts: map[int64][]Part{7: {{Place: "Tarl"}, {Body: "islands"}}}}
	for _, c := range []struct {
		round  int64
		place  string
		bodies []string
		want   bool
	}{{7, "Tarl", nil, true}, {7, "Corvoe", nil, false}, {7, "Corvoe", []string{"islands"}, true},
		{8, "Tarl", nil, false}} {
		if got := s.Shows(c.round, c.place, c.bodies); got != c.want {
			t.Errorf("round %d, %s, %v: %v", c.round, c.place, c.bodies, got)
		}
	}
}

// Who else than those who run rounds does what changes something, by their roles.
func TestWhoDoesWhat(t *testing.T) {
	for act, roles := range map[Action]string{
		MakeRound: "", SetOffice: "", EditDesign: "", OpenRound: "", InviteReader: "chairs", HandOut: "chairs",
		MindReading: "chairs", MeetPeople: "chairs", SitPanel: "chairs, sits on the panel", MindMeeting: "chairs",
		ShareCare: "",
		LookOver:  "checks", Decide: "chairs", HoldLetters: "chairs", MindOffers: "looks after cases, chairs",
		AnswerAsked: "looks after cases", Nudge: "looks after cases",
		GiveTime: "looks after cases", WriteTo: "looks after cases", GiveInHand: "looks after cases",
		RemindPeople: "looks after cases",
		SettleCheck:  "checks", AskQuery: "looks after cases, checks", TakeLetters: "looks after cases, checks",
		LabelCase: "looks after cases, checks, chairs", TakeFees: "prepares money, releases money",
		SettleFee: "prepares money",
		AgreeBack: "releases money", AnswerFee: "prepares money, releases money",
		NoteCase: "looks after cases, checks, prepares money, releases money, chairs, sits on the panel, reviews for a body",
	} {
		var got []string
		for _, r := range Roles {
			if r != RunsRounds && slices.Contains(r.Acts(), act) {
				got = append(got, string(r))
			}
		}
		if strings.Join(got, ", ") != roles {
			t.Errorf("%s: %s, want %s", act, strings.Join(got, ", "), roles)
		}
	}
}
