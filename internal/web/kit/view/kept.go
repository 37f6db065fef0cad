package view

import (
	"time"

	"ulvant/core/refusal"
	"ulvant/internal/colleague"
	"ulvant/internal/people"
)

// Kept is what colleagues keep about a case: who looks after it, labels and notes.
// The block of the same name draws it.
type Kept struct {
	Zone                *time.Location
	Ref, Query          string
	Back                string // address that its forms lead back to
	Carer               string // "" for nobody
	InHand              int64  // who has it by hand; 0 for nobody
	Office              []people.Account
	Labels              []string
	Known               []string // labels in use, to choose from
	Notes               []colleague.Note
	Me                  int64
	Named               bool // a note names the asker and was not put aside
	Hands, Writes, Puts bool
	Problem             string
	Typed               string
}

// keptBlock is it with the token of its forms.
type keptBlock struct {
	K    Kept
	CSRF string
}

func keptOf(k Kept, csrf string) keptBlock { return keptBlock{k, csrf} }

// sideBlock is what stands beside the register, with the token of its forms.
type sideBlock struct {
	S    any
	CSRF string
}

func sideOf(s any, csrf string) sideBlock { return sideBlock{s, csrf} }

// faultAt is what is wrong with a field; "" for nothing.
func faultAt(p refusal.Refusal, field string) string {
	if p.Field != field {
		return ""
	}
	return p.Sentence()
}
