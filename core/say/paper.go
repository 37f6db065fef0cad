package say

import (
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/slot"
)

// SamePaper says beside an empty slot that another asks for the same paper, and what of it
// is there; "" where none does.
func SamePaper(f *form.Form, filled *form.Filled, p *form.Path, l *slot.Limits) string {
	if l == nil {
		return ""
	}
	files, other, asked := f.SamePaper(filled, p, *l)
	switch {
	case other == nil || !asked && len(files) == 0:
		return ""
	case len(files) == 0:
		return "The same paper as “" + other.Label + "” asks for: put it in there, and it counts here too."
	}
	var names []string
	for _, x := range files {
		names = append(names, x.Name)
	}
	return "Crossed off by " + phrase.List(names) + ", which is in “" + other.Label + "”. Put in another here only if it should differ."
}
