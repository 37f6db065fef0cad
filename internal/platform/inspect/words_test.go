package inspect

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"codeberg.org/go-pdf/fpdf"
)

// wordsAt reads a file's words in a child.
func wordsAt(t *testing.T, path string) Words {
	t.Helper()
	w, err := Bench{}.Words(context.Background(), path)
	if err != nil {
		t.Fatalf("%s: %v", path, err)
	}
	return w
}

// made writes a file of one's own.
func made(t *testing.T, name, body string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, []byte(body), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// A text printed by Chromium and by LibreOffice is read back as it was written: two
// writers of PDF that are not ours, with fonts of their own kinds.
func TestWordsThatOthersPrint(t *testing.T) {
	if testing.Short() {
		t.Skip("starts a browser and an office")
	}
	lines := []string{"The reed beds of Corvoe", "Imre Calloway-Ó Dálaigh plants reed",
		"the office’s “findings” follow — fifty × two",
		"Łucja Şen reads the Kæmpe waffle file effortlessly", "note one"}
	dir := t.TempDir()
	page, sheet := filepath.Join(dir, "page.html"), filepath.Join(dir, "sheet.csv")
	for path, body := range map[string]string{
		page: `<!doctype html><meta charset=utf-8><style>@page{margin:2cm} body{font:11pt serif} small{font-size:7pt}</style><h1>` + lines[0] +
			`</h1><p>` + strings.Join(lines[1:4], "; ") + strings.Repeat("; as such papers do", 20) + `</p><small>` + lines[4] +
			`</small>`,
		sheet: "\ufeff" + strings.Join(lines, "\n") + "\n",
	} {
		if err := os.WriteFile(path, []byte(body), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range []struct {
		by, out string
		body    float64 // points
		run     []string
	}{
		{"Chromium", "chromium.pdf", 11, []string{"chromium", "--headless", "--no-sandbox", "--disable-gpu",
			"--no-pdf-header-footer",
			"--print-to-pdf=" + filepath.Join(dir, "chromium.pdf"), page}},
		{"LibreOffice", "sheet.pdf", 10, []string{"soffice", "-env:UserInstallation=file://" + dir + "/profile", "--headless",
			"--infilter=CSV:44,34,76", "--convert-to", "pdf", "--outdir", dir, sheet}},
	} {
		if out, err := exec.Command(c.run[0], c.run[1:]...).CombinedOutput(); err != nil {
			t.Errorf("%s: %v %s", c.by, err, out)
			continue
		}
		w := wordsAt(t, filepath.Join(dir, c.out))
		text := strings.Join(strings.Fields(strings.Join(w.Pages, " ")), " ")
		for _, want := range lines {
			if !strings.Contains(text, want) {
				t.Errorf("%s: %q is not in\n%s", c.by, want, text)
			}
		}
		if w.More || w.Type != c.body {
			t.Errorf("%s: body type of %v points, more: %v", c.by, w.Type, w.More)
		}
	}
}

// The smallest body type: what takes up a twentieth of the letters counts, a note does not.
func TestTypeOf(t *testing.T) {
	for _, c := range []struct {
		what  string
		sizes map[float64]int // letters of a size in points
		want  float64
	}{
		{"one size", map[float64]int{11: 500}, 11},
		{"a small note", map[float64]int{11: 500, 7: 20}, 11},
		{"a text in small type", map[float64]int{11: 500, 8.5: 100}, 8.5},
		{"just a twentieth", map[float64]int{11: 190, 8: 10}, 8},
		{"headings are larger", map[float64]int{10: 500, 24: 100}, 10},
		{"nothing", nil, 0},
	} {
		doc := fpdf.New("P", "pt", "A4", "")
		doc.AddPage()
		for size, n := range c.sizes {
			doc.SetFont("Helvetica", "", size)
			doc.SetXY(20, 20+size*30)
			doc.MultiCell(500, size, strings.Repeat("n", n), "", "", false)
		}
		path := filepath.Join(t.TempDir(), "sizes.pdf")
		if err := doc.OutputFileAndClose(path); err != nil {
			t.Fatal(err)
		}
		if got := wordsAt(t, path); got.Type != c.want {
			t.Errorf("%s: %v points, want %v", c.what, got.Type, c.want)
		}
		f, err := Bench{}.Look(context.Background(), path)
		if err != nil || f.TypeLeast != c.want || c.want > 0 && (f.Words == nil || f.Words.Type != c.want) {
			t.Errorf("%s, with all else that is found out: %+v, %v, want %v", c.what, f, err, c.want)
		}
	}
}

// pdfOf is a PDF of one page written by hand: its content, and further objects from 6 on.
func pdfOf(content, page string, more ...string) string {
	objects := append([]string{
		"<< /Type /Catalog /Pages 2 0 R >>",
		"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R " + page + " >>",
		"<< /Length " + strconv.Itoa(len(content)) + " >>\nstream\n" + content + "\nendstream",
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>",
	}, more...)
	var out strings.Builder
	out.WriteString("%PDF-1.4\n")
	at := make([]int, len(objects))
	for i, o := range objects {
		at[i] = out.Len()
		out.WriteString(strconv.Itoa(i+1) + " 0 obj\n" + o + "\nendobj\n")
	}
	xref := out.Len()
	out.WriteString("xref\n0 " + strconv.Itoa(len(objects)+1) + "\n0000000000 65535 f \n")
	for _, n := range at {
		out.WriteString(strings.Repeat("0", 10-len(strconv.Itoa(n))) + strconv.Itoa(n) + " 00000 n \n")
	}
	out.WriteString("trailer\n<< /Size " + strconv.Itoa(len(objects)+1) + " /Root 1 0 R >>\nstartxref\n" +
		strconv.Itoa(xref) + "\n%%EOF\n")
	return out.String()
}

// What a page says in ways that writers have of saying it.
func TestWordsOfAPage(t *testing.T) {
	const font = "/Resources << /Font << /F 5 0 R >> /XObject << /X 6 0 R >> >>"
	form := func(content string) string {
		return "<< /Type /XObject /Subtype /Form /BBox [0 0 100 100] /Resources << /Font << /F 5 0 R >> /XObject << /X 6 0 R >> >> /Length " +
			strconv.Itoa(len(content)) + " >>\nstream\n" + content + "\nendstream"
	}
	for _, c := range []struct{ what, content, page, form, want string }{
		{"one line", "BT /F 12 Tf 20 700 Td (Imre Calloway) Tj ET", font, form(""), "Imre Calloway"},
		{"two lines", "BT /F 12 Tf 14 TL 20 700 Td (Imre) Tj (Calloway) ' ET", font, form(""), "Imre\nCalloway"},
		{"drawn close", "BT /F 12 Tf 20 700 Td [(Cal) 30 (lo) -20 (way)] TJ ET", font, form(""), "Calloway"},
		{"set apart without a space", "BT /F 12 Tf 20 700 Td [(Imre) -300 (Calloway)] TJ ET", font, form(""),
			"Imre Calloway"},
		{"within a form", "BT /F 12 Tf 20 700 Td (See) Tj ET /X Do", font, form("BT /F 12 Tf 20 500 Td (Calloway) Tj ET"),
			"See\nCalloway"},
		{"a form within itself", "/X Do", font, form("BT /F 12 Tf 20 500 Td (Ab) Tj ET /X Do"), "Ab"},
		{"a note on it, and a field", "", font + " /Annots [<< /Subtype /Text /T (I. Calloway) /Contents (mine) >> " +
			"<< /Subtype /Widget /V <FEFF0141> >>]", form(""), "\nI. Calloway\nmine\nŁ"},
		{"nothing", "0 0 10 10 re f", font, form(""), ""},
		{"broken", "BT /F 12 Tf 20 700 Td (Imre) Tj ( [[[ ET", font, form(""), "Imre"},
	} {
		w := wordsAt(t, made(t, "page.pdf", pdfOf(c.content, c.page, c.form)))
		if len(w.Pages) != 1 || !strings.HasPrefix(w.Pages[0], c.want) || c.want == "" && w.Pages[0] != "" {
			t.Errorf("%s: %q, want %q", c.what, w.Pages, c.want)
		}
		if w.Blank() != (c.want == "") {
			t.Errorf("%s: blank is %v", c.what, w.Blank())
		}
	}
}

// Shapes that nobody says the letters of are not guessed.
func TestWordsNobodyCanKnow(t *testing.T) {
	w := wordsAt(t, made(t, "page.pdf", pdfOf("BT /F 12 Tf 20 700 Td <00010002> Tj ET",
		"/Resources << /Font << /F 6 0 R >> >>",
		"<< /Type /Font /Subtype /Type0 /BaseFont /A /Encoding /Identity-H /DescendantFonts [<< /Subtype /CIDFontType2 >>] >>")))
	if !w.More || !w.Blank() {
		t.Errorf("%+v", w)
	}
}

// What stands in texts and tables, in their notes and headers, and who made a comment or
// a change; numbers and settings are no words. Laid out as ECMA-376 and ODF 1.2 say.
func TestWordsOfOfficeFiles(t *testing.T) {
	const types = `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`
	for _, c := range []struct {
		what  string
		parts []string
		want  string
	}{
		{"a text", []string{"[Content_Types].xml", types, "word/document.xml",
			`<w:document xmlns:w="w"><w:p><w:r><w:t>Imre</w:t></w:r>` +
				`<w:r><w:t xml:space="preserve"> Calloway</w:t></w:r></w:p><w:p><w:ins w:author="D. Ash"><w:r><w:t>plants reed</w:t></w:r></w:ins></w:p></w:document>`,
			"word/footnotes.xml", `<w:footnotes xmlns:w="w"><w:p>a note</w:p></w:footnotes>`, "word/_rels/x.rels",
			`<a>left</a>`},
			"Imre Calloway D. Ash plants reed a note"},
		{"an open document", []string{"mimetype", "application/vnd.oasis.opendocument.text", "content.xml",
			`<o xmlns:t="t" xmlns:dc="d"><t:h>The plan</t:h><t:p>of<t:s/>Imre</t:p><dc:creator>Dacian</dc:creator></o>`,
			"meta.xml", `<o>left</o>`},
			"The plan of Imre Dacian"},
		{"a table", []string{"[Content_Types].xml", types, "xl/workbook.xml", "<workbook/>", "xl/sharedStrings.xml",
			`<sst><si><t>Reed</t></si><si><t>Calloway</t></si></sst>`,
			"xl/worksheets/sheet1.xml",
			`<worksheet><c t="s"><v>0</v></c><c t="inlineStr"><is><t>mown</t></is></c></worksheet>`}, "Reed Calloway mown"},
		{"one that breaks off", []string{"[Content_Types].xml", types, "word/document.xml", `<w><p>Imre</p><`}, "Imre"},
	} {
		w := wordsAt(t, pkg(t, c.parts...))
		if got := strings.Join(strings.Fields(strings.Join(w.Pages, " ")), " "); got != c.want || len(w.Pages) != 1 {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
	}
	if w := wordsAt(t, made(t, "list.csv", "name,sum\nImre Calloway,12\n")); !strings.Contains(w.Pages[0],
		"Imre Calloway") {
		t.Errorf("CSV: %+v", w)
	}
	if w := wordsAt(t, fixtures+"p300.png"); !w.Blank() {
		t.Errorf("a picture: %+v", w)
	}
}

// Whatever stands in a file, its words are read or it is said that they cannot be, within
// their bounds.
func FuzzWords(f *testing.F) {
	const font = "/Resources << /Font << /F 5 0 R >> >>"
	f.Add([]byte(pdfOf("BT /F 12 Tf 20 700 Td (Imre) Tj ET", font)))
	f.Add([]byte(pdfOf("BT /F 0 Tf [(a) -1e9 (b)] TJ 1 2 3 Tm \" ' Q Q Q ET", font)))
	f.Add([]byte("%PDF-1.4\nxref\n0 1\ntrailer << /Root 1 0 R >>"))
	f.Add([]byte("a,b\n1,2\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		path := filepath.Join(t.TempDir(), "file")
		if err := os.WriteFile(path, b, 0o600); err != nil {
			t.Fatal(err)
		}
		file, err := os.Open(path)
		if err != nil {
			t.Fatal(err)
		}
		defer file.Close()
		var out strings.Builder
		if wordsOf(file, &out) == nil && out.Len() > 4*mostText {
			t.Errorf("%d bytes of words", out.Len())
		}
	})
}
