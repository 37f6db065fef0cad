package limit

import "runtime"

// Gate lets so many pieces of heavy work go on at once in a process. What
// takes a core for long (comparing a password, making a PDF) waits here for
// its turn, so that short work such as saving always finds a core.
type Gate chan struct{}

// NewGate leaves half of the cores free, and lets one piece through at least.
func NewGate() Gate { return make(Gate, max(1, runtime.NumCPU()/2)) }

// Do something heavy when its turn has come. A nil Gate lets everything through.
func (g Gate) Do(work func()) {
	if g != nil {
		g <- struct{}{}
		defer func() { <-g }()
	}
	work()
}
