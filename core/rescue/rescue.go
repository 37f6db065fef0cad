// Package rescue ranks drafts by how little keeps them from being sent, so that
// the office can write to the one person who blocks while there is still time.
// The ranking is ours: common practice, no source, is only that a letter which
// was uploaded and not sent is the cheapest of all things to mend.
package rescue

import (
	"cmp"
	"slices"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
)

// Draft is one that is not sent yet.
type Draft struct {
	Obstacles      []form.Code // one for each; the same code can stand several times
	Done, Required int         // answers
	Letter         form.LetterState
	Left           time.Duration // until it closes for this draft
	Silent         time.Duration // since anything changed
}

// Stuck says what a draft lacks.
type Stuck struct {
	Steps int            // about how many things somebody has to do before it can be sent; 1 is pressing Send
	Whom  lifecycle.Move // who blocks: Applicant, or Third when only others do
	Codes []form.Code    // each once, in their order
}

// mostSteps is how far from being sent a draft may be to be worth a nudge.
const mostSteps = 6

// Look at a draft.
func Look(d Draft) Stuck {
	s := Stuck{Steps: 1, Whom: lifecycle.Third}
	for _, c := range d.Obstacles {
		s.Steps++
		if say.StuckOn(c) != lifecycle.Third {
			s.Whom = lifecycle.Applicant
		}
		if !slices.Contains(s.Codes, c) {
			s.Codes = append(s.Codes, c)
		}
	}
	if len(d.Obstacles) == 0 {
		s.Whom = lifecycle.Applicant // has only to press Send
	}
	return s
}

// Worth reports a draft that a nudge may still bring in: open, begun in
// earnest, and few steps from being sent.
func Worth(d Draft) bool {
	return d.Left > 0 && d.Required > 0 && 2*d.Done >= d.Required && Look(d).Steps <= mostSteps
}

// Compare orders drafts for the list: first those where the fewest steps are
// left, of those the ones that close first, then those silent for longest.
func Compare(a, b Draft) int {
	return cmp.Or(
		cmp.Compare(Look(a).Steps, Look(b).Steps),
		cmp.Compare(cheap(b), cheap(a)),
		cmp.Compare(a.Left, b.Left),
		cmp.Compare(b.Silent, a.Silent),
	)
}

// cheap is 1 for a letter that only has to be sent.
func cheap(d Draft) int {
	if Look(d).Whom == lifecycle.Third && d.Letter == form.Uploaded {
		return 1
	}
	return 0
}
