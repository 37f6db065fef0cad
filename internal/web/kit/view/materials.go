package view

import (
	"html/template"
	"strings"

	"ulvant/core/slot"
)

// Materials are the files of a case as those see them who read it: the block of
// the same name draws pictures on a light table, and the rest below each other.
type Materials struct {
	Pictures []Shown
	Rest     []Shown
}

// Shown is one file that can be seen in the page.
type Shown struct {
	slot.Facts
	Href  template.URL // where it is fetched from
	Name  string
	Title string       // what it is called beside it; its name when nothing is said
	Said  string       // what else is said beside it; "" for nothing
	Size  int64        // bytes
	Case  template.URL // where its case is read, on a table of several cases; "" elsewhere
	// From and To bound what should be looked at or listened to, in seconds; To 0: all of it.
	From, To float64
}

// Add puts a file where it belongs.
func (m *Materials) Add(s Shown) {
	if s.Title == "" {
		s.Title = s.Name
	}
	if s.Kind == slot.Picture {
		m.Pictures = append(m.Pictures, s)
		return
	}
	m.Rest = append(m.Rest, s)
}

// Any reports one at least.
func (m Materials) Any() bool { return len(m.Pictures)+len(m.Rest) > 0 }

func (s Shown) with(seen string) template.URL {
	mark := "?"
	if strings.Contains(string(s.Href), "?") {
		mark = "&"
	}
	return s.Href + template.URL(mark+"seen="+seen)
}

// Small and Large are a picture without its properties; Src is the file itself.
func (s Shown) Small() template.URL { return s.with("small") }
func (s Shown) Large() template.URL { return s.with("large") }
func (s Shown) Src() template.URL   { return s.with("yes") }

// Film, Sound and Paper say how the rest are drawn: what browsers play, and a PDF
// that is read in the page.
func (s Shown) Film() bool  { return s.Kind == slot.Film && slot.Plays(s.Kind, s.Name) }
func (s Shown) Sound() bool { return s.Kind == slot.Sound && slot.Plays(s.Kind, s.Name) }
func (s Shown) Paper() bool { return s.Kind == slot.PDF }

// Sheet is a workbook or CSV whose first sheet can be read in the page.
func (s Shown) Sheet() bool {
	return s.Kind == slot.Sheet
}

// Table is where its first sheet is had.
func (s Shown) Table() template.URL { return s.with("table") }

// Wide is how wide the original is, in tenths of a millimetre; 0 when it does not say.
func (s Shown) Wide() int {
	if s.DPI <= 0 {
		return 0
	}
	return int(float64(s.Width)/s.DPI*254 + 0.5)
}

// Left and Long place the excerpt in the whole, in thousandths.
func (s Shown) Left() int { return s.part(s.From) }
func (s Shown) Long() int { return s.part(s.To) - s.part(s.From) }

func (s Shown) part(at float64) int {
	if s.Seconds <= 0 {
		return 0
	}
	return int(min(at/s.Seconds, 1)*1000 + 0.5)
}
