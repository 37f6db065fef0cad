package say

import (
	"fmt"
	"strings"

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
	return "Crossed off by " + phrase.List(names) + ", which is in “" + other.Label +
		"”. Put in another here only if it should differ."
}

// Unopened is what a checker is asked of files that could not be opened or measured, all of
// them at once, in the order of the path; "" when there are none.
func Unopened(filled *form.Filled, p *form.Path) string {
	var out []string
	for i := range p.Questions {
		st := &p.Questions[i]
		for _, x := range filled.Files[st.Key] {
			switch {
			case x.State != slot.Ready:
				out = append(out, x.Name+" has not been opened yet or could not be.")
			case st.Limits.Slot != nil && slot.TypeUnknown(x, *st.Limits.Slot):
				out = append(out, fmt.Sprintf("The type of %s could not be measured; at least %s wanted.", x.Name,
					phrase.Count(int64(st.Limits.Slot.TypeLeast), "point is", "points are")))
			}
		}
	}
	if len(out) == 0 {
		return ""
	}
	return strings.Join(out, " ") + " Open it and look."
}
