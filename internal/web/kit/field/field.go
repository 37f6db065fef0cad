// Package field turns a question and its state into what templates draw, and
// reads answers back from an ordinary form.
package field

import (
	"fmt"
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/material"
)

// Charge is one line of the fees, as it stands.
type Charge struct {
	Label, Why, Price, Sum string
	Taken                  int
	Total                  bool
}

// charges lists the fees as they are taken, what else could be, what is taken off,
// and the total as it forms.
func charges(f *form.Form, s *form.QuestionState) []Charge {
	if s.Charge == nil {
		return nil
	}
	cur := f.Design.Currency
	price := func(st form.FeeState) string {
		if st.Settled {
			return money.Format(st.Most, cur)
		}
		return money.Format(st.Least, cur) + " to " + money.Format(st.Most, cur)
	}
	var taken, free, off []Charge
	for i, l := range say.Charge(f, s.Charge) {
		c := Charge{Label: l.Label, Why: l.Why, Price: l.Each, Taken: l.Count, Sum: l.Sum}
		for _, st := range s.Fees {
			if st.Key == s.Charge.Lines[i].Key && !st.Settled {
				c.Price, c.Sum = price(st), ""
			}
		}
		if s.Charge.Lines[i].Sum < 0 {
			off = append(off, c)
		} else {
			taken = append(taken, c)
		}
	}
	for i, st := range s.Fees {
		if st.Optional && st.Taken <= 0 && st.Offered != condition.No {
			free = append(free, Charge{Label: f.Design.Fees[i].Label, Price: price(st)})
		}
	}
	total := Charge{Label: "To pay", Sum: money.Format(s.Charge.Total, cur), Total: true, Why: say.ChargeNext(f, s.Charge)}
	if !s.Charge.Settled {
		total.Label = "To pay, at the most"
	}
	return slices.Concat(taken, free, off, []Charge{total})
}

// Name of the input for a place.
func Name(p form.Place) string {
	if p.Row == "" && p.Column == "" {
		return string(p.Question)
	}
	return string(p.Question) + ":" + p.Row + ":" + string(p.Column)
}

// Place of an input's name.
func Place(name string) form.Place {
	parts := strings.SplitN(name, ":", 3)
	p := form.Place{Question: form.Key(parts[0])}
	if len(parts) == 3 {
		p.Row, p.Column = parts[1], form.Key(parts[2])
	}
	return p
}

type drawer struct {
	form     *form.Form
	filled   *form.Filled
	versions map[form.Place]int
	faulty   map[form.Place]bool
}

// New draws a question. versions are of the kept answers; nil for none.
func New(f *form.Form, filled *form.Filled, path *form.Path, q *form.Question, versions map[form.Place]int) Field {
	s := path.Find(q.Key)
	d := &drawer{f, filled, versions, map[form.Place]bool{}}
	out := Field{Q: q, S: s, Currency: f.Design.Currency, Shown: s.Asked == condition.Yes,
		Limit: say.Limit(f, q, s.Limits, s.Settled), Words: s.Limits.Words, Note: f.Note(q, filled, s)}
	if s.Limits.Slot != nil && len(filled.Files[q.Key]) == 0 {
		out.Note = strings.TrimSpace(out.Note + " " + say.SamePaper(f, filled, path, s.Limits.Slot))
	}
	if why := say.WhyUnfit(f, s.Unfit); why != "" {
		out.Note = strings.TrimSpace(out.Note + " " + why)
	}
	for _, o := range path.Obstacles {
		if o.Place.Question != q.Key || o.Code == form.CodeNotEligible {
			continue
		}
		switch o.Code {
		case form.CodeBlank, form.CodeFileMissing, form.CodeRefereeMissing:
			continue // nothing is wrong with what is there; the list beside says what is missing
		}
		d.faulty[o.Place] = true
		what, remedy := say.Obstacle(f, o)
		out.Problems = append(out.Problems, Problem{what, remedy})
		out.obstacles = append(out.obstacles, o)
	}
	d.draw(&out)
	for i := range out.Parts {
		out.Parts[i].Options = f.Offered(path, q, out.Parts[i].Options, out.Parts[i].Value)
	}
	if s.Fees != nil {
		out.Charges = charges(f, s)
	}
	return out
}

