package lifecycle

import (
	"slices"
	"testing"
)

func TestTable(t *testing.T) {
	for _, c := range []struct {
		from  State
		event Event
		to    State
		ok    bool
	}{
		{Invited, Send, "", false}, {Invited, TakeUp, Draft, true}, {Read, InviteOn, InvitedOn, true}, {InvitedOn, Award, "",
			false},
		{Draft, Send, Sent, true}, {Sent, Send, "", false}, {Sent, FindEligible, Eligible, true},
		{Eligible, Refuse, NotEligible, true}, {NotEligible, FindEligible, Eligible, true},
		{Eligible, HandBack, HandedBack, true}, {HandedBack, Send, Sent, true}, {HandedBack, RunOut, Sent,
			true}, {HandedBack, TakeQuery, Sent, true},
		{Reading, HandBack, "", false}, {Read, HandBack, "", false}, {Awarded, HandBack, "", false}, {Draft, HandBack, "",
			false}, {HandedBack, HandOut, "", false}, {Sent, RunOut, "", false},
		{Draft, Award, "", false}, {Eligible, Award, "", false}, {Read, Award, Awarded, true},
		{Read, CallIn, Interview, true}, {Eligible, CallIn, "", false}, {Interview, Award, "", false},
		{Interview, FinishMeet, Read, true}, {Interview, CallOff, Read, true}, {Read, FinishMeet, "", false},
		{Interview, Withdraw, Withdrawn, true},
		{Reserve, Award, Awarded, true}, {Awarded, Decline, "", false}, {Awarded, Withdraw, "", false},
	} {
		s, err := Next(c.from, c.event, true)
		if (err == nil) != c.ok || s.To != c.to {
			t.Errorf("%s, %s: %q %v, want %q", c.from, c.event, s.To, err, c.to)
		}
	}
}

// A recorded decision gives way to another, with a reason; what a case has not
// come to is not revised.
func TestRevise(t *testing.T) {
	for _, c := range []struct {
		from  State
		event Event
		to    State
		ok    bool
	}{
		{Awarded, Award, Awarded, true}, {Awarded, Hold, Reserve, true}, {Awarded, Decline, NotAwarded, true},
		{NotAwarded, Award, Awarded, true}, {NotAwarded, Hold, Reserve, true}, {NotAwarded, InviteOn, InvitedOn,
			true}, {NotAwarded, Decline, "", false},
		{InvitedOn, Decline, NotAwarded, true}, {InvitedOn, Hold, Reserve, true}, {InvitedOn, Award, "", false},
		{Reserve, Award, "", false}, {Read, Award, "", false}, {Withdrawn, Award, "", false}, {Awarded, Withdraw, "", false},
	} {
		if s, err := Revise(c.from, c.event); (err == nil) != c.ok || s.To != c.to {
			t.Errorf("%s, %s: %q %v, want %q", c.from, c.event, s.To, err, c.to)
		}
	}
	for letter, want := range map[string]State{"awarded": Awarded, "not-awarded": NotAwarded, "reserve": Reserve,
		"invited": InvitedOn, "not-eligible": NotEligible, "received": "", "": "", "reminder": ""} {
		if got := Tells(letter); got != want {
			t.Errorf("the letter %q tells of %q, want %q", letter, got, want)
		}
	}
}

// A stage that nobody reads is decided as soon as it is eligible.
func TestDecidedUnread(t *testing.T) {
	for _, e := range []Event{CallIn, InviteOn, Award, Hold, Decline} {
		if _, err := Next(Eligible, e, true); err == nil {
			t.Errorf("%s before it was read", e)
		}
		if _, err := Next(Eligible, e, false); err != nil {
			t.Errorf("nobody reads it: %v", err)
		}
		if _, err := Next(Complete, e, false); err == nil {
			t.Errorf("%s before it was found eligible", e)
		}
	}
}

// Every state can be reached from an invitation, and no event leads two ways from one state.
func TestEveryStateIsReached(t *testing.T) {
	reached := []State{Invited}
	for i := 0; i < len(reached); i++ {
		for _, s := range Table {
			if slices.Contains(s.From, reached[i]) && !slices.Contains(reached, s.To) {
				reached = append(reached, s.To)
			}
		}
	}
	for _, s := range States() {
		if s != Lapsed && !slices.Contains(reached, s) {
			t.Errorf("%s cannot be reached", s)
		}
		seen := map[Event]bool{}
		for _, step := range Table {
			if slices.Contains(step.From, s) {
				if seen[step.Event] {
					t.Errorf("%s leads two ways from %s", step.Event, s)
				}
				seen[step.Event] = true
			}
		}
	}
}
