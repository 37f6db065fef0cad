// Package slot says what a material slot accepts and what is wrong with a file
// that was put in it. The facts about a file are found elsewhere (by opening
// it in a bounded process); here they are only judged.
package slot

import (
	"math"
	"slices"

	"ulvant/core/calendar"
)

// Kind of file.
type Kind string

// The kinds a slot can accept.
const (
	PDF     Kind = "PDF"
	Picture Kind = "picture" // JPEG or PNG
	Film    Kind = "film"    // MP4, MOV or WebM
	Text    Kind = "text"    // DOCX or ODT
	Sheet   Kind = "sheet"   // XLSX, ODS or CSV
	Sound   Kind = "sound"   // MP3, WAV, FLAC, M4A or WebM
)

// Kinds lists them in the order they are offered.
var Kinds = []Kind{PDF, Picture, Film, Sound, Text, Sheet}

// Bytes of one file: MostSize is the largest that is taken at all, and no slot
// promises more; MostPlain the largest that goes up in one piece, where the
// browser runs no scripts.
const (
	MostSize  = 2 << 30
	MostPlain = 8 << 20
)

// Wish says how much a slot's file is wanted; "" is as the question's blank says.
type Wish string

// The wishes.
const (
	Wanted      Wish = ""
	NotAccepted Wish = "not accepted"
	BetterNot   Wish = "better not"
)

// Limits of a slot; a zero member does not limit.
type Limits struct {
	Wish         Wish          `json:"wish,omitempty"`
	Kinds        []Kind        `json:"kinds,omitempty"` // none: PDF alone
	FilesLeast   int           `json:"filesLeast,omitempty"`
	FilesMost    int           `json:"filesMost,omitempty"` // 0: one
	SizeMost     int64         `json:"sizeMost"`            // bytes, each
	SizeAll      int64         `json:"sizeAll,omitempty"`   // bytes, together
	PagesMost    int           `json:"pagesMost,omitempty"`
	TitleApart   bool          `json:"titleApart,omitempty"` // a title page does not count
	WidthLeast   int           `json:"widthLeast,omitempty"` // pixels
	HeightLeast  int           `json:"heightLeast,omitempty"`
	DPILeast     int           `json:"dpiLeast,omitempty"`
	Colour       string        `json:"colour,omitempty"` // colour | grey | "" for either
	SecondsLeast int           `json:"secondsLeast,omitempty"`
	SecondsMost  int           `json:"secondsMost,omitempty"`
	ExcerptMost  int           `json:"excerptMost,omitempty"` // the applicant names an excerpt of at most so many seconds
	MadeSince    calendar.Date `json:"madeSince,omitzero"`    // the applicant says when each was made
	PageSize     string        `json:"pageSize,omitempty"`    // A5 | A4 | A3 | Letter: no page larger, upright or across; "" for any
	TextLeast    bool          `json:"textLeast,omitempty"`   // a PDF must hold text, not scans alone
	TypeLeast    int           `json:"typeLeast,omitempty"`   // smallest body type of a PDF, in points
	Ticks        []string      `json:"ticks,omitempty"`       // what a machine cannot see, ticked by the applicant and confirmed by a checker
	Paper        string        `json:"paper,omitempty"`       // what a page to print says, to be signed in ink and scanned; a checker confirms it
	Details      []string      `json:"details,omitempty"`     // what is written beside each file: title, credits
	Needs        string        `json:"needs,omitempty"`       // key of another slot: a file here belongs to one there
	Same         string        `json:"same,omitempty"`        // key of another slot that asks for the same paper: one file there crosses this off
}

// Accepts lists the kinds, PDF alone when none is named.
func (l Limits) Accepts() []Kind {
	if len(l.Kinds) == 0 {
		return []Kind{PDF}
	}
	return l.Kinds
}

// Most files the slot takes.
func (l Limits) Most() int { return max(l.FilesMost, 1) }

// State of a file on its way in.
type State string

// The states of a file.
const (
	Uploading  State = "uploading"
	Inspecting State = "inspecting"
	Ready      State = "ready"
	Refused    State = "refused"
)

// Scan says whether a file was looked through for viruses.
type Scan string

// What became of it.
const (
	NotScanned Scan = ""        // nobody does that here
	ToScan     Scan = "waiting" // the scanner has not answered yet: it counts, and is shown to nobody else
	Scanned    Scan = "clean"
	Infected   Scan = "found"
)

// File is what is known of a file in a slot. What is not known is zero.
type File struct {
	ID      int64
	Name    string
	Size    int64 // bytes
	State   State
	Finding Fault // why it was refused, "" otherwise
	Facts
	Upload  string // its name while it arrives in pieces; "" when it came in one
	Head    string // what its sender knows it by again
	Arrived int64  // bytes, while it is uploading
}

// Facts are what opening a file finds out.
type Facts struct {
	Kind    Kind `json:"kind,omitempty"`
	Pages   int  `json:"pages,omitempty"`
	HasText bool `json:"hasText,omitempty"` // of a PDF
	// PageShort and PageLong are the sides of a PDF's largest page, in points of 1/72 inch.
	PageShort float64 `json:"pageShort,omitempty"`
	PageLong  float64 `json:"pageLong,omitempty"`
	TypeLeast float64 `json:"typeLeast,omitempty"` // smallest body type of a PDF, in points; 0: not known
	Width     int     `json:"width,omitempty"`     // pixels
	Height    int     `json:"height,omitempty"`
	DPI       float64 `json:"dpi,omitempty"` // 0: the file does not say
	Grey      bool    `json:"grey,omitempty"`
	Seconds   float64 `json:"seconds,omitempty"`
	Author    string  `json:"author,omitempty"`   // whom the file's own properties name; "" for nobody
	Template  string  `json:"template,omitempty"` // the mark of a template that it carries; "" for none
}

