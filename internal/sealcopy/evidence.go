package sealcopy

import (
	"bytes"
	"fmt"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/sfnt"

	"ulvant/internal/reference"
)

// Evidence is the page that shows what somebody confirmed: who, when, word for
// word what, from which link or on which paper, and its fingerprint.
func Evidence(e reference.Evidence, zone *time.Location) ([]byte, error) {
	font, err := sfnt.Parse(regular)
	if err != nil {
		return nil, err
	}
	p := &printer{pdf: fpdf.New("P", "mm", "A4", ""), font: font}
	p.pdf.SetCreationDate(e.At)
	p.pdf.SetModificationDate(e.At)
	p.pdf.SetCatalogSort(true)
	p.pdf.SetTitle(p.text("Confirmation for "+e.Ref), true)
	p.pdf.AddUTF8FontFromBytes("body", "", regular)
	p.pdf.AddUTF8FontFromBytes("body", "B", bold)
	p.pdf.SetMargins(20, 20, 20)
	p.pdf.SetAutoPageBreak(true, 20)
	p.pdf.AddPage()
	part := func(label, text string) {
		if text != "" {
			p.pdf.Ln(2)
			p.line("B", 9, 5, label)
			p.line("", 11, 6, text)
		}
	}
	p.line("B", 16, 8, "A confirmation")
	p.line("", 10, 5, e.Ref+" · "+e.Title+" · "+e.Round)
	part("Who", e.Name+optional(", ", e.Email)+optional(". Of them it was said: “", e.Knows)+closing(e.Knows))
	part("Asked as", e.Question)
	part("When", e.At.In(zone).Format("2 January 2006 at 15:04:05 MST"))
	part("What was confirmed, word for word", e.Word.Wants)
	for _, s := range e.Word.Shown {
		part(s.Label, s.Text)
	}
	way := "On screen, by the personal link number " + fmt.Sprint(e.LinkID) + ", which went to " + e.Email + "."
	if e.Paper {
		way = "On paper."
		if e.Entered != "" {
			way += " Put in at the office by " + e.Entered + "."
		}
		for _, f := range e.Files {
			way += "\nScan: " + f
		}
	}
	part("How", way)
	part("Fingerprint of what was confirmed (SHA-256)", e.Fingerprint)
	var out bytes.Buffer
	err = p.pdf.Output(&out)
	return out.Bytes(), err
}

func optional(before, s string) string {
	if s == "" {
		return ""
	}
	return before + s
}

func closing(s string) string {
	if s == "" {
		return ""
	}
	return "”"
}
