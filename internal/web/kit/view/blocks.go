package view

import (
	"html/template"
	"strconv"
	"strings"

	"ulvant/core/pathtable"
	"ulvant/core/refusal"
	"ulvant/core/slot"
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
	W    *work.Work
	Href string // where its progress is asked for
}

func workOf(w *work.Work, round string) workBlock {
	return workAt(w, "/office/rounds/"+round+"/work/"+strconv.FormatInt(w.ID, 10))
}

func workAt(w *work.Work, href string) workBlock { return workBlock{w, href} }

// seenBlock is a file shown in the page: Href is where it is sent from.
type seenBlock struct {
	As           slot.Kind
	Href, Src    template.URL
	Small, Large template.URL // of a picture
	Alt          string
}

// seenOf shows a file of a kind; alt is what is said of it to whoever does not
// see it.
func seenOf(kind slot.Kind, href, name, said string) seenBlock {
	mark := "?"
	if strings.Contains(href, "?") {
		mark = "&"
	}
	if !slot.Plays(kind, name) {
		kind = "" // the file is beside it to be fetched
	}
	if said != "" {
		name += ", " + said
	}
	b := seenBlock{As: kind, Href: template.URL(href), Src: template.URL(href + mark + "seen=yes"), Alt: name}
	if kind == slot.Picture {
		b.Small, b.Large = template.URL(href+mark+"seen=small"), template.URL(href+mark+"seen=large")
	}
	return b
}

// caseBlock is a form about a case.
type caseBlock struct {
	Case application.Case
	CSRF string
}

func caseOf(c application.Case, csrf string) caseBlock { return caseBlock{c, csrf} }
