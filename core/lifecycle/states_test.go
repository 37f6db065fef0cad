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
		Sent:        {sealed: true, move: Office},
		HandedBack:  {sealed: true, open: true, move: Applicant},
		Complete:    {sealed: true, move: Office},
		Eligible:    {sealed: true, move: Office},
		NotEligible: {sealed: true, ended: true, move: Nobody},
		Reading:     {sealed: true, move: Reader},
		Read:        {sealed: true, move: Office},
		InvitedOn:   {sealed: true, decided: true, ended: true, move: Nobody},
		Awarded:     {sealed: true, decided: true, ended: true, move: Nobody},
		Reserve:     {sealed: true, decided: true, move: Office},
		NotAwarded:  {sealed: true, decided: true, ended: true, move: Nobody},
		Withdrawn:   {sealed: true, ended: true, move: Nobody},
		Lapsed:      {ended: true, move: Nobody},
	}
	if len(want) != len(States) {
		t.Fatalf("%d states are described, there are %d", len(want), len(States))
	}
	for _, s := range States {
		if got := (is{s.Sealed(), s.Writing(), s.Open(), s.Decided(), s.Ended(), MoveIn(s)}); got != want[s] {
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
	for _, s := range States {
		if _, ok := OutcomeEvent(s); ok != s.Decided() {
			t.Errorf("%s is recorded: %v", s, ok)
		}
	}
	if Writes("") || Writes("draft-reminder") || !Writes("received") {
		t.Error("which letters the table sends")
	}
}
