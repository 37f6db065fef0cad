// Package sealcopy makes the applicant's PDF copy of a sealed application:
// answers, files with their fingerprints, and the seal's signature. A
// character that the font cannot draw is shown as a hollow box and counted at
// the end; nothing that was written can stop the copy.
package sealcopy

import (
	"bytes"
	_ "embed"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"strings"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/sfnt"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/internal/application"
)

//go:embed fonts/DejaVuSans.ttf
var regular []byte

//go:embed fonts/DejaVuSans-Bold.ttf
var bold []byte

type printer struct {
	pdf     *fpdf.Fpdf
	font    *sfnt.Font
	buf     sfnt.Buffer
	missing int
}

// PDF of a seal under its design.
func PDF(f *form.Form, s application.Seal, roundName string) ([]byte, error) {
	font, err := sfnt.Parse(regular)
	if err != nil {
		return nil, err
	}
	d := &s.Decoded
	p := &printer{pdf: fpdf.New("P", "mm", "A4", ""), font: font}
	p.pdf.SetCreationDate(d.At)
	p.pdf.SetModificationDate(d.At)
	p.pdf.SetCatalogSort(true)
	p.pdf.SetTitle(p.text(d.Ref+" "+d.Title), true)
	p.pdf.AddUTF8FontFromBytes("body", "", regular)
	p.pdf.AddUTF8FontFromBytes("body", "B", bold)
	p.pdf.SetMargins(20, 20, 20)
	p.pdf.SetAutoPageBreak(true, 20)
	p.pdf.SetFooterFunc(func() {
		p.pdf.SetY(-14)
		p.pdf.SetFont("body", "", 8)
		p.pdf.CellFormat(0, 5, p.text(fmt.Sprintf("%s · page %d", d.Ref, p.pdf.PageNo())), "", 0, "C", false, 0, "")
	})
	p.pdf.AddPage()
	p.line("B", 16, 8, d.Title)
	p.line("", 10, 5, fmt.Sprintf("%s · %s · design %d", d.Ref, roundName, d.Design))
	p.line("", 10, 5, "Sent by "+d.By+" on "+d.At.In(f.Zone).Format("2 January 2006 at 15:04:05 MST"))
	p.answers(f, d)
	p.files(f, d)
	p.pdf.Ln(4)
	p.line("B", 11, 6, "Seal")
	p.line("", 8, 4, "SHA-256 "+hex.EncodeToString(s.SHA256))
	p.line("", 8, 4, "Ed25519 "+base64.StdEncoding.EncodeToString(s.Signature))
	if p.missing > 0 {
		p.line("", 8, 4, phrase.Count(int64(p.missing), "character", "characters")+" could not be drawn in this copy and "+
			"are shown as □. They are kept whole in the application itself.")
	}
	var out bytes.Buffer
	err = p.pdf.Output(&out)
	return out.Bytes(), err
}

// text replaces what the font has no glyph for.
func (p *printer) text(s string) string {
	s = strings.ToValidUTF8(s, "□")
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\n':
			return r
		case r == '\t':
			return ' '
		case r < ' ' || r == 0x7f || r >= 0x200b && r <= 0x200f || r >= 0x202a && r <= 0x202e || r >= 0x2066 &&
			r <= 0x2069 || r == 0xfe0f || r == 0xfeff:
			return -1
		}
		if g, err := p.font.GlyphIndex(&p.buf, r); err != nil || g == 0 || r > 0xffff {
			p.missing++
			return '□'
		}
		return r
	}, s)
}

func (p *printer) line(style string, size, height float64, s string) {
	p.pdf.SetFont("body", style, size)
	p.pdf.MultiCell(0, height, p.text(s), "", "L", false)
}

func (p *printer) answers(f *form.Form, d *seal.Document) {
	filled := d.Filled(d.By)
	path := f.Walk(filled)
	for _, sec := range f.Design.Sections {
		head := false
		for i := range sec.Questions {
			q := &sec.Questions[i]
			st := path.Find(q.Key)
			if st == nil || st.Asked != condition.Yes || !q.Written() {
				continue
			}
			text := say.Answer(f, q, filled, st)
			if text == "" {
				continue
			}
			if !head {
				p.pdf.Ln(4)
				p.line("B", 13, 7, sec.Label)
				head = true
			}
			p.pdf.Ln(1)
			p.line("B", 10, 5, q.Label)
			p.line("", 10, 5, text)
		}
	}
}

func (p *printer) files(f *form.Form, d *seal.Document) {
	if len(d.Files) > 0 {
		p.pdf.Ln(4)
		p.line("B", 13, 7, "Files")
	}
	for _, x := range d.Files {
		label := string(x.Slot)
		if q := f.Question(x.Slot); q != nil {
			label = q.Label
		}
		p.line("", 10, 5, label+": "+x.Name+", "+say.File(x.Size, x.Facts))
		p.line("", 8, 4, "SHA-256 "+x.SHA256)
	}
	for i, l := range d.Letters {
		if i == 0 {
			p.pdf.Ln(4)
			p.line("B", 13, 7, "Letters and confirmations")
		}
		if l.Confirms {
			p.line("", 10, 5, l.Name+" ("+l.Knows+") has confirmed what was asked.")
			continue
		}
		p.line("", 10, 5, "From "+l.Name+" ("+l.Knows+"): sent. The letter itself is no part of this copy.")
	}
}
