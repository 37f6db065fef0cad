package inspect

import (
	"context"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/xuri/excelize/v2"
)

// A template is known again by the mark within it: as it was put up, when it was marked
// before, and after a program that is not ours has opened and saved it.
func TestMarked(t *testing.T) {
	const mark = "7 v2 0123456789abcdef"
	dir := t.TempDir()
	book := filepath.Join(dir, "book.xlsx")
	f := excelize.NewFile()
	if err := f.SetCellValue("Sheet1", "A1", "What"); err != nil {
		t.Fatal(err)
	}
	if err := f.SaveAs(book); err != nil {
		t.Fatal(err)
	}
	office := func(from, to string) string {
		t.Helper()
		out := t.TempDir()
		if b, err := exec.Command("soffice", "-env:UserInstallation=file://"+dir+"/profile", "--headless", "--convert-to", to,
			"--outdir", out, from).CombinedOutput(); err != nil {
			t.Fatalf("%v %s", err, b)
		}
		list, err := filepath.Glob(filepath.Join(out, "*."+to))
		if err != nil || len(list) != 1 {
			t.Fatal(list, err)
		}
		return list[0]
	}
	open := ""
	if !testing.Short() {
		open = office(book, "ods")
	}
	const types = `<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"></Types>`
	const links = `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"></Relationships>`
	for _, c := range []struct{ what, path, ends string }{
		{"a PDF", "../../programtest/testdata/plan.pdf", ""},
		{"a workbook", book, "xlsx"},
		{"a text", pkg(t, "[Content_Types].xml", types, "_rels/.rels", links, "word/document.xml", "<w/>"), ""},
		{"a text with properties of its own", pkg(t, "[Content_Types].xml", types, "_rels/.rels", links, "word/document.xml",
			"<w/>", "docProps/custom.xml",
			`<Properties xmlns="p"><property fmtid="x" pid="2" name="Other"><lpwstr>3 v3 aaaaaaaaaaaaaaaa</lpwstr></property></Properties>`), ""},
		{"an open text", pkg(t, "mimetype", "application/vnd.oasis.opendocument.text", "meta.xml",
			`<office:document-meta xmlns:office="o" xmlns:meta="m"><office:meta/></office:document-meta>`), ""},
		{"an open sheet", open, "ods"},
	} {
		if c.path == "" {
			continue
		}
		path := c.path
		for _, m := range []string{"7 v1 ffffffffffffffff", mark} { // the second was made from the first
			b, err := Bench{}.Marked(context.Background(), path, m)
			if err != nil {
				t.Fatalf("%s: %v", c.what, err)
			}
			path = filepath.Join(t.TempDir(), "marked."+filepath.Ext("x." + c.ends)[1:])
			if err := os.WriteFile(path, b, 0o600); err != nil {
				t.Fatal(err)
			}
			if got := look(t, path); got.Fault != "" || got.Template != m {
				t.Errorf("%s: %+v, want %s", c.what, got, m)
			}
		}
		if c.ends != "" && !testing.Short() {
			if got := look(t, office(path, c.ends)); got.Template != mark {
				t.Errorf("%s, saved by LibreOffice: %+v", c.what, got)
			}
		}
	}
	for _, path := range []string{fixtures + "p300.png", made(t, "list.csv", "a,b\n1,2\n"),
		made(t, "no.pdf", "%PDF-1.4 broken")} {
		if _, err := (Bench{}).Marked(context.Background(), path, mark); !errors.Is(err, ErrKept) {
			t.Errorf("%s: %v", path, err)
		}
	}
}
