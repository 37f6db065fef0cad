// Package waiting says what the cases of a round wait for the office to do: to
// hand them out, to find another reader or the marks that lack, to decide.
package waiting

import (
	"slices"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
)

// Pending are cases that are admitted and not decided, as many as stand alike.
type Pending struct {
	Stage form.Key
	State lifecycle.State
	Given int // readers, of those being read
	N     int
	Since time.Time // when the oldest of them came to this
}

// Kind of what is to be done.
type Kind int

// The kinds, in the order of a case's way.
const (
	HandOut    Kind = iota // eligible, and nothing more can come in
	Reader                 // being read by fewer than the design asks for
	Marks                  // being read by enough, and the time for it is over
	Meet                   // invited to an interview that is not over
	Decide                 // all its readers have marked it
	DecideAsIs             // eligible in a stage that nobody reads
)

// Task is one thing to be done, for so many cases.
type Task struct {
	Kind  Kind
	N     int
	Since time.Time // of the oldest
}

// Of a round's pending cases, at a time; what waits for nobody is left out.
func Of(f *form.Form, list []Pending, now time.Time) (out []Task) {
	handsOut, over := f.HandsOut(now), now.After(f.At(form.ReadingEnd))
	kind := func(p Pending) (Kind, bool) {
		switch {
		case p.State.Is(lifecycle.ToRead) && !f.ReadAfter(p.Stage):
			return DecideAsIs, true
		case p.State.Is(lifecycle.ToRead):
			return HandOut, slices.Contains(handsOut, p.Stage)
		case p.State.Is(lifecycle.BeingRead) && p.Given < f.Design.ReadersEach:
			return Reader, true
		case p.State.Is(lifecycle.BeingRead):
			return Marks, over
		case p.State.Is(lifecycle.ToMeet):
			return Meet, true
		}
		return Decide, p.State.Is(lifecycle.ToDecide)
	}
	by := map[Kind]*Task{}
	for _, p := range list {
		k, waits := kind(p)
		if !waits || p.N == 0 {
			continue
		}
		if by[k] == nil {
			by[k] = &Task{Kind: k, Since: p.Since}
		}
		by[k].N += p.N
		if p.Since.Before(by[k].Since) {
			by[k].Since = p.Since
		}
	}
	for k := HandOut; k <= DecideAsIs; k++ {
		if by[k] != nil {
			out = append(out, *by[k])
		}
	}
	return out
}

// Readable counts, whatever the time, the cases that are ready to be handed out
// and those that are short of a reader.
func Readable(f *form.Form, list []Pending) (ready, short int) {
	for _, p := range list {
		switch {
		case p.State.Is(lifecycle.ToRead) && f.ReadAfter(p.Stage):
			ready += p.N
		case p.State.Is(lifecycle.BeingRead) && p.Given < f.Design.ReadersEach:
			short += p.N
		}
	}
	return ready, short
}
