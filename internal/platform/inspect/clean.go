package inspect

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"errors"
	"io"
	"os"

	"github.com/gabriel-vasile/mimetype"
	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"ulvant/core/slot"
)

// Where names are hidden readers get a file without what its own properties say
// of who made it: the document information and XMP of a PDF (ISO 32000-1, 14.3),
// EXIF, IPTC and XMP of a JPEG, the text chunks of a PNG, the user data of an
// MP4, the tags of sound files, the properties of office packages. What stands
// in a page, a picture, a comment or a tracked change is not touched.

// errNotCleaned: a file of a kind whose properties cannot be taken out.
var errNotCleaned = errors.New("the properties of this file cannot be taken out")

// mostCleaned is how large a file may be whose properties are taken out in memory, in bytes;
// films and sounds of any size are copied through.
const mostCleaned = 64 << 20

// clean writes a file without its properties.
func clean(file *os.File, w io.Writer) error {
	st, err := file.Stat()
	if err != nil {
		return err
	}
	kind, err := mimetype.DetectReader(file)
	if err != nil {
		return err
	}
	for _, k := range known {
		for _, m := range k.mime {
			if !kind.Is(m) {
				continue
			}
			if k.kind == slot.Film || k.kind == slot.Sound {
				left, err := cleanRunning(kind, file, st.Size())
				if err != nil {
					return err
				}
				return copied(w, file, left)
			}
			b, err := io.ReadAll(io.NewSectionReader(file, 0, mostCleaned+1))
			if err != nil {
				return err
			}
			if len(b) > mostCleaned {
				return errNotCleaned
			}
			if b, err = cleanStill(kind, k.kind, b); err != nil {
				return err
			}
			_, err = w.Write(b)
			return err
		}
	}
	return errNotCleaned
}

// cleanStill is the bytes of a paper or a picture without its properties.
func cleanStill(kind *mimetype.MIME, as slot.Kind, b []byte) ([]byte, error) {
	switch {
	case as == slot.PDF:
		return cleanPDF(b)
	case kind.Is("image/jpeg"):
		return cleanJPEG(b)
	case kind.Is("image/png"):
		return cleanPNG(b)
	case kind.Is("text/csv"):
		return b, nil
	}
	return cleanPackage(b)
}

// cleanPDF drops the information dictionary and every metadata stream.
func cleanPDF(b []byte) ([]byte, error) {
	api.DisableConfigDir()
	conf := model.NewDefaultConfiguration()
	conf.ValidationMode = model.ValidationRelaxed
	ctx, err := api.ReadValidateAndOptimize(bytes.NewReader(b), conf)
	if err != nil {
		return nil, err
	}
	for _, e := range ctx.Table {
		if e == nil || e.Free {
			continue
		}
		if d, ok := dictOf(e.Object); ok {
			d.Delete("Metadata")
			d.Delete("PieceInfo")
			d.Delete("EmbeddedFiles") // files within it were looked at by nobody
		}
	}
	ctx.Info, ctx.Author, ctx.Title, ctx.Subject, ctx.Keywords, ctx.Creator, ctx.Producer = nil, "", "", "", "", "", ""
	ctx.CatalogXMPMeta = nil
	ctx.Properties = nil
	var out bytes.Buffer
	err = api.WriteContext(ctx, &out)
	return out.Bytes(), err
}

func dictOf(o types.Object) (types.Dict, bool) {
	switch o := o.(type) {
	case types.Dict:
		return o, true
	case types.StreamDict:
		return o.Dict, true
	}
	return nil, false
}

// cleanJPEG drops every application segment but JFIF's, the colour profile's and
// Adobe's colour transform, and comments (ITU-T T.81, annex B).
func cleanJPEG(b []byte) ([]byte, error) {
	out := append([]byte{}, b[:2]...)
	for i := 2; i+4 <= len(b); {
		if b[i] != 0xff {
			return nil, errNotCleaned
		}
		kind, size := b[i+1], int(binary.BigEndian.Uint16(b[i+2:]))
		end := i + 2 + size
		if size < 2 || end > len(b) {
			return nil, errNotCleaned
		}
		body := b[i+4 : end]
		keep := kind < 0xe0 || kind > 0xef && kind != 0xfe || kind == 0xe0 && bytes.HasPrefix(body, []byte("JFIF\x00")) ||
			kind == 0xe2 && bytes.HasPrefix(body, []byte("ICC_PROFILE\x00")) || kind == 0xee &&
			bytes.HasPrefix(body, []byte("Adobe"))
		if keep {
			out = append(out, b[i:end]...)
		}
		if kind == 0xda { // the picture itself follows, to the end mark; what is behind it goes
			rest := b[end:]
			if n := bytes.LastIndex(rest, []byte{0xff, 0xd9}); n >= 0 {
				rest = rest[:n+2]
			}
			return append(out, rest...), nil
		}
		i = end
	}
	return nil, errNotCleaned
}

// cleanPNG keeps the chunks a picture is drawn from (PNG specification, 11).
func cleanPNG(b []byte) ([]byte, error) {
	out := append([]byte{}, b[:8]...)
	keep := map[string]bool{"IHDR": true, "PLTE": true, "IDAT": true, "IEND": true, "tRNS": true, "cHRM": true,
		"gAMA": true, "iCCP": true, "sBIT": true, "sRGB": true, "pHYs": true, "bKGD": true}
	for i := 8; i+12 <= len(b); {
		end := i + 12 + int(binary.BigEndian.Uint32(b[i:]))
		if end < i+12 || end > len(b) {
			return nil, errNotCleaned
		}
		name := string(b[i+4 : i+8])
		if keep[name] {
			out = append(out, b[i:end]...)
		}
		if name == "IEND" {
			return out, nil
		}
		i = end
	}
	return nil, errNotCleaned
}

// mostPackage is how much a package may unfold to, in bytes.
const mostPackage = 128 << 20

// cleanPackage writes an office package anew, its properties empty.
func cleanPackage(b []byte) ([]byte, error) {
	pkg, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return nil, err
	}
	empty := map[string]string{
		"docProps/core.xml":   `<?xml version="1.0" encoding="UTF-8" standalone="yes"?><cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties"/>`,
		"docProps/app.xml":    `<?xml version="1.0" encoding="UTF-8" standalone="yes"?><Properties xmlns="http://schemas.openxmlformats.org/officeDocument/2006/extended-properties"/>`,
		"docProps/custom.xml": `<?xml version="1.0" encoding="UTF-8" standalone="yes"?><Properties xmlns="http://schemas.openxmlformats.org/officeDocument/2006/custom-properties"/>`,
		"meta.xml":            `<?xml version="1.0" encoding="UTF-8"?><office:document-meta xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" office:version="1.2"><office:meta/></office:document-meta>`,
	}
	var out bytes.Buffer
	w, left := zip.NewWriter(&out), int64(mostPackage)
	for _, f := range pkg.File {
		to, err := w.CreateHeader(&zip.FileHeader{Name: f.Name, Method: f.Method})
		if err != nil {
			return nil, err
		}
		if s, ok := empty[f.Name]; ok {
			if _, err := io.WriteString(to, s); err != nil {
				return nil, err
			}
			continue
		}
		from, err := f.Open()
		if err != nil {
			return nil, err
		}
		n, err := io.Copy(to, io.LimitReader(from, left+1))
		from.Close()
		if left -= n; err == nil && left < 0 {
			err = errNotCleaned
		}
		if err != nil {
			return nil, err
		}
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}
