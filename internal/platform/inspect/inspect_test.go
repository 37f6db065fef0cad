package inspect

import (
	"archive/zip"
	"math"
	"os"
	"path/filepath"
	"testing"

	"ulvant/core/slot"

	"codeberg.org/go-pdf/fpdf"
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

// Whom a file's own properties name. The packages are made here as ECMA-376 and
// ODF 1.2 lay them out; the PDF is made by the library that the copies are made
// with (go-pdf/fpdf).
func TestAuthors(t *testing.T) {
	pkg := func(parts ...string) string {
		path := filepath.Join(t.TempDir(), "file")
		out, err := os.Create(path)
		if err != nil {
			t.Fatal(err)
		}
		defer out.Close()
		z := zip.NewWriter(out)
		for i := 0; i < len(parts); i += 2 {
			h := &zip.FileHeader{Name: parts[i], Method: zip.Deflate}
			if parts[i] == "mimetype" {
				h.Method = zip.Store
			}
			w, err := z.CreateHeader(h)
			if err != nil {
				t.Fatal(err)
			}
			if _, err := w.Write([]byte(parts[i+1])); err != nil {
				t.Fatal(err)
			}
		}
		if err := z.Close(); err != nil {
			t.Fatal(err)
		}
		return path
	}
	pdf := func(author string) string {
		path := filepath.Join(t.TempDir(), "file.pdf")
		doc := fpdf.New("P", "mm", "A4", "")
		doc.AddPage()
		if author != "" {
			doc.SetAuthor(author, true)
		}
		if err := doc.OutputFileAndClose(path); err != nil {
			t.Fatal(err)
		}
		return path
	}
	core := func(body string) string {
		return pkg("[Content_Types].xml", `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`, "word/document.xml", "<w/>", "docProps/core.xml",
			`<?xml version="1.0" encoding="UTF-8"?><cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties" xmlns:dc="http://purl.org/dc/elements/1.1/">`+body+`</cp:coreProperties>`)
	}
	for _, c := range []struct {
		what, path string
		kind       slot.Kind
		want       string
	}{
		{"a text with its writer", core(`<dc:title>A bridge</dc:title><dc:creator>Brónach Eddis-Nakamura</dc:creator>`), slot.Text, "Brónach Eddis-Nakamura"},
		{"a text without one", core(`<dc:creator> </dc:creator><dc:title>A bridge</dc:title>`), slot.Text, ""},
		{"properties that are broken", core(`<dc:creator`), slot.Text, ""},
		{"an open document", pkg("mimetype", "application/vnd.oasis.opendocument.text", "meta.xml", `<office:document-meta xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:meta="urn:oasis:names:tc:opendocument:xmlns:meta:1.0"><office:meta><meta:initial-creator>Tam  O’Rourke</meta:initial-creator></office:meta></office:document-meta>`), slot.Text, "Tam O’Rourke"},
		{"a PDF with its writer", pdf("Ysolde Fenn, Tarl"), slot.PDF, "Ysolde Fenn, Tarl"},
		{"a PDF without one", pdf(""), slot.PDF, ""},
	} {
		if f := open(c.path); f.Fault != "" || f.Kind != c.kind || f.Author != c.want {
			t.Errorf("%s: %+v, want %q", c.what, f, c.want)
		}
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
