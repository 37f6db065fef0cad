// Package control names the ways in which something can be asked on a page. A
// kind of question says which it is asked by; templates draw each by a block
// of its name, and nothing else of a kind is known where pages are drawn.
package control

// As says how an input is drawn.
type As string

// The ways.
const (
	Line     As = "line"
	Sheet    As = "sheet" // several lines of text
	Figure   As = "figure"
	Radio    As = "radio"
	Select   As = "select"
	Checks   As = "checks"
	Tick     As = "tick"
	Initials As = "initials"
	Adder    As = "adder"    // keywords from a long list
	Computed As = "computed" // shown, not typed
)

// Ways are all of them that something is typed or chosen in.
var Ways = []As{Line, Sheet, Figure, Radio, Select, Checks, Tick, Initials, Adder}

// Small is how something is asked where there is room for one line alone: as a
// piece of an answer, or in the cell of a table.
func (a As) Small() As {
	if a == Radio || a == Checks {
		return Select
	}
	return a
}

// Labelled reports a way that a label before it can be tied to; the others
// have many inputs, or say their own.
func (a As) Labelled() bool {
	return a == Line || a == Sheet || a == Figure || a == Select || a == Adder
}

// Several reports a way in which more than one thing can be chosen.
func (a As) Several() bool { return a == Checks || a == Adder }
