package demo

import (
	"bytes"
	"fmt"

	"codeberg.org/go-pdf/fpdf"
)

// sitePlan draws a made-up map of so many pages.
func sitePlan(title, site string, pages int) ([]byte, error) {
	p := fpdf.New("P", "mm", "A4", "")
	tr := p.UnicodeTranslatorFromDescriptor("")
	for n := range pages {
		p.AddPage()
		p.SetFont("Times", "B", 16)
		p.CellFormat(0, 10, tr(title), "", 1, "L", false, 0, "")
		p.SetFont("Times", "", 11)
		p.CellFormat(0, 6, tr(fmt.Sprintf("%s, sheet %d of %d. Made up for the demo.", site, n+1, pages)), "", 1, "L", false,
			0, "")
		p.SetDrawColor(44, 106, 96)
		for i := range 9 {
			d := float64(i*8 + noise(9, title, site))
			p.Ellipse(100, 150, 85-d, 60-d*0.6, float64(noise(180, title)), "D")
		}
		p.SetDrawColor(185, 67, 28)
		p.SetLineWidth(0.8)
		p.Rect(70+float64(noise(30, title)), 120+float64(noise(30, site)), 40, 28, "D")
		p.SetLineWidth(0.2)
	}
	var b bytes.Buffer
	err := p.Output(&b)
	return b.Bytes(), err
}
