package lifecycle

import "testing"

// Of a round in its middle: every application is counted once among those begun.
func TestFlowOf(t *testing.T) {
	got := FlowOf(map[State]int{Invited: 1, Draft: 10, Sent: 2, HandedBack: 4, Complete: 3, Eligible: 5, NotEligible: 6,
		Reading: 7, Read: 8, InvitedOn: 9, Awarded: 17, OnOffer: 1, Accepted: 2, OfferDown: 3, OfferLapsed: 4,
		Reserve: 30, NotAwarded: 40, Withdrawn: 50, Lapsed: 60})
	want := Flow{Begun: 262, Open: 11, Lapsed: 60, Withdrawn: 50, Sent: 141, Checking: 5, NotEligible: 6, Reading: 20,
		Awarded: 20, CameBack: 7, Reserve: 30, NotAwarded: 40}
	if got != want {
		t.Errorf("%+v, want %+v", got, want)
	}
	if got.Open+got.Lapsed+got.Withdrawn+got.Sent != got.Begun {
		t.Error("what was begun is not what it went to")
	}
	if FlowOf(nil) != (Flow{}) {
		t.Error("nothing flows somewhere")
	}
}
