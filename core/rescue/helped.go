package rescue

import (
	"time"

	"ulvant/core/say"
)

// Halt is how long nothing is done in a draft before it counts as come to a halt.
const Halt = 48 * time.Hour

// Soon is how long after something was done for somebody it may still have been
// what helped. It came before, and that is all that is known.
const Soon = 72 * time.Hour

// Done is something that was done for whoever writes a draft.
type Done struct {
	Help say.Help
	At   time.Time
}

// Helped is what was done last before a halt was over, within Soon.
func Helped(over time.Time, done []Done) say.Help {
	var last Done
	for _, d := range done {
		if d.At.Before(over) && over.Sub(d.At) <= Soon && d.At.After(last.At) {
			last = d
		}
	}
	return last.Help
}
