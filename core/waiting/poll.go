package waiting

import (
	"time"

	"ulvant/core/form"
)

// Poll is how far the public vote of a round is; the zero Poll where nothing was done
// about it yet.
type Poll struct {
	Laid, Counted, Published bool
	Unruled                  int // patterns that nobody has ruled on
}

// PollKind is what a public vote waits for the office to do.
type PollKind int

// The kinds, in the order of a vote; Nothing where it waits for nobody.
const (
	Nothing  PollKind = iota
	LayPaper          // the projects are in, and there is no ballot paper
	Patterns          // somebody has to rule before the result can stand
	Count             // it is closed
	Publish
)

// OfPoll says what a public vote waits for at a time, how many of it, and since when.
func OfPoll(f *form.Form, p Poll, now time.Time) (kind PollKind, n int, since time.Time) {
	w := f.VoteWindow()
	in := f.StageWindow(f.VotedAfter()).Closes
	switch {
	case f.Votes() == nil || p.Published:
		return Nothing, 0, since
	case !p.Laid && now.After(in) && now.Before(w.Closes):
		return LayPaper, 1, in
	case !p.Laid:
		return Nothing, 0, since
	case p.Unruled > 0:
		return Patterns, p.Unruled, w.Opens
	case now.Before(w.Closes):
		return Nothing, 0, since
	case !p.Counted:
		return Count, 1, w.Closes
	}
	return Publish, 1, w.Closes
}