func (d *drawer) draw(out *Field) {
	q := out.Q
	place := form.Place{Question: q.Key}
	switch q.Keeps() {
	case form.InLines:
		d.costs(out)
	case form.InRows:
		d.table(out, d.form.Columns(q.Key))
	case form.InPieces:
		for _, p := range d.form.Parts(q) {
			at := form.Place{Question: q.Key, Column: p.Key}
			in := d.input(at, &form.Question{Key: p.Key, Kind: p.Kind, Label: p.Label, Options: p.Options})
			in.As = in.As.Small()
			out.Parts = append(out.Parts, in)
		}
		out.CopyFrom = string(q.CopyOf)
	case form.InText:
		in := d.input(place, q)
		out.Input = &in
	}
	if q.TakesFiles() {
		d.slot(out)
	}
	if out.Input == nil && len(q.NonAnswers) > 0 {
		out.Input = &Input{Name: Name(place), Non: d.filled.Answers[place].Non, Version: d.versions[place],
			As: control.Computed}
	}
	if q.Sure != "" {
		in := d.plain(form.Place{Question: q.Key, Column: form.ColSure}, "How sure is it?")
		for _, m := range q.Sure.Marks() {
			in.Options = append(in.Options, form.Option{Key: form.Key(m), Label: m})
		}
		in.As = control.Radio
		out.Sure = &in
	}
	if q.FollowBy != nil {
		out.FollowBy = d.form.Day(q.FollowBy).Words()
	}
}

// Most is how large a file of the slot may be, in bytes.
func (f Field) Most() int64 {
	if l := f.S.Limits.Slot; l != nil && l.SizeMost > 0 {
		return min(l.SizeMost, slot.MostSize)
	}
	return slot.MostSize
}

// plain draws one place as a line of text.
func (d *drawer) plain(p form.Place, label string) Input {
	a, name := d.filled.Answers[p], Name(p)
	return Input{Name: name, ID: "i-" + strings.ReplaceAll(name, ":", "-"), Label: label, Value: a.Raw, Non: a.Non,
		Version: d.versions[p], As: control.Line, Bad: d.faulty[p]}
}

// input draws one place as the kind of question that is read there asks.
func (d *drawer) input(p form.Place, q *form.Question) Input {
	in := d.plain(p, q.Label)
	c := d.form.Control(q, d.filled, in.Value)
	in.As, in.Options, in.Notes, in.Unit, in.Hint = c.As, c.Options, c.Notes, c.Unit, c.Hint
	return in
}

// spare is how many empty rows a table shows below the last one.
const spare = 2

func (d *drawer) rowKeys(q form.Key, least int) []string {
	rows := d.filled.Rows(q)
	for n := max(spare, least-len(rows)); n > 0; n-- {
		rows = append(rows, form.NextRow(rows))
	}
	return rows
}

func (d *drawer) table(out *Field, columns []*form.Question) {
	for _, c := range columns {
		out.Columns = append(out.Columns, form.Option{Key: c.Key, Label: c.Label})
	}
	for i, sum := range d.form.RowSums(out.Q, out.S) {
		if sum == nil {
			continue
		}
		if out.Foot == nil {
			out.Foot = make([]string, len(columns))
		}
		if len(out.S.Rows) > 0 {
			out.Foot[i] = money.Format(*sum, out.Currency)
		}
	}
	for _, key := range d.rowKeys(out.Q.Key, out.S.Limits.RowsLeast) {
		row := Row{Key: key}
		for _, c := range columns {
			in := d.input(form.Place{Question: out.Q.Key, Row: key, Column: c.Key}, c)
			in.As, in.Hint = in.As.Small(), ""
			row.Faulty = row.Faulty || in.Bad
			row.Inputs = append(row.Inputs, in)
		}
		out.Rows = append(out.Rows, row)
	}
}

// extensions are what a file chooser offers, by kind.
var extensions = map[slot.Kind]string{slot.PDF: ".pdf,application/pdf",
	slot.Picture: ".jpg,.jpeg,.png,image/jpeg,image/png",
	slot.Film:    ".mp4,.mov,.webm,video/mp4,video/quicktime,video/webm",
	slot.Sound:   ".mp3,.wav,.flac,.m4a,.weba", slot.Text: ".docx,.odt", slot.Sheet: ".xlsx,.ods,.csv"}

func (d *drawer) slot(out *Field) {
	l := out.S.Limits.Slot
	if l == nil {
		return
	}
	var accept []string
	for _, k := range l.Accepts() {
		accept = append(accept, extensions[k])
	}
	out.Accept, out.Several = strings.Join(accept, ","), l.Most() > 1
	for i, t := range l.Ticks {
		in := d.plain(form.Place{Question: out.Q.Key, Column: form.TickColumn(i)}, t)
		in.As = control.Tick
		out.Ticks = append(out.Ticks, in)
	}
}

