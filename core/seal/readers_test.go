package seal

import (
	"testing"

	"ulvant/core/form"
)

func TestNeutralNames(t *testing.T) {
	for _, c := range []struct {
		label string
		n, of int
		name  string
		want  string
	}{
		{"Site plan", 1, 1, "Imre Calloway, plan FINAL.PDF", "Site plan.pdf"},
		{"Boards", 2, 3, "board-by-annelise.jpeg", "Boards 2.jpeg"},
		{"What will it look like?", 1, 1, "x.png", "What will it look like.png"},
		{`In/out: "both"`, 1, 1, "noextension", "Inout both"},
		{"Boards", 1, 1, "a.name-that-is-no-extension", "Boards"},
	} {
		if got := Neutral(c.label, c.n, c.of, c.name); got != c.want {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
}

// Where names are hidden, readers get files under neutral names, and only those
// they see; elsewhere as they are called.
func TestForReaders(t *testing.T) {
	f, err := form.Draft(&form.Design{Sections: []form.Section{{Key: "s", Questions: []form.Question{
		{Key: "boards", Kind: form.File, Label: "Boards", Seen: form.ToReaders}, {Key: "paper", Kind: form.File,
			Label: "Paper", Seen: form.ToOffice}, {Key: "letter", Kind: form.Referee, Label: "Letter", Seen: form.ToReaders}}}}})
	if f == nil {
		t.Fatal(err)
	}
	letter := &File{ID: 4, Name: "from-dacian.pdf", SHA256: "d"}
	d := Document{Files: []File{{ID: 1, Slot: "boards", Name: "annelise-1.jpg", SHA256: "a"},
		{ID: 2, Slot: "boards", Name: "annelise-2.jpg", SHA256: "b"}, {ID: 3, Slot: "paper", Name: "passport.pdf",
			SHA256: "c"}},
		Letters: []Letter{{Question: "letter", Name: "Dacian Rowe", Knows: "my teacher",
			File: letter}}, Ref: "FBR-1", Title: "Annelise’s bridge"}
	for hidden, want := range map[bool][3]string{false: {"annelise-1.jpg", "annelise-2.jpg", "from-dacian.pdf"},
		true: {"Boards 1.jpg", "Boards 2.jpg", "Letter.pdf"}} {
		f.Design.HideNames = hidden
		got := d.ForReaders(f)
		for i, id := range []int64{1, 2, 4} {
			if name := got.NameOf(id); name != want[i] {
				t.Errorf("hidden %v: %q, want %q", hidden, name, want[i])
			}
		}
		if got.NameOf(3) != "" || got.Holds("c") || !got.Holds("d") {
			t.Errorf("hidden %v: what readers do not see is there", hidden)
		}
	}
	f.Design.HideNames = true
	if got := d.ForReaders(f); got.Letters[0].Name != "Letter" || got.Letters[0].Knows != "" || got.Title != "FBR-1" {
		t.Errorf("where names are hidden: %q, who %q, about %q", got.Letters[0].Name, got.Letters[0].Knows, got.Title)
	}
	f.Design.HideNames = false
	if got := d.ForReaders(f); got.Letters[0].Name != "Dacian Rowe" || got.Letters[0].Knows == "" ||
		got.Title != "Annelise’s bridge" {
		t.Errorf("where they are not: %+v", got.Letters[0])
	}
	if d.Letters[0].Name != "Dacian Rowe" || d.Files[0].Name != "annelise-1.jpg" || letter.Name != "from-dacian.pdf" {
		t.Error("the seal itself was changed")
	}
}
