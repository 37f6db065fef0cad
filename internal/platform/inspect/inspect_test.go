package inspect

import (
	"math"
	"os"
	"path/filepath"
	"testing"

	"ulvant/core/slot"
)

const fixtures = "../../../../shared/check-fixtures/"

// Source: check-values.md, section 10: dots per inch by Pillow 9.4, running
// time by ffprobe 5.1.
func TestFacts(t *testing.T) {
	for _, c := range []struct {
		file    string
		kind    slot.Kind
		dpi     float64
		seconds float64
	}{
		{"j300.jpg", slot.Picture, 300, 0}, {"j_units2.jpg", slot.Picture, 299.72, 0}, {"j_units0.jpg", slot.Picture, 0, 0},
		{"p300.png", slot.Picture, 299.9994, 0}, {"p72.png", slot.Picture, 72.009, 0}, {"v2997.mp4", slot.Film, 0, 10.010},
	} {
		f := open(fixtures + c.file)
		if f.Fault != "" || f.Kind != c.kind || math.Abs(f.DPI-c.dpi) > 0.001 || math.Abs(f.Seconds-c.seconds) > 0.0005 {
			t.Errorf("%s: %+v, want %s, %v dpi, %v s", c.file, f, c.kind, c.dpi, c.seconds)
		}
	}
	plan := open("../../program/testdata/plan.pdf")
	if plan.Fault != "" || plan.Kind != slot.PDF || plan.Pages < 1 || !plan.HasText {
		t.Errorf("the plan: %+v", plan)
	}
}

func TestBadFiles(t *testing.T) {
	for content, want := range map[string]slot.Fault{"": slot.Empty, "just words\n": slot.WrongKind, "%PDF-1.7\nbroken": slot.Unreadable,
		"\x89PNG\r\n\x1a\nbroken": slot.Unreadable, "\x00\x00\x00\x18ftypmp42\x00\x00\x00\x00mp42isom": slot.Unreadable} {
		path := filepath.Join(t.TempDir(), "file")
		if err := os.WriteFile(path, []byte(content), 0o600); err != nil {
			t.Fatal(err)
		}
		if f := open(path); f.Fault != want {
			t.Errorf("%q: %+v, want %s", content, f, want)
		}
	}
}

func FuzzPictures(f *testing.F) {
	for _, name := range []string{"j300.jpg", "p72.png", "j_units2.jpg"} {
		b, err := os.ReadFile(fixtures + name)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(b)
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		pngDPI(b)
		jpegDPI(b)
	})
}
