package access

import (
	"testing"

	"ulvant/core/lifecycle"
)

// Who may do what, as a grants officer would read it out.
func TestAllow(t *testing.T) {
	const in = SignedIn
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
		{"nobody writes after sending", WriteCase, in | Lead, lifecycle.Sent, Refused},
		{"a commenter reads a draft", ViewCase, in | Commenter, lifecycle.Draft, Allowed},
		{"and comments on it", Comment, in | Commenter, lifecycle.Draft, Allowed},
		{"and changes nothing", WriteCase, in | Commenter, lifecycle.Draft, NotFound},
		{"and sees nothing once it is sent", ViewCase, in | Commenter, lifecycle.Sent, NotFound},
		{"having read a draft takes nothing from the office", SeeCase, in | Office | Commenter, lifecycle.Sent, Allowed},
		{"nor from a reader", MarkCase, in | ReaderOf | Commenter, lifecycle.Reading, Allowed},
		{"a teammate reads no case of their own", ReadCase, in | ReaderOf | Teammate, lifecycle.Reading, NotFound},
		{"a teammate leaves at any time", LeaveTeam, in | Teammate, lifecycle.Reading, Allowed},
		{"who comments leaves too", LeaveTeam, in | Commenter, lifecycle.Draft, Allowed},
		{"the lead hands over instead", LeaveTeam, in | Lead, lifecycle.Draft, Refused},
		{"what was handed back is written", WriteCase, in | Teammate, lifecycle.HandedBack, Allowed},
		{"the lead asks for more time", AskTime, in | Lead, lifecycle.Draft, Allowed},
		{"not once it is sent", AskTime, in | Lead, lifecycle.Sent, Refused},
		{"the office gives it", GiveTime, in | Office, lifecycle.Draft, Allowed},
		{"not to its own", GiveTime, in | Office | Lead, lifecycle.Draft, NotFound},
		{"nobody gives it to themselves", GiveTime, in | Lead, lifecycle.Draft, NotFound},
		{"the lead takes up an invitation", TakeUp, in | Lead, lifecycle.Invited, Allowed},
		{"the lead withdraws what was sent", Withdraw, in | Lead, lifecycle.Complete, Allowed},
		{"the lead asks others to write", LeadCase, in | Lead, lifecycle.Draft, Allowed},
		{"not after sending", LeadCase, in | Lead, lifecycle.Sent, Refused},
		{"a teammate asks nobody", LeadCase, in | Teammate, lifecycle.Draft, Refused},
		{"not what is decided", Withdraw, in | Lead, lifecycle.Awarded, Refused},
		{"nor may a teammate", Withdraw, in | Teammate, lifecycle.Draft, Refused},
		{"another's is not found", Withdraw, in | Office, lifecycle.Draft, NotFound},
		{"once", TakeUp, in | Lead, lifecycle.Draft, Refused},
		{"nobody writes before it is taken up", WriteCase, in | Lead, lifecycle.Invited, Refused},
		{"the office does not see a stage that is not sent as sealed", HandleCase, in | Office, lifecycle.Invited, Refused},
		{"a teammate writes", WriteCase, in | Teammate, lifecycle.Draft, Allowed},
		{"but only the lead sends", SendCase, in | Teammate, lifecycle.Draft, Refused},
		{"another's case is not found", ViewCase, in, lifecycle.Draft, NotFound},
		{"not for the office either, on the applicant's pages", WriteCase, in | Office, lifecycle.Draft, NotFound},
		{"the office sees every case", SeeCase, in | Office, lifecycle.Draft, Allowed},
		{"but settles only what was sent", HandleCase, in | Office, lifecycle.Draft, Refused},
		{"an officer who applies is an applicant there", SeeCase, in | Office | Lead, lifecycle.Sent, NotFound},
		{"a reader marks while reading", MarkCase, in | ReaderOf, lifecycle.Reading, Allowed},
		{"and not afterwards", MarkCase, in | ReaderOf, lifecycle.Read, Refused},
		{"a reader who stepped aside sees nothing", ReadCase, in | ReaderOf | SteppedAside, lifecycle.Reading, NotFound},
		{"a reader who applies does not mark it", MarkCase, in | ReaderOf | Lead, lifecycle.Reading, NotFound},
		{"a referee needs the link, not an account", VouchFor, RefereeOf, lifecycle.Draft, Allowed},
		{"without it there is nothing there", VouchFor, in | Office, lifecycle.Draft, NotFound},
		{"the tray is the demo's alone", SeeTray, in | Office, "", NotFound},
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
				if !rel.Has(SignedIn) && got == Allowed && act != Visit && !(act == VouchFor && rel == RefereeOf) && !(act == SeeTray && rel == Demo) {
					t.Errorf("%s as %b without signing in: %s", act, rel, got)
				}
				if rel == SignedIn && got == Allowed && act != Visit && act != HaveDesk {
					t.Errorf("a stranger may %s a case that is %q", act, s)
				}
			}
		}
	}
}
