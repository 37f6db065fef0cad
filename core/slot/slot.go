// Package slot says what a material slot accepts and what is wrong with a file
// that was put in it. The facts about a file are found elsewhere (by opening
// it in a bounded process); here they are only judged.
package slot

// Limits of a slot.
type Limits struct {
	SizeMost  int64 `json:"sizeMost"`            // bytes
	PagesMost int   `json:"pagesMost,omitempty"` // 0: no limit
}

// State of a file on its way in.
type State string

// The states of a file.
const (
	Uploading  State = "uploading"
	Inspecting State = "inspecting"
	Ready      State = "ready"
	Refused    State = "refused"
)

// File is what is known of a file in a slot.
type File struct {
	Name    string
	Size    int64 // bytes
	State   State
	Pages   int   // 0 while not known
	Finding Fault // why it was refused, "" otherwise
}

// Fault is what is wrong with a file.
type Fault string

// The faults.
const (
	TooLarge    Fault = "too-large"
	TooMany     Fault = "too-many-pages"
	NotPDF      Fault = "not-pdf"
	Unreadable  Fault = "unreadable"
	Locked      Fault = "locked" // needs a password to open
	TooHard     Fault = "too-hard"
	Empty       Fault = "empty"
	Unfinished  Fault = "unfinished"
	NotYetKnown Fault = "not-yet-known"
)

// Check finds the first fault of a file against limits; "" when there is none.
// A file still being inspected holds nothing up: its finding goes to checks.
func Check(f File, l Limits) Fault {
	switch {
	case f.State == Uploading:
		return Unfinished
	case f.State == Refused:
		return f.Finding
	case f.Size > l.SizeMost:
		return TooLarge
	case l.PagesMost > 0 && f.Pages > l.PagesMost:
		return TooMany
	}
	return ""
}
