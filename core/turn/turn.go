// Package turn says whose turn it is where several bodies review a case one after
// another, each seeing only its own cases. A body says yes or no, or sends back;
// nobody is refused by a body alone: a no waits for the office, which goes on or
// decides.
package turn

import "ulvant/core/refusal"

// State of a body’s turn.
type State string

// The states.
const (
	Waits State = "waits" // others come before
	With  State = "with"  // it is theirs to review
	Yes   State = "yes"
	No    State = "no"   // the office looks
	Over  State = "over" // no, and the office has gone on over it
	Back  State = "back" // sent back to the office, with a question
)

// Open reports a turn that has not been answered.
func (s State) Open() bool { return s == Waits || s == With }

// Turns of a case, in the order of the design.
type Turns []State

// ErrNotTheirs: it is not with them.
var ErrNotTheirs = refusal.New("this case is not with you now")

// Begin gives a case that nobody has, and that does not wait for the office, to the
// first who has not seen it.
func (t Turns) Begin() {
	for _, s := range t {
		if s == With || s == No || s == Back { // somebody has it, or the office must act first
			return
		}
	}
	for i := range t {
		if t[i] == Waits {
			t[i] = With
			return
		}
	}
}

// Answer of the i-th: Yes passes on to the next, No and Back to the office.
func (t Turns) Answer(i int, s State) error {
	if i < 0 || i >= len(t) || t[i] != With {
		return ErrNotTheirs
	}
	t[i] = s
	t.Begin()
	return nil
}

// Return sends the case from the i-th, who has it, to the one before, who reviews
// it again; false when nobody is before.
func (t Turns) Return(i int) (bool, error) {
	if i < 0 || i >= len(t) || t[i] != With {
		return false, ErrNotTheirs
	}
	if i == 0 {
		return false, nil
	}
	t[i], t[i-1] = Waits, With
	return true, nil
}

// Go on from the i-th by the office, after its no (over which the office goes) or
// when it sent back (it has the case again).
func (t Turns) Go(i int) error {
	if i < 0 || i >= len(t) || t[i] != No && t[i] != Back {
		return refusal.New("this does not wait for the office")
	}
	if t[i] == Back {
		t[i] = With
		return nil
	}
	t[i] = Over
	t.Begin()
	return nil
}
