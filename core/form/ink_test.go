package form_test

import (
	"testing"

	"ulvant/core/form"
	"ulvant/core/slot"
)

// A slot that asks for ink is confirmed by a checker when something is in it, and has
// a page to print whatever the case.
func TestASlotSignedInInk(t *testing.T) {
	design := func(l form.Limits, kind form.Kind) *form.Form {
		f, _ := form.Draft(&form.Design{Currency: "EUR", Zone: "UTC", Sections: []form.Section{{Key: "s", Label: "S",
			Questions: []form.Question{{Key: "lease", Kind: kind, Label: "Lease", Nature: form.Chosen, Blank: form.Required,
				Seen: form.ToReaders, Limits: form.Cases[form.Limits]{Else: l}}}}}})
		return f
	}
	ink := form.Limits{Slot: &slot.Limits{SizeMost: 1000, Paper: "I lend the land."}}
	for _, c := range []struct {
		what  string
		l     form.Limits
		files []slot.File
		says  string
		ticks int
	}{
		{"a scan is in", ink, []slot.File{{ID: 1, Name: "a.pdf", Size: 9, State: slot.Ready}}, "I lend the land.", 1},
		{"nothing is in", ink, nil, "I lend the land.", 0},
		{"no ink is asked", form.Limits{Slot: &slot.Limits{SizeMost: 1000}},
			[]slot.File{{ID: 1, Name: "a.pdf", Size: 9, State: slot.Ready}}, "", 0},
	} {
		f := design(c.l, form.File)
		p := f.Walk(&form.Filled{Answers: map[form.Place]form.Answer{}, Files: map[form.Key][]slot.File{"lease": c.files}})
		ticks := f.Ticks(p)
		if f.Question("lease").InkOf() != c.says || len(ticks) != c.ticks || c.ticks > 0 && ticks[0].Ink != c.says {
			t.Errorf("%s: %q, %+v", c.what, f.Question("lease").InkOf(), ticks)
		}
	}
	if q := design(form.Limits{}, form.Short).Question("lease"); q.InkOf() != "" {
		t.Error("a text is signed in ink")
	}
}