// AddFile puts a file into the field of its slot.
func (f *Field) AddFile(filled *form.Filled, versions map[form.Place]int, m material.File) {
	x := File{File: m, First: len(f.Files) == 0, Last: true}
	if n := len(f.Files); n > 0 {
		f.Files[n-1].Last = false
	}
	if l := f.S.Limits.Slot; l != nil {
		fault, _, _ := slot.Check(slot.File{ID: m.ID, Name: m.Name, Size: m.Size, State: m.State, Finding: m.Finding,
			Facts: m.Facts.Facts}, *l)
		x.Untaken = fault != "" && fault != slot.Arriving
		d := &drawer{filled: filled, versions: versions}
		row := form.FileRow(m.ID)
		add := func(column form.Key, label, hint string) {
			p := form.Place{Question: f.Q.Key, Row: row, Column: column}
			x.Details = append(x.Details, Input{Name: Name(p), Label: label, Value: d.filled.Answers[p].Raw,
				Version: versions[p], As: control.Line, Hint: hint})
		}
		for i, t := range l.Details {
			add(form.DetailColumn(i), t, "")
		}
		if l.ExcerptMost > 0 && (m.Facts.Kind == slot.Film || m.Facts.Kind == slot.Sound) {
			add(form.ColFrom, "The excerpt begins at", "0:00")
			add(form.ColTo, "and ends at", slot.Runs(min(m.Facts.Seconds, float64(l.ExcerptMost))))
		}
		if others := filled.Files[form.Key(l.Needs)]; l.Needs != "" && len(others) > 1 {
			add(form.ColWhole, "Belongs to", "")
			in := &x.Details[len(x.Details)-1]
			in.As = control.Select
			for _, o := range others {
				in.Options = append(in.Options, form.Option{Key: form.Key(form.FileRow(o.ID)), Label: o.Name})
			}
		}
		if !l.MadeSince.IsZero() {
			add(form.ColMade, "When it was made", "1 July 2027")
		}
	}
	f.Files = append(f.Files, x)
}

// OfferShelf names the files of a shelf that the slot would take and that are not in
// it: none while something is on its way.
func (f *Field) OfferShelf(shelf []material.Shelved) {
	l := f.S.Limits.Slot
	taken := 0
	for _, x := range f.Files {
		if !x.Untaken {
			taken++
		}
	}
	if l == nil || f.ReadOnly || l.Wish == slot.NotAccepted || taken >= l.Most() {
		return
	}
	for _, x := range shelf {
		fault, _, _ := slot.Check(x.File(), *l)
		there := slices.ContainsFunc(f.Files, func(m File) bool { return m.SHA256 == x.SHA256 })
		if fault == "" && !there && x.Facts.Kind != "" {
			f.Shelf = append(f.Shelf, x)
		}
	}
}

// Inputs are all things typed into, in the order of the page.
func (f *Field) Inputs() []Input {
	var out []Input
	if f.Input != nil {
		out = append(out, *f.Input)
	}
	out = append(out, f.Parts...)
	for _, r := range f.Rows {
		for _, in := range r.Inputs {
			if in.Name != "" {
				out = append(out, in)
			}
		}
	}
	if f.Costs != nil {
		for _, b := range f.Costs.Bands {
			for _, l := range b.Lines {
				for _, in := range l.Cells {
					if in.Name != "" {
						out = append(out, in)
					}
				}
			}
		}
	}
	if f.Sure != nil {
		out = append(out, *f.Sure)
	}
	out = append(out, f.Ticks...)
	for _, x := range f.Files {
		out = append(out, x.Details...)
	}
	return out
}

// Versions of kept answers by place.
func Versions(rows []application.Answer) map[form.Place]int {
	out := map[form.Place]int{}
	for _, a := range rows {
		out[a.Place()] = a.Version
	}
	return out
}

// MayName reports a referee question at which somebody can be named.
func (f Field) MayName() bool {
	standing := 0
	for _, r := range f.Referees {
		if r.State != form.Declined {
			standing++
		}
	}
	return standing < max(f.S.Limits.Referees, 1)
}

// Missing says how many more can be named.
func (f Field) Missing() string {
	if n := f.S.Limits.Referees; n > 1 {
		return fmt.Sprintf("%d of %d are named.", len(f.Referees), n)
	}
	return ""
}

// VersionOf is the version of what an input of the field holds; 0 for none.
func (f *Field) VersionOf(name string) int {
	for _, in := range f.Inputs() {
		if in.Name == name {
			return in.Version
		}
	}
	return 0
}
