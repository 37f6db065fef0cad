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

// What a file is called stands apart from what else is said beside it, and its
// excerpt is no text.
func TestTitledAndExcerpt(t *testing.T) {
	f, _ := form.Draft(&form.Design{Currency: "EUR", Zone: "Europe/Dublin", Sections: []form.Section{{Key: "s",
		Questions: []form.Question{{Key: "film", Kind: form.File, Limits: form.Cases[form.Limits]{Else: form.Limits{
			Slot: &slot.Limits{Details: []string{"who filmed it", "Its title"}, ExcerptMost: 60}}}}}}}})
	row := func(id int64, column form.Key, raw string) Answer {
		return Answer{Place: form.Place{Question: "film", Row: form.FileRow(id), Column: column}, Raw: raw}
	}
	d := &Document{Answers: []Answer{row(7, form.DetailColumn(0), " Ada Quill"), row(7, form.DetailColumn(1), "Otters "),
		row(7, form.ColFrom, "0:23"), row(7, form.ColTo, "1:06"), row(8, form.ColFrom, "0:23")}}
	x := File{Slot: "film", ID: 7}
	if title, said := d.Titled(f, x); title != "Otters" || said != "who filmed it: Ada Quill" {
		t.Errorf("%q, %q", title, said)
	}
	if got := d.Excerpt(x); got != (slot.Excerpt{From: 23, To: 66}) {
		t.Errorf("%v", got)
	}
	if got := d.Excerpt(File{Slot: "film", ID: 8}); got != (slot.Excerpt{}) {
		t.Errorf("half an excerpt: %v", got)
	}
	d.Files = []File{{ID: 3, Slot: "whole", Name: "tide.mp4"}}
	d.Answers = append(d.Answers, row(9, form.ColWhole, "f3"), row(10, form.ColWhole, "f4"))
	if _, said := d.Titled(f, File{Slot: "film", ID: 9}); said != "belongs to: tide.mp4" {
		t.Errorf("an excerpt of its own: %q", said)
	}
	if got := d.Said(f, File{Slot: "film", ID: 10}); got != "belongs to: a file that is not here" {
		t.Errorf("of a whole that is not here: %q", got)
	}
	if title, said := d.Titled(f, File{Slot: "gone", ID: 7}); title != "" || said != "" {
		t.Errorf("of a slot that is gone: %q %q", title, said)
	}
}
