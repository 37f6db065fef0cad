package lifecycle

import (
	"slices"
	"testing"
)

// What each state is, as an officer would say it.
func TestStates(t *testing.T) {
	type is struct {
		sealed, writing, open, decided, ended bool
		move                                  Move
	}
	want := map[State]is{
		Invited:     {writing: true, move: Applicant},
		Draft:       {writing: true, open: true, move: Applicant},
		Owing:       {sealed: true, move: Applicant},
		Unpaid:      {sealed: true, ended: true, move: Nobody},
		Sent:        {sealed: true, move: Office},
		HandedBack:  {sealed: true, open: true, move: Applicant},
		Complete:    {sealed: true, move: Office},
		Eligible:    {sealed: true, move: Office},
		NotEligible: {sealed: true, ended: true, move: Nobody},
		Reading:     {sealed: true, move: Reader},
		Read:        {sealed: true, move: Office},
		Interview:   {sealed: true, move: Office},
		InvitedOn:   {sealed: true, decided: true, ended: true, move: Nobody},
		Awarded:     {sealed: true, decided: true, ended: true, move: Nobody},
		OnOffer:     {sealed: true, decided: true, move: Applicant},
		Accepted:    {sealed: true, decided: true, ended: true, move: Nobody},
		OfferDown:   {sealed: true, decided: true, ended: true, move: Nobody},
		OfferLapsed: {sealed: true, decided: true, ended: true, move: Nobody},
		Reserve:     {sealed: true, decided: true, move: Office},
		NotAwarded:  {sealed: true, decided: true, ended: true, move: Nobody},
		Withdrawn:   {sealed: true, ended: true, move: Nobody},
		Lapsed:      {ended: true, move: Nobody},
	}
	if len(want) != len(States()) {
		t.Fatalf("%d states are described, there are %d", len(want), len(States()))
	}
	for _, s := range States() {
		if got := (is{s.Sealed(), s.Writing(), s.Open(), s.Decided(), s.Is(Ended), MoveIn(s)}); got != want[s] {
			t.Errorf("%s: %+v, want %+v", s, got, want[s])
		}
	}
}

// What a stage can be decided with, by which event, and which letters follow.
func TestOutcomes(t *testing.T) {
	for _, c := range []struct {
		last bool
		want []State
	}{{true, []State{Awarded, Reserve, NotAwarded}}, {false, []State{InvitedOn, Reserve, NotAwarded}}} {
		got := Outcomes(c.last)
		if !slices.Equal(got, c.want) {
			t.Errorf("last %v: %v, want %v", c.last, got, c.want)
		}
		for _, s := range got {
			event, ok := OutcomeEvent(s)
			step, err := Next(Read, event, true)
			if !ok || err != nil || step.To != s || !s.Decided() {
				t.Errorf("%s: by %q to %s, %v", s, event, step.To, err)
			}
			if !Writes(step.Letter) {
				t.Errorf("%s: nobody is told", s)
			}
			if _, err := Next(Eligible, event, true); err == nil {
				t.Errorf("%s before anybody has read it", s)
			}
			if _, err := Next(Eligible, event, false); err != nil {
				t.Errorf("%s where nobody reads: %v", s, err)
			}
		}
	}
	for _, s := range States() {
		if _, ok := OutcomeEvent(s.Outcome()); ok != s.Decided() {
			t.Errorf("%s is recorded: %v", s, ok)
		}
	}
	if Writes("") || Writes("draft-reminder") || !Writes("received") {
		t.Error("which letters the table sends")
	}
}

// Which states each fact is true of, as they are asked for from PostgreSQL.
func TestFacts(t *testing.T) {
	for name, c := range map[string]struct {
		fact Fact
		want []State
	}{
		"offered":     {Offered, []State{Invited}},
		"drafting":    {Drafting, []State{Draft}},
		"queried":     {Queried, []State{HandedBack}},
		"to check":    {ToCheck, []State{Sent}},
		"to settle":   {ToSettle, []State{Complete}},
		"settles":     {Settles, []State{Complete, Eligible, NotEligible}},
		"turned down": {TurnedDown, []State{NotEligible}},
		"to read":     {ToRead, []State{Eligible}},
		"being read":  {BeingRead, []State{Reading}},
		"handing out": {HandsOut, []State{Eligible, Reading}},
		"to decide":   {ToDecide, []State{Read}},
		"under way":   {UnderWay, []State{Eligible, Reading, Read, Interview}},
		"to meet":     {ToMeet, []State{Interview}},
		"in the order": {Ordered, []State{Read, InvitedOn, Awarded, OnOffer, Accepted, OfferDown, OfferLapsed, Reserve,
			NotAwarded}},
		"admitted": {Admitted, []State{Eligible, Reading, Read, Interview, InvitedOn, Awarded, OnOffer, Accepted,
			OfferDown, OfferLapsed, Reserve, NotAwarded}},
		"gives":     {Gives, []State{Awarded, OnOffer, Accepted}},
		"goes on":   {GoesOn, []State{InvitedOn}},
		"final":     {Final, []State{InvitedOn, Awarded, OnOffer, Accepted, OfferDown, OfferLapsed, NotAwarded}},
		"waits":     {Waits, []State{Reserve}},
		"declined":  {Declined, []State{NotAwarded}},
		"answers":   {Answers, []State{OnOffer}},
		"came back": {Back, []State{OfferDown, OfferLapsed}},
		"taken":     {Taken, []State{Accepted}},
		"gone":      {Gone, []State{Withdrawn}},
		"missed":    {Missed, []State{Unpaid, Lapsed}},
		"owes":      {Owes, []State{Owing}},
		"in": {In, []State{Sent, HandedBack, Complete, Eligible, NotEligible, Reading, Read, Interview, InvitedOn,
			Awarded, OnOffer, Accepted, OfferDown, OfferLapsed, Reserve, NotAwarded}},
		"either": {Drafting | Gone, []State{Draft, Withdrawn}},
		"stored": {Stored, slices.DeleteFunc(States(), func(s State) bool { return s == Lapsed })},
	} {
		t.Run(name, func(t *testing.T) {
			if got := With(c.fact); !slices.Equal(got, c.want) {
				t.Errorf("%v, want %v", got, c.want)
			}
			for _, s := range append(States(), "no such state") {
				if s.Is(c.fact) != slices.Contains(c.want, s) {
					t.Errorf("%s: %v", s, s.Is(c.fact))
				}
			}
		})
	}
}

// What pages ask has the name of its fact.
func TestWhatPagesAsk(t *testing.T) {
	for _, s := range States() {
		for fact, asked := range map[Fact]bool{Decided: s.Decided(), Sealed: s.Sealed(), Writing: s.Writing(),
			Open: s.Open(), Drafting: s.Drafting(), Offered: s.Offered(),
			Queried: s.Queried(), BeingRead: s.BeingRead(), Gone: s.Gone(), GoesOn: s.GoesOn(), ToMeet: s.Meets(),
			Gives: s.Gives(),
			Ended: s.Ended(), Owes: s.Owes()} {
			if asked != s.Is(fact) {
				t.Errorf("%s: fact %b is %v", s, fact, asked)
			}
		}
	}
}
