package sealcopy

import (
	"bytes"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/sfnt"
)

// Paper is one of a few lines that somebody keeps: a receipt, an invoice.
type Paper struct {
	Title, Head string
	At          time.Time // the file's own date
	Parts       []Part
	Sums        []Sum
	Foot        string
}

// Part of a paper; one without a text is left out. One that Opens begins a page.
type Part struct {
	Label, Text string
	Opens       bool
}

// Sum is a line with what it comes to; Total is drawn as one.
type Sum struct {
	Label, Sum string
	Total      bool
}

// Draw it as PDF.
func (x Paper) Draw() ([]byte, error) {
	font, err := sfnt.Parse(regular)
	if err != nil {
		return nil, err
	}
	p := &printer{pdf: fpdf.New("P", "mm", "A4", ""), font: font}
	p.pdf.SetCreationDate(x.At)
	p.pdf.SetModificationDate(x.At)
	p.pdf.SetCatalogSort(true)
	p.pdf.SetTitle(p.text(x.Title), true)
	p.pdf.AddUTF8FontFromBytes("body", "", regular)
	p.pdf.AddUTF8FontFromBytes("body", "B", bold)
	p.pdf.SetMargins(20, 20, 20)
	p.pdf.SetAutoPageBreak(true, 20)
	p.pdf.AddPage()
	p.line("B", 16, 8, x.Title)
	p.line("", 10, 5, x.Head)
	for _, part := range x.Parts {
		switch {
		case part.Text == "":
		case part.Opens:
			p.pdf.AddPage()
			p.line("B", 14, 7, part.Label)
			p.line("", 10, 5, part.Text)
		default:
			p.pdf.Ln(2)
			p.line("B", 9, 5, part.Label)
			p.line("", 11, 6, part.Text)
		}
	}
	p.pdf.Ln(4)
	for _, s := range x.Sums {
		style, edge := "", ""
		if s.Total {
			style, edge = "B", "T"
		}
		p.pdf.SetFont("body", style, 11)
		p.pdf.CellFormat(130, 7, p.text(s.Label), edge, 0, "L", false, 0, "")
		p.pdf.CellFormat(40, 7, p.text(s.Sum), edge, 1, "R", false, 0, "")
	}
	if x.Foot != "" {
		p.pdf.Ln(6)
		p.line("", 9, 5, x.Foot)
	}
	var out bytes.Buffer
	err = p.pdf.Output(&out)
	return out.Bytes(), err
}
