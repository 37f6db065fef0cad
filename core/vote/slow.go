package vote

import "time"

// Pace slows tries from one place down and drops none: so many may come at once, and
// each further one waits its turn. It is the virtual scheduling of the generic cell rate
// algorithm (ITU-T Recommendation I.371, annex A): all that is kept of a place is the
// time at which its next try would come if it kept to the pace.
type Pace struct {
	Every time.Duration // between tries in the long run
	Burst int           // that may come at once
}

// Turn is when a try that comes at a time has its turn, and what is kept of its place
// from then on. due is what was kept; the zero time for a place that is new.
func (p Pace) Turn(due, at time.Time) (turn, kept time.Time) {
	if due.Before(at) {
		due = at
	}
	turn = due.Add(-time.Duration(p.Burst-1) * p.Every)
	if turn.Before(at) {
		turn = at
	}
	return turn, due.Add(p.Every)
}