// Fault is what is wrong with a file.
type Fault string

// The faults.
const (
	TooLarge   Fault = "too-large"
	TooMany    Fault = "too-many-pages"
	NotPDF     Fault = "not-pdf"
	WrongKind  Fault = "wrong-kind"
	Unreadable Fault = "unreadable"
	Locked     Fault = "locked" // needs a password to open
	TooHard    Fault = "too-hard"
	Empty      Fault = "empty"
	Unfinished Fault = "unfinished" // given up, for nothing more of it came
	Arriving   Fault = "arriving"
	Virus      Fault = "virus"
	TooSmall   Fault = "too-few-pixels"
	TooCoarse  Fault = "too-few-dots"
	NoDots     Fault = "dots-not-said"
	NotGrey    Fault = "not-grey"
	NotColour  Fault = "not-colour"
	TooLong    Fault = "too-long"
	TooShort   Fault = "too-short"
	NoText     Fault = "no-text"
	LargePage  Fault = "page-too-large"
	SmallType  Fault = "type-too-small"
)

// Check finds the first fault of a file against limits, with what there is and
// what the limit is; "" when there is none. A file still being inspected holds
// nothing up: its finding goes to checks. Dots per inch are rounded to whole
// ones, because files hold them per metre (11811 per metre is 300).
func Check(f File, l Limits) (fault Fault, have, limit int64) {
	pages := l.PagesMost
	if pages > 0 && l.TitleApart {
		pages++
	}
	switch {
	case f.State == Uploading:
		return Arriving, f.Arrived, f.Size
	case f.State == Refused:
		return f.Finding, f.Size, l.SizeMost
	case l.SizeMost > 0 && f.Size > l.SizeMost:
		return TooLarge, f.Size, l.SizeMost
	case f.State == Inspecting:
		return "", 0, 0
	case f.Kind != "" && !slices.Contains(l.Accepts(), f.Kind):
		return WrongKind, 0, 0
	case pages > 0 && f.Pages > pages:
		return TooMany, int64(f.Pages), int64(pages)
	case f.Kind == PDF && !fitsPage(f.PageShort, f.PageLong, l.PageSize):
		return LargePage, int64(math.Round(f.PageShort / pointsPerMM)), int64(math.Round(f.PageLong / pointsPerMM))
	case l.TextLeast && f.Kind == PDF && !f.HasText:
		return NoText, 0, 0
	case l.TypeLeast > 0 && f.TypeLeast > 0 && f.TypeLeast < float64(l.TypeLeast)-typeSlack:
		return SmallType, tenths(f.TypeLeast), int64(l.TypeLeast) * 10
	}
	if f.Kind == Picture {
		switch {
		case f.Width < l.WidthLeast:
			return TooSmall, int64(f.Width), int64(l.WidthLeast)
		case f.Height < l.HeightLeast:
			return TooSmall, int64(f.Height), int64(l.HeightLeast)
		case l.DPILeast > 0 && f.DPI == 0:
			return NoDots, 0, int64(l.DPILeast)
		case l.DPILeast > 0 && int(math.Round(f.DPI)) < l.DPILeast:
			return TooCoarse, int64(math.Round(f.DPI)), int64(l.DPILeast)
		case l.Colour == "grey" && !f.Grey:
			return NotGrey, 0, 0
		case l.Colour == "colour" && f.Grey:
			return NotColour, 0, 0
		}
	}
	if f.Kind == Film || f.Kind == Sound {
		whole := int64(math.Ceil(f.Seconds))
		switch {
		case l.SecondsMost > 0 && int64(f.Seconds) > int64(l.SecondsMost):
			return TooLong, whole, int64(l.SecondsMost)
		case l.SecondsLeast > 0 && f.Seconds > 0 && whole < int64(l.SecondsLeast):
			return TooShort, whole, int64(l.SecondsLeast)
		}
	}
	return "", 0, 0
}

// PageSizes are the pages a slot can ask for, and their sides in points: ISO 216, and
// ANSI Letter.
var PageSizes = []struct {
	Name        string
	Short, Long float64
}{{"A5", 419.528, 595.276}, {"A4", 595.276, 841.890}, {"A3", 841.890, 1190.551}, {"Letter", 612, 792}}

const (
	pointsPerMM = 72 / 25.4
	pageSlack   = 1   // a point: producers write 595 × 842 for A4
	typeSlack   = .05 // of a point: producers write 10.98 for 11
)

// tenths of a point.
func tenths(points float64) int64 { return int64(math.Round(points * 10)) }

// TypeUnknown reports a PDF whose type should be of some size and could not be measured:
// nobody guesses, and somebody looks.
func TypeUnknown(f File, l Limits) bool {
	return l.TypeLeast > 0 && f.State == Ready && f.Kind == PDF && f.TypeLeast == 0
}

// fitsPage reports a page that is no larger than one of the PageSizes; "" for any, and
// what is not known fits.
func fitsPage(short, long float64, size string) bool {
	for _, p := range PageSizes {
		if p.Name == size {
			return short <= p.Short+pageSlack && long <= p.Long+pageSlack
		}
	}
	return true
}
