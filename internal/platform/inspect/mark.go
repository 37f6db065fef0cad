package inspect

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"html"
	"io"
	"regexp"
	"strings"

	"github.com/gabriel-vasile/mimetype"
	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"

	"ulvant/core/slot"
)

// A template carries its mark as a property that the programs it is filled in with keep:
// an own entry of the information dictionary of a PDF (ISO 32000-1, 14.3.3), a custom
// property of an Office Open XML package (ECMA-376, part 1, 22.3), a user-defined field
// of an OpenDocument package (OASIS ODF 1.2, part 1, 4.3.3).

// Marked is the file at path with a mark in it; ErrKept when it cannot carry one.
func (b Bench) Marked(ctx context.Context, path, mark string) ([]byte, error) {
	out, _, err := b.run(ctx, marking, path, 64<<20, mark)
	if errors.Is(err, errChild) {
		return nil, ErrKept
	}
	return out, err
}

// marked puts a mark into a file, in place of one that is there.
func marked(b []byte, mark string) (out []byte, err error) {
	defer func() {
		if recover() != nil {
			err = errNotCleaned
		}
	}()
	kind := mimetype.Detect(b)
	switch {
	case kind.Is("application/pdf"):
		return markPDF(b, mark)
	case kind.Is("application/vnd.oasis.opendocument.text"), kind.Is("application/vnd.oasis.opendocument.spreadsheet"):
		return rewritten(b, func(parts map[string]string) error { return markOpen(parts, mark) })
	case kind.Is("application/vnd.openxmlformats-officedocument.wordprocessingml.document"),
		kind.Is("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"):
		return rewritten(b, func(parts map[string]string) error { return markOffice(parts, mark) })
	}
	return nil, errNotCleaned
}

func markPDF(b []byte, mark string) ([]byte, error) {
	api.DisableConfigDir()
	conf := model.NewDefaultConfiguration()
	conf.ValidationMode = model.ValidationRelaxed
	ctx, err := api.ReadValidateAndOptimize(bytes.NewReader(b), conf)
	if err != nil {
		return nil, err
	}
	if err := pdfcpu.PropertiesAdd(ctx, map[string]string{slot.TemplateProperty: mark}); err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = api.WriteContext(ctx, &out)
	return out.Bytes(), err
}

var (
	openMark = regexp.MustCompile(`<meta:user-defined [^>]*meta:name="` + slot.TemplateProperty +
		`"[^>]*>[^<]*</meta:user-defined>`)
	officeMark = regexp.MustCompile(`<(?:\w+:)?property [^>]*name="` + slot.TemplateProperty +
		`"[^>]*>.*?</(?:\w+:)?property>`)
	propertyID = regexp.MustCompile(`pid="(\d+)"`)
)

// markOpen puts a mark into meta.xml.
func markOpen(parts map[string]string, mark string) error {
	const part = "meta.xml"
	has, ok := parts[part]
	if !ok {
		return errNotCleaned
	}
	has = openMark.ReplaceAllString(has, "")
	field := `<meta:user-defined meta:name="` + slot.TemplateProperty + `">` + html.EscapeString(mark) +
		`</meta:user-defined>`
	switch {
	case strings.Contains(has, "</office:meta>"):
		parts[part] = strings.Replace(has, "</office:meta>", field+"</office:meta>", 1)
	case strings.Contains(has, "<office:meta/>"):
		parts[part] = strings.Replace(has, "<office:meta/>", "<office:meta>"+field+"</office:meta>", 1)
	default:
		return errNotCleaned
	}
	return nil
}

