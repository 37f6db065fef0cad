package inspect

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
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
		f := look(t, fixtures+c.file)
		if f.Fault != "" || f.Kind != c.kind || math.Abs(f.DPI-c.dpi) > 0.001 || math.Abs(f.Seconds-c.seconds) > 0.0005 {
			t.Errorf("%s: %+v, want %s, %v dpi, %v s", c.file, f, c.kind, c.dpi, c.seconds)
		}
	}
	plan := look(t, "../../programtest/testdata/plan.pdf")
	if plan.Fault != "" || plan.Kind != slot.PDF || plan.Pages < 1 || !plan.HasText {
		t.Errorf("the plan: %+v", plan)
	}
}

// pkg is a package of parts, each a name and what it holds.
func pkg(t *testing.T, parts ...string) string {
	t.Helper()
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

// Whom a file's own properties name. The packages are made here as ECMA-376 and
// ODF 1.2 lay them out; the PDF is made by the library that the copies are made
// with (go-pdf/fpdf).
func TestAuthors(t *testing.T) {
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
		return pkg(t, "[Content_Types].xml", `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`,
			"word/document.xml", "<w/>", "docProps/core.xml",
			`<?xml version="1.0" encoding="UTF-8"?><cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties" xmlns:dc="http://purl.org/dc/elements/1.1/">`+body+`</cp:coreProperties>`)
	}
	for _, c := range []struct {
		what, path string
		kind       slot.Kind
		want       string
	}{
		{"a text with its writer", core(`<dc:title>A bridge</dc:title><dc:creator>Brónach Eddis-Nakamura</dc:creator>`),
			slot.Text, "Brónach Eddis-Nakamura"},
		{"a text without one", core(`<dc:creator> </dc:creator><dc:title>A bridge</dc:title>`), slot.Text, ""},
		{"properties that are broken", core(`<dc:creator`), slot.Text, ""},
		{"an open document", pkg(t, "mimetype", "application/vnd.oasis.opendocument.text", "meta.xml",
			`<office:document-meta xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:meta="urn:oasis:names:tc:opendocument:xmlns:meta:1.0"><office:meta><meta:initial-creator>Tam  O’Rourke</meta:initial-creator></office:meta></office:document-meta>`), slot.Text, "Tam O’Rourke"},
		{"a PDF with its writer", pdf("Ysolde Fenn, Tarl"), slot.PDF, "Ysolde Fenn, Tarl"},
		{"a PDF without one", pdf(""), slot.PDF, ""},
	} {
		if f := look(t, c.path); f.Fault != "" || f.Kind != c.kind || f.Author != c.want {
			t.Errorf("%s: %+v, want %q", c.what, f, c.want)
		}
	}
}

// authored makes a PDF and a text that name their author.
func authored(t *testing.T, author string) (pdf, text string) {
	t.Helper()
	pdf, text = filepath.Join(t.TempDir(), "file.pdf"), filepath.Join(t.TempDir(), "file.docx")
	doc := fpdf.New("P", "mm", "A4", "")
	doc.AddPage()
	doc.SetAuthor(author, true)
	doc.SetXmpMetadata([]byte(`<x:xmpmeta xmlns:x="adobe:ns:meta/"><creator>` + author + `</creator></x:xmpmeta>`))
	if err := doc.OutputFileAndClose(pdf); err != nil {
		t.Fatal(err)
	}
	out, err := os.Create(text)
	if err != nil {
		t.Fatal(err)
	}
	defer out.Close()
	z := zip.NewWriter(out)
	for name, body := range map[string]string{"[Content_Types].xml": `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`, "word/document.xml": "<w/>",
		"docProps/core.xml": `<cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:creator>` + author + `</dc:creator></cp:coreProperties>`} {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		w.Write([]byte(body))
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return pdf, text
}

// Running times by the formats' own arithmetic: a second of silence as WAV of
// 8,000 one-byte samples, FLAC's stream block of 44,100 samples at 44.1 kHz, MP3
// of 100 frames of 1,152 samples. Sources: RIFF WAVE; RFC 9639, 8.2; ISO/IEC
// 11172-3, 2.4.2.3 (from memory).
func TestSounds(t *testing.T) {
	wav := []byte("RIFF\x64\x1f\x00\x00WAVEfmt " +
		"\x10\x00\x00\x00\x01\x00\x01\x00\x40\x1f\x00\x00\x40\x1f\x00\x00\x01\x00\x08\x00data\x40\x1f\x00\x00")
	wav = append(wav, make([]byte, 8000)...)
	flac := append(append([]byte("fLaC\x00\x00\x00\x22"), make([]byte, 34)...), 0x81, 0, 0,
		0) // its own block, and empty padding
	binary.BigEndian.PutUint64(flac[8+10:], 44100<<44|44100)
	frame := append([]byte{0xff, 0xfb, 0x90, 0x00}, make([]byte,
		413)...) // MPEG 1, layer III, 128 kbit/s, 44.1 kHz: 417 bytes
	mp3 := bytes.Repeat(frame, 100)
	for _, c := range []struct {
		what string
		b    []byte
		want float64
	}{{"WAV", wav, 1}, {"FLAC", flac, 1}, {"MP3", mp3, 100 * 1152.0 / 44100}, {"MP3 with tags",
		append([]byte("ID3\x03\x00\x00\x00\x00\x00\x05hello"), mp3...), 100 * 1152.0 / 44100}} {
		path := filepath.Join(t.TempDir(), "sound")
		if err := os.WriteFile(path, c.b, 0o600); err != nil {
			t.Fatal(err)
		}
		if f := look(t, path); f.Kind != slot.Sound || math.Abs(f.Seconds-c.want) > 1e-9 {
			t.Errorf("%s: %+v, want %v s", c.what, f, c.want)
		}
	}
}

func TestBadFiles(t *testing.T) {
	for content, want := range map[string]slot.Fault{"": slot.Empty, "just words\n": slot.WrongKind,
		"%PDF-1.7\nbroken":        slot.Unreadable,
		"\x89PNG\r\n\x1a\nbroken": slot.Unreadable, "\x00\x00\x00\x18ftypmp42\x00\x00\x00\x00mp42isom": slot.Unreadable} {
		path := filepath.Join(t.TempDir(), "file")
		if err := os.WriteFile(path, []byte(content), 0o600); err != nil {
			t.Fatal(err)
		}
		if f := look(t, path); f.Fault != want {
			t.Errorf("%q: %+v, want %s", content, f, want)
		}
	}
}

// look opens a file here, in the test's own process.
func look(t *testing.T, path string) Finding {
	t.Helper()
	f, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	return open(f)
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
