package inspect

import (
	"archive/zip"
	"encoding/xml"
	"io"
	"os"
	"slices"
	"strings"
)

// mostUnfolded is how much of a package is unfolded for its words, in bytes.
const mostUnfolded = 64 << 20

// office reads what is written in the parts of an office package: texts, tables, notes,
// headers, comments, and who made a comment or a tracked change (ECMA-376, part 1;
// OASIS ODF 1.2, part 1).
func (t *taken) office(file *os.File) error {
	st, err := file.Stat()
	if err != nil {
		return err
	}
	pkg, err := zip.NewReader(file, st.Size())
	if err != nil {
		return err
	}
	left := int64(mostUnfolded)
	for _, f := range pkg.File {
		if !strings.HasSuffix(f.Name, ".xml") || !slices.ContainsFunc([]string{"word/", "xl/", "content.xml", "styles.xml"},
			func(begins string) bool { return strings.HasPrefix(f.Name, begins) }) {
			continue
		}
		if t.full() || left <= 0 {
			t.more = true
			break
		}
		part, err := f.Open()
		if err != nil {
			return err
		}
		r := &io.LimitedReader{R: part, N: left}
		t.marked(r)
		left = r.N
		part.Close()
		t.say("\n")
	}
	t.turn()
	return nil
}

// marked reads the words of an XML part as far as it is well formed.
func (t *taken) marked(r io.Reader) {
	d := xml.NewDecoder(r)
	skipped := 0 // depth below what holds numbers or settings
	for !t.full() {
		tok, err := d.Token()
		if err != nil {
			return
		}
		switch x := tok.(type) {
		case xml.StartElement:
			for _, a := range x.Attr {
				if a.Name.Local == "author" {
					t.say(" " + a.Value + "\n")
				}
			}
			if skipped > 0 || slices.Contains([]string{"v", "f", "instrText"}, x.Name.Local) {
				skipped++
			}
		case xml.CharData:
			if skipped == 0 {
				t.say(string(x))
			}
		case xml.EndElement:
			if skipped > 0 {
				skipped--
			}
			switch x.Name.Local {
			case "p", "h", "si", "br", "tr", "table-row", "creator", "author":
				t.say("\n")
			case "tab", "tc", "table-cell", "s", "is":
				t.say(" ")
			}
		}
	}
}
