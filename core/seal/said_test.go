package seal

import (
	"testing"

	"ulvant/core/form"
	"ulvant/core/slot"
)

// What was written beside a file stands by that file, and by no other.
func TestSaidBesideAFile(t *testing.T) {
	q := form.Question{Key: "film",
		Limits: form.Cases[form.Limits]{Else: form.Limits{Slot: &slot.Limits{Details: []string{"its title",
			"who filmed it"}}}}}
	row := func(id int64, column form.Key, raw string) Answer {
		return Answer{Place: form.Place{Question: "film", Row: form.FileRow(id), Column: column}, Raw: raw}
	}
	d := &Document{Answers: []Answer{row(7, form.DetailColumn(0), "Otters"), row(7, form.ColMade, "3 May 2026"),
		row(8, form.DetailColumn(1), "Ada Quill"), {Place: form.Place{Question: "other", Row: form.FileRow(7)}, Raw: "x"}}}
	for id, want := range map[int64]string{7: "its title: Otters · made: 3 May 2026", 8: "who filmed it: Ada Quill",
		9: ""} {
		if got := d.said(&q, File{Slot: "film", ID: id}); got != want {
			t.Errorf("file %d: %q, want %q", id, got, want)
		}
	}
}
