package inspect

import (
	"archive/zip"
	"encoding/xml"
	"io"
	"os"
	"strings"

	"ulvant/core/slot"
)

// mostProperties is how much of a file's properties is read, in bytes.
const mostProperties = 256 << 10

// lookOffice finds the author that a text or sheet names in its properties: in
// docProps/core.xml of an Office Open XML package (ECMA-376, part 2, core
// properties), in meta.xml of an OpenDocument package (OASIS ODF 1.2, part 1,
// chapter 4). A package without them, or that cannot be read, names nobody.
func lookOffice(file *os.File, f *slot.Facts) slot.Fault {
	st, err := file.Stat()
	if err != nil {
		return ""
	}
	pkg, err := zip.NewReader(file, st.Size())
	if err != nil {
		return "" // CSV is no package
	}
	f.Template = markIn(pkg)
	for _, name := range []string{"docProps/core.xml", "meta.xml"} {
		part, err := pkg.Open(name)
		if err != nil {
			continue
		}
		f.Author = creator(io.LimitReader(part, mostProperties))
		part.Close()
		return ""
	}
	return ""
}

// creator is the first author that properties name: Dublin Core's creator, or
// who began an OpenDocument file.
func creator(r io.Reader) string {
	d := xml.NewDecoder(r)
	in := false
	for {
		t, err := d.Token()
		if err != nil {
			return ""
		}
		switch t := t.(type) {
		case xml.StartElement:
			in = t.Name.Local == "creator" || t.Name.Local == "initial-creator"
		case xml.CharData:
			if name := authorOf(string(t)); in && name != "" {
				return name
			}
		case xml.EndElement:
			in = false
		}
	}
}

// authorOf is a name as it is kept: on one line, and not endless.
func authorOf(s string) string {
	s = strings.Join(strings.Fields(strings.ToValidUTF8(strings.ReplaceAll(s, "\x00", ""), "")), " ")
	if r := []rune(s); len(r) > 120 {
		s = string(r[:120])
	}
	return s
}
