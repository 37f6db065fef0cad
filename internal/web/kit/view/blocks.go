package view

import (
	"ulvant/core/pathtable"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/work"
)

// What the blocks of the layout take that need more than one thing. Templates
// make them by the functions of the same names.

// lineBlock is a line to type into, with what is wrong with it.
type lineBlock struct {
	Name, Label, Help, Value, Type, Auto string // Auto is what a browser may fill in
	P                                    refusal.Refusal
}

func lineOf(name, label, help, value, kind, auto string, problem refusal.Refusal) lineBlock {
	return lineBlock{name, label, help, value, kind, auto, problem}
}

// needBlock is what somebody of some kinds will need.
type needBlock struct {
	N        *pathtable.Need
	Currency string
}

func needOf(n *pathtable.Need, currency string) needBlock { return needBlock{n, currency} }

// workBlock is how far long work of a round has come.
type workBlock struct {
	W   *work.Work
	Key string
}

func workOf(w *work.Work, round string) workBlock { return workBlock{w, round} }

// caseBlock is a form about a case.
type caseBlock struct {
	Case application.Case
	CSRF string
}

func caseOf(c application.Case, csrf string) caseBlock { return caseBlock{c, csrf} }
