package sealcopy

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"golang.org/x/image/font/sfnt"

	"ulvant/core/form"
	"ulvant/core/form/kindtest"
	"ulvant/core/seal"
	"ulvant/internal/application"
)

// What the font cannot draw is a hollow box, and is counted; what is not to be
// seen is left out; everything else stands as it was written.
func TestText(t *testing.T) {
	font, err := sfnt.Parse(regular)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name, given, want string
		missing           int
	}{
		{"Latin, Greek, Cyrillic", "Ó Sé, Ωμέγα, Жук", "Ó Sé, Ωμέγα, Жук", 0},
		{"lines and tabs", "a\n\tb", "a\n b", 0},
		{"signs that steer", "a\x00\x1b\u202e\u200bb", "ab", 0},
		{"an emoji", "reed \U0001F33E", "reed □", 1},
		{"Chinese, which the font lacks", "芦苇", "□□", 2},
		{"broken UTF-8", "a\xffb", "a□b", 0},
	} {
		p := &printer{font: font}
		if got := p.text(c.given); got != c.want || p.missing != c.missing {
			t.Errorf("%s: %q, %d missing", c.name, got, p.missing)
		}
	}
}

// A copy is the same bytes whenever it is made, and another when anything in
// the seal is.
func TestTheSameSealMakesTheSameCopy(t *testing.T) {
	f, err := form.Compile(kindtest.Design())
	if err != nil {
		t.Fatal(err)
	}
	copyOf := func(change func(*seal.Document)) []byte {
		t.Helper()
		d := seal.Document{Ref: "TST-1", Title: "Reed beds", By: form.ExampleLead,
			At:      time.Date(2027, 3, 2, 12, 0, 0, 0, time.UTC),
			Files:   []seal.File{{Slot: "paper", Name: "paper.pdf", Size: 10, SHA256: "ab"}},
			Letters: []seal.Letter{{Name: "Ada Quill", Knows: "a neighbour", Text: "Good people."}}}
		filled := kindtest.Filled(f)
		d.Answers = seal.Answers(filled, f.Walk(filled))
		if change != nil {
			change(&d)
		}
		b, err := PDF(f, application.Seal{Decoded: d, SHA256: []byte{1}, Signature: []byte{2}}, "The test")
		if err != nil || !bytes.HasPrefix(b, []byte("%PDF-")) {
			t.Fatal(err)
		}
		return b
	}
	first := copyOf(nil)
	if !bytes.Equal(first, copyOf(nil)) {
		t.Error("made again it differs")
	}
	if !bytes.Equal(first, copyOf(func(d *seal.Document) { d.Letters[0].Text = "Others." })) {
		t.Error("the referee's letter is in the applicant's copy")
	}
	for name, change := range map[string]func(*seal.Document){
		"the title":      func(d *seal.Document) { d.Title += "!" },
		"an answer":      func(d *seal.Document) { d.Answers[len(d.Answers)-1].Raw += "1" },
		"a fingerprint":  func(d *seal.Document) { d.Files[0].SHA256 = "ac" },
		"a confirmation": func(d *seal.Document) { d.Letters[0].Confirms = true },
		"many lines":     func(d *seal.Document) { d.Title = strings.Repeat("line\n", 200) },
	} {
		if bytes.Equal(first, copyOf(change)) {
			t.Errorf("%s does not show", name)
		}
	}
}
