package casefile

import (
	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/core/seal"
)

// Vouched is a letter or a confirmation as it is read.
type Vouched struct {
	seal.Letter
	Says []string // what they answered themselves
	Late bool     // it came after the application was sealed
	Base string   // of the addresses of its files
	Tail string   // of the same
	Head string   // what it stands under
}

// Letters are those of a document as they are read. sealed are those under the
// seal; the others came after it. Where names are hidden they are called after
// what was asked.
func Letters(f *form.Form, doc *seal.Document, sealed int, base, tail string) []Vouched {
	out := make([]Vouched, 0, len(doc.Letters))
	for i, l := range doc.Letters {
		v := Vouched{Letter: l, Late: i >= sealed, Base: base, Tail: tail, Head: "Letter from " + l.Name}
		switch {
		case f.Design.HideNames && l.Confirms:
			v.Head = l.Name + ": confirmed"
		case f.Design.HideNames:
			v.Head = l.Name
		case l.Confirms:
			v.Head = "Confirmed by " + l.Name
		}
		if t := f.Theirs(l.Question); t != nil {
			filled := &form.Filled{Answers: map[form.Place]form.Answer{}, Lead: l.Name, Today: doc.Day}
			for _, a := range l.Theirs {
				filled.Answers[a.Place] = form.Answer{Raw: a.Raw, Non: a.Non}
			}
			v.Says = say.Theirs(t, filled)
		}
		out = append(out, v)
	}
	return out
}
