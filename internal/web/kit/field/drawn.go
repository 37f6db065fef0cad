package field

import (
	"strings"
	"time"

	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/guidance"
	"ulvant/internal/material"
)

// Input is one thing to type into or choose from.
type Input struct {
	Name    string // question, or question:row:column; "" for what is only shown
	ID      string
	Label   string
	Value   string
	Non     form.NonAnswer
	Version int
	As      control.As
	Options []form.Option
	Notes   map[form.Key]string // beside options that need more than their label
	Hint    string
	Unit    string
	Bad     bool
	Preset  bool // the value is offered, and kept with whatever else is typed in its row
}

// Picked reports an option that is chosen.
func (in Input) Picked(key form.Key) bool {
	if in.As.Several() {
		for _, l := range form.Lines(in.Value) {
			if l == string(key) {
				return true
			}
		}
		return false
	}
	return in.Value == string(key)
}

// Chosen are the options picked, for keywords; proposals among them.
func (in Input) Chosen() []form.Option {
	var out []form.Option
	for _, l := range form.Lines(in.Value) {
		label := form.LabelOf(in.Options, l)
		if text, ok := strings.CutPrefix(l, form.Proposal); ok {
			label = text + " (proposed)"
		}
		out = append(out, form.Option{Key: form.Key(l), Label: label})
	}
	return out
}

// LabelInside reports an input that says its own label.
func (f Field) LabelInside() bool {
	return f.Input != nil && (f.Input.As == control.Tick || f.Input.As == control.Initials)
}

// ExampleApart reports an example too long to stand in the input.
func (f Field) ExampleApart() bool {
	return f.Q.Example != "" && f.Input != nil && f.Input.As == control.Sheet
}

// Row of a table.
type Row struct {
	Key    string
	Inputs []Input
	Faulty bool
}

// File in a slot, with what is written beside it.
type File struct {
	material.File
	Warn    string // what somebody should know of it; "" for nothing
	Untaken bool   // it is not one that the slot takes; the problems say why
	Details []Input
	First   bool
	Last    bool
}

// OnWay reports a file of which the rest is still to come, Opening one that is here
// and being opened.
func (x File) OnWay() bool   { return x.State == slot.Uploading && x.Upload != "" }
func (x File) Opening() bool { return x.State == slot.Inspecting }

// Kept reports a file that may be kept on a shelf, and is on none yet.
func (x File) Kept() bool { return x.State == slot.Ready && x.ShelvedID == nil }

// Read is how a file can be read in the page: paper, sheet, or "" for neither.
func (x File) Read() string {
	switch {
	case x.State == slot.Ready && x.Facts.Kind == slot.PDF:
		return "paper"
	case x.State == slot.Ready && x.Facts.Kind == slot.Sheet:
		return "sheet"
	}
	return ""
}

// Where says how far it is.
func (x File) Where() string { return say.FileState(x.State, x.Untaken, x.Arrived, x.Size) }

// Glimpse reports a file that is drawn beside its name, or can be played there.
func (x File) Glimpse() bool { return x.State == slot.Ready }

// Problem at a question.
type Problem struct{ What, Remedy string }

// Comment beside a question of a draft.
type Comment struct {
	ID   int64
	Name string
	At   time.Time
	Text string
}

// Differs is a place where a case says something else than the profile it is for.
type Differs struct {
	Name                 string // of the input
	Profile, Application string
	Whose                string // the profile's name
	Others               bool   // others say it; the profile is not put right from here
}

// Field is a question as it is drawn.
type Field struct {
	Q        *form.Question
	S        *form.QuestionState
	Currency string
	Shown    bool
	Limit    string
	Words    int // the word limit, 0 for none
	Input    *Input
	Parts    []Input
	Columns  []form.Option // of a table
	Rows     []Row
	Foot     []string // under the columns: sums; nil when there are none
	Charges  []Charge // of the fees
	Sure     *Input
	Note     string
	Ticks    []Input
	Files    []File
	Shelf    []material.Shelved // what a shelf has that would do, and is not attached
	Accept   string             // of the file chooser
	Several  bool               // files
	Fill     []guidance.Paper   // templates that it is filled in on
	Round    string             // whose they are, by its key
	Problems []Problem
	Referees []Person
	Typed    map[string]string // what was typed into a form that was refused
	Earlier  bool              // versions of it are kept that can be brought back
	Differs  []Differs
	Comments []Comment
	Together bool // others write or read it too: comments can be made
	ReadOnly bool
	CopyFrom string // name of the address it can be copied from
	FollowBy string
	Costs    *Costs // of a budget

	obstacles []form.Obstacle // of which each problem speaks
}

// Asked is one input where it is asked.
type Asked struct {
	In         Input
	RO         bool // it can be read, not written
	Q          *form.Question
	Words, Had int  // the limit, and what is written; 0 for none
	May        bool // it may be left
}

// Whole is the input of a field that has one.
func (f Field) Whole() Asked {
	return Asked{*f.Input, f.ReadOnly, f.Q, f.Words, f.S.Words, f.S.Must == condition.No}
}

// Piece is one input of a field that has others.
func (f Field) Piece(in *Input) Asked { return Asked{In: *in, RO: f.ReadOnly, Q: f.Q} }

// Placed is a field on the page of a case.
type Placed struct {
	F     Field
	Ref   string // of the case; "" where nothing is sent
	CSRF  string
	Query bool // the case was handed back with a query
	Zone  *time.Location
}

// Alone is a field on no case's page.
func (f Field) Alone() Placed { return Placed{F: f, Zone: time.UTC} }
