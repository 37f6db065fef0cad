package field

import (
	"testing"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/material"
)

// A file that its slot does not take is drawn as one, whatever stands beside it.
func TestAddFile(t *testing.T) {
	pdf := slot.Limits{Kinds: []slot.Kind{slot.PDF}, SizeMost: 1000, PagesMost: 3}
	file := func(size int64, pages int, state slot.State) material.File {
		m := material.File{ID: 1, Name: "plan.pdf", Size: size, State: state}
		m.Facts.Facts = slot.Facts{Kind: slot.PDF, Pages: pages}
		return m
	}
	for _, c := range []struct {
		name    string
		file    material.File
		untaken bool
	}{
		{"fits", file(1000, 3, slot.Ready), false},
		{"a byte too large", file(1001, 3, slot.Ready), true},
		{"a page too many", file(1000, 4, slot.Ready), true},
		{"still looked into", file(1000, 0, slot.Inspecting), false},
	} {
		t.Run(c.name, func(t *testing.T) {
			f := Field{Q: &form.Question{Key: "plan", Kind: form.File}, S: &form.QuestionState{Limits: form.Limits{Slot: &pdf}}}
			f.AddFile(&form.Filled{}, nil, c.file)
			if f.Files[0].Untaken != c.untaken {
				t.Errorf("untaken: %v", f.Files[0].Untaken)
			}
		})
	}
}
