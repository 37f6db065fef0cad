package casefile

import (
	"fmt"
	"html/template"
	"slices"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/desk"
	"ulvant/internal/web/kit/view"
)

// PictureSlots are the slots of a round that take pictures and that readers see, in
// the order of the design.
func PictureSlots(f *form.Form) (out []string) {
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			if q := &s.Questions[i]; q.TakesFiles() && q.ForReaders() {
				out = append(out, string(q.Key))
			}
		}
	}
	return out
}

// TakesPictures reports a round in which readers see pictures.
func TakesPictures(f *form.Form) bool {
	for _, key := range PictureSlots(f) {
		q := f.Question(form.Key(key))
		for _, l := range append(q.Limits.When, form.Case[form.Limits]{Then: q.Limits.Else}) {
			if l.Then.Slot != nil && slices.Contains(l.Then.Slot.Accepts(), slot.Picture) {
				return true
			}
		}
	}
	return false
}

// Firsts draws up one picture of each case, to be looked at beside those of others;
// each case lies below base.
func Firsts(f *form.Form, list []desk.First, base string) (out []view.Shown) {
	for _, x := range list {
		title := x.Ref
		if !f.Design.HideNames {
			title = x.Title
		}
		at := "?stage=" + string(x.Stage)
		out = append(out, view.Shown{Facts: x.Facts.Facts, Name: x.Ref, Title: title, Size: x.Size,
			Href: template.URL(fmt.Sprintf("%s/%s/materials/%d%s", base, x.Ref, x.File, at)),
			Case: template.URL(base + "/" + x.Ref + at)})
	}
	return out
}