// markOffice puts a mark into docProps/custom.xml, which is made where there is none.
func markOffice(parts map[string]string, mark string) error {
	const part, types, relations = "docProps/custom.xml", "[Content_Types].xml", "_rels/.rels"
	property := func(id int) string {
		return fmt.Sprintf(`<property xmlns="http://schemas.openxmlformats.org/officeDocument/2006/custom-properties" fmtid="{D5CDD505-2E9C-101B-9397-08002B2CF9AE}" pid="%d" name="%s"><vt:lpwstr xmlns:vt="http://schemas.openxmlformats.org/officeDocument/2006/docPropsVTypes">%s</vt:lpwstr></property>`,
			id, slot.TemplateProperty, html.EscapeString(mark))
	}
	if has, ok := parts[part]; ok {
		has = officeMark.ReplaceAllString(has, "")
		most := 1 // the first of one's own is 2
		for _, m := range propertyID.FindAllStringSubmatch(has, -1) {
			var n int
			if _, err := fmt.Sscan(m[1], &n); err == nil {
				most = max(most, n)
			}
		}
		end := strings.LastIndex(has, "</")
		if end < 0 { // <Properties …/>
			return errNotCleaned
		}
		parts[part] = has[:end] + property(most+1) + has[end:]
		return nil
	}
	kinds, ok := parts[types]
	links, lok := parts[relations]
	if !ok || !lok || !strings.Contains(kinds, "</Types>") || !strings.Contains(links, "</Relationships>") {
		return errNotCleaned
	}
	parts[part] = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?><Properties xmlns="http://schemas.openxmlformats.org/officeDocument/2006/custom-properties">` +
		property(2) + `</Properties>`
	parts[types] = strings.Replace(kinds, "</Types>",
		`<Override PartName="/docProps/custom.xml" ContentType="application/vnd.openxmlformats-officedocument.custom-properties+xml"/></Types>`, 1)
	parts[relations] = strings.Replace(links, "</Relationships>",
		`<Relationship Id="rIdUlvant" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/custom-properties" Target="docProps/custom.xml"/></Relationships>`, 1)
	return nil
}

// rewritten is a package whose small parts were changed; the others are as they were, and
// in their order.
func rewritten(b []byte, change func(parts map[string]string) error) ([]byte, error) {
	pkg, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return nil, err
	}
	parts := map[string]string{}
	for _, f := range pkg.File {
		switch f.Name {
		case "meta.xml", "docProps/custom.xml", "[Content_Types].xml", "_rels/.rels":
			r, err := f.Open()
			if err != nil {
				return nil, err
			}
			body, err := io.ReadAll(io.LimitReader(r, mostProperties))
			r.Close()
			if err != nil {
				return nil, err
			}
			parts[f.Name] = string(body)
		}
	}
	if err := change(parts); err != nil {
		return nil, err
	}
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, f := range pkg.File {
		body, ok := parts[f.Name]
		if !ok {
			if err := w.Copy(f); err != nil {
				return nil, err
			}
			continue
		}
		delete(parts, f.Name)
		if err := part(w, f.Name, body); err != nil {
			return nil, err
		}
	}
	for name, body := range parts { // one that was made
		if err := part(w, name, body); err != nil {
			return nil, err
		}
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

func part(w *zip.Writer, name, body string) error {
	to, err := w.Create(name)
	if err == nil {
		_, err = io.WriteString(to, body)
	}
	return err
}

// markIn finds the mark in the properties of an office package; "" for none.
func markIn(pkg *zip.Reader) string {
	for _, name := range []string{"docProps/custom.xml", "meta.xml"} {
		file, err := pkg.Open(name)
		if err != nil {
			continue
		}
		mark := namedProperty(io.LimitReader(file, mostProperties))
		file.Close()
		if mark != "" {
			return mark
		}
	}
	return ""
}

// namedProperty is the value of the property that templates are marked by.
func namedProperty(r io.Reader) string {
	d, in := xml.NewDecoder(r), false
	var value strings.Builder
	for {
		tok, err := d.Token()
		if err != nil {
			return ""
		}
		switch x := tok.(type) {
		case xml.StartElement:
			if x.Name.Local == "property" || x.Name.Local == "user-defined" {
				in = attr(x, "name") == slot.TemplateProperty
			}
		case xml.CharData:
			if in {
				value.Write(x)
			}
		case xml.EndElement:
			if in && (x.Name.Local == "property" || x.Name.Local == "user-defined") {
				return authorOf(value.String())
			}
		}
	}
}
