// Package field turns a question and its state into what templates draw, and
// reads answers back from an ordinary form.
package field

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/budget"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/identifier"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/material"
)

// Charge is one line of the fees, as it stands.
type Charge struct {
	Label, Price, Sum string
	Taken             int
	Total             bool
}

// charges lists what is to be paid, and the total as it forms.
func charges(f *form.Form, s *form.QuestionState) []Charge {
	cur := f.Design.Currency
	var out []Charge
	for i, st := range s.Fees {
		if st.Offered == condition.No {
			continue
		}
		c := Charge{Label: f.Design.Fees[i].Label, Price: money.Format(st.Most, cur), Taken: st.Taken}
		if !st.Settled {
			c.Price = money.Format(st.Least, cur) + " to " + money.Format(st.Most, cur)
		}
		if st.Taken > 0 && st.Settled {
			c.Sum = money.Format(int64(st.Taken)*st.Most, cur)
		}
		out = append(out, c)
	}
	if s.Value.Number != nil {
		if s.Off > 0 {
			out = append(out, Charge{Label: s.Note, Sum: "−" + money.Format(s.Off, cur)})
		}
		out = append(out, Charge{Label: "To pay", Sum: money.Format(s.Value.Number.Num, cur), Total: true})
	}
	return out
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
	out := Field{Q: q, S: s, Currency: f.Design.Currency, Shown: s.Asked == condition.Yes, Limit: say.Limit(f, q, s.Limits, s.Settled), Words: s.Limits.Words, Note: note(f, q, s)}
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
	}
	d.draw(&out)
	for i := range out.Parts {
		out.Parts[i].Options = f.Offered(path, q, out.Parts[i].Options, out.Parts[i].Value)
	}
	if q.Kind == form.Signer && len(filled.Authorised()) == 0 {
		out.Note = "Nobody may sign for your organisation yet: its officers confirm that by links of their own, which its profile sends."
	}
	if q.Kind == form.Fees {
		out.Charges = charges(f, s)
	}
	return out
}

func (d *drawer) draw(out *Field) {
	q := out.Q
	switch columns := d.form.Columns(q.Key); {
	case q.Kind == form.Budget:
		d.budget(out)
	case columns != nil:
		d.table(out, columns)
	case d.form.Parts(q) != nil:
		for _, p := range d.form.Parts(q) {
			sub := form.Question{Key: p.Key, Kind: p.Kind, Label: p.Label, Options: p.Options}
			in := d.input(form.Place{Question: q.Key, Column: p.Key}, &sub)
			if in.As == Radio {
				in.As = Select
			}
			out.Parts = append(out.Parts, in)
		}
		if q.CopyOf != "" {
			out.CopyFrom = string(q.CopyOf)
		}
	case q.Kind == form.File || q.Media:
		d.slot(out)
	}
	if out.Parts == nil && out.Rows == nil && q.Kind != form.File && q.Kind != form.Referee && q.Kind != form.Signatory {
		in := d.input(form.Place{Question: q.Key}, q)
		out.Input = &in
	} else if len(q.NonAnswers) > 0 {
		p := form.Place{Question: q.Key}
		out.Input = &Input{Name: Name(p), Non: d.filled.Answers[p].Non, Version: d.versions[p], As: Computed}
	}
	if q.Sure != "" {
		in := d.input(form.Place{Question: q.Key, Column: form.ColSure}, &form.Question{Kind: form.Choice, Label: "How sure is it?"})
		for _, m := range q.Sure.Marks() {
			in.Options = append(in.Options, form.Option{Key: form.Key(m), Label: m})
		}
		in.As = Radio
		out.Sure = &in
	}
	if q.FollowBy != nil {
		out.FollowBy = d.form.Day(q.FollowBy).Words()
	}
}

// note is what the program makes of an answer: a phone in its one form, what a
// pick fills in, the step a number takes.
func note(f *form.Form, q *form.Question, s *form.QuestionState) string {
	if s.Presence != condition.Given {
		return ""
	}
	switch q.Kind {
	case form.Date: // 3/4/2009 is read as the third of April: say so
		if d := s.Value.Date.Words(); d != strings.TrimSpace(s.Raw) {
			return "Read as " + d
		}
	case form.Money:
		if sum := money.Format(s.Value.Number.Num, f.Design.Currency); strings.ContainsAny(s.Raw, ".,") && sum != strings.TrimSpace(s.Raw) {
			return "Read as " + sum
		}
	case form.Phone, form.Identifier:
		if s.Value.Text != strings.TrimSpace(s.Raw) && s.Value.Text != "" {
			return "Kept as " + s.Value.Text
		}
	case form.Grade, form.Pick:
		text := say.Answer(f, q, &form.Filled{}, s)
		return say.Initial(text)
	case form.AwardPick:
		if slices.Contains(s.Value.List, string(form.EveryAward)) {
			return say.Fitting(f.Design.Awards, s.Value.List)
		}
	case form.Counts:
		if s.Value.Number != nil {
			return "All together " + strconv.FormatInt(s.Value.Number.Num, 10)
		}
	}
	return ""
}

// Most is how large a file of the slot may be, in bytes.
func (f Field) Most() int64 {
	if l := f.S.Limits.Slot; l != nil && l.SizeMost > 0 {
		return min(l.SizeMost, slot.MostSize)
	}
	return slot.MostSize
}

// input draws one place by the kind of question that is read there.
func (d *drawer) input(p form.Place, q *form.Question) Input {
	a := d.filled.Answers[p]
	in := Input{Name: Name(p), ID: "i-" + strings.ReplaceAll(Name(p), ":", "-"), Label: q.Label, Value: a.Raw, Non: a.Non, Version: d.versions[p], As: Line, Hint: q.Example, Bad: d.faulty[p]}
	switch q.Kind {
	case form.Long:
		in.As = Sheet
	case form.Number, form.Grade:
		in.As, in.Unit = Figure, q.Unit
	case form.Money:
		in.As, in.Unit = Figure, d.form.Design.Currency
	case form.Percent:
		in.As, in.Unit = Figure, "%"
	case form.Date:
		in.As, in.Hint = Figure, "1 July 2027"
	case form.YesNo:
		in.As, in.Options = Radio, []form.Option{{Key: "yes", Label: "yes"}, {Key: "no", Label: "no"}}
	case form.Declaration:
		in.As = Tick
		if q.Initials {
			in.As = Initials
		}
	case form.Signer:
		in.As = Radio
		for _, n := range d.filled.Authorised() {
			in.Options = append(in.Options, form.Option{Key: form.Key(n), Label: n})
		}
		if in.Value != "" && !slices.Contains(d.filled.Authorised(), in.Value) { // revoked since: it stands until another is chosen
			in.Options = append(in.Options, form.Option{Key: form.Key(in.Value), Label: in.Value + " (may not sign any more)"})
		}
	case form.Keywords:
		in.As = Adder
		for _, l := range d.form.Design.Lists {
			if l.Key == q.List {
				for _, it := range l.Items {
					in.Options = append(in.Options, form.Option{Key: form.Key(it.Code), Label: it.Label})
				}
			}
		}
	case form.Several, form.AwardPick:
		in.As = Checks
	case form.Identifier:
		if s, ok := identifier.Find(q.Scheme); ok && in.Hint == "" {
			in.Hint = s.Label
		}
	}
	if options := d.form.Options(q); options != nil && in.Options == nil {
		in.Options = options
		if q.Kind == form.AwardPick {
			in.Notes = map[form.Key]string{}
			for _, a := range d.form.Design.Awards {
				in.Notes[a.Key] = say.Award(a, d.form.Design.Currency)
			}
			in.Notes[form.EveryAward] = "We look which ones those are; their papers are asked for too."
		}
		if in.As == Line {
			in.As = Radio
			if len(options) > 8 || q.Kind == form.Pick {
				in.As = Select
			}
		}
	}
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
	sums, any := make([]int64, len(columns)), false
	for _, r := range out.S.Rows {
		for i, c := range r.Cells {
			if columns[i].Kind == form.Money && c.Presence == condition.Given {
				sums[i], any = sums[i]+c.Value.Number.Num, true
			}
		}
	}
	for i, c := range columns {
		if c.Kind != form.Money {
			continue
		}
		if out.Foot == nil {
			out.Foot = make([]string, len(columns))
		}
		if any {
			out.Foot[i] = money.Format(sums[i], out.Currency)
		}
	}
	for _, key := range d.rowKeys(out.Q.Key, out.S.Limits.RowsLeast) {
		row := Row{Key: key}
		for _, c := range columns {
			in := d.input(form.Place{Question: out.Q.Key, Row: key, Column: c.Key}, c)
			if in.As == Radio || in.As == Checks {
				in.As = Select
			}
			in.Hint = ""
			row.Faulty = row.Faulty || in.Bad
			row.Inputs = append(row.Inputs, in)
		}
		out.Rows = append(out.Rows, row)
	}
}

// match stands over the computed column of a budget.
var match = form.Option{Key: "match", Label: "Others pay"}

func (d *drawer) budget(out *Field) {
	q := out.Q
	columns := form.BudgetColumns(q)
	payer := len(columns) - 1
	out.Columns = append(append(append([]form.Option{}, columns[:payer]...), match), columns[payer])
	var payers []form.Option
	for _, p := range budget.Payers {
		payers = append(payers, form.Option{Key: form.Key(p), Label: string(p)})
	}
	for _, key := range d.rowKeys(q.Key, 4) {
		row := Row{Key: key, Faulty: d.faulty[form.Place{Question: q.Key, Row: key}]}
		var cost, us string
		for _, c := range columns {
			in := d.input(form.Place{Question: q.Key, Row: key, Column: c.Key}, &form.Question{Label: c.Label, Kind: form.Short})
			switch c.Key {
			case form.ColCost:
				in.As, cost = Figure, in.Value
			case form.ColUs:
				in.As, us = Figure, in.Value
			case form.ColHeading:
				in.As, in.Options = Select, q.Options
			case form.ColPayer:
				in.As, in.Options = Select, payers
				row.Inputs = append(row.Inputs, Input{As: Computed, Value: others(cost, us, out.Currency)})
			}
			row.Inputs = append(row.Inputs, in)
		}
		out.Rows = append(out.Rows, row)
	}
	out.Foot = make([]string, len(out.Columns))
	if t := out.S.Totals; t != nil {
		n := len(out.Foot)
		out.Foot[n-4], out.Foot[n-3], out.Foot[n-2] = money.Format(t.Cost, out.Currency), money.Format(t.FromUs, out.Currency), money.Format(t.Match, out.Currency)
		out.Foot[n-1] = "others pay " + strconv.FormatFloat(budget.Percent(t.Match, t.Cost), 'f', 1, 64) + "% of the cost"
	}
}

// others is what others pay of a line, "" when the line cannot be added up.
func others(cost, us, currency string) string {
	c, ok := money.Parse(cost, currency)
	u, okUs := money.Parse(us, currency)
	if !ok || !okUs && strings.TrimSpace(us) != "" {
		return ""
	}
	return money.Format(c-u, currency)
}

// extensions are what a file chooser offers, by kind.
var extensions = map[slot.Kind]string{slot.PDF: ".pdf,application/pdf", slot.Picture: ".jpg,.jpeg,.png,image/jpeg,image/png", slot.Film: ".mp4,.mov,video/mp4,video/quicktime",
	slot.Sound: ".mp3,.wav,.flac,.m4a", slot.Text: ".docx,.odt", slot.Sheet: ".xlsx,.ods,.csv"}

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
		in := d.input(form.Place{Question: out.Q.Key, Column: form.TickColumn(i)}, &form.Question{Kind: form.Declaration, Label: t})
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
		fault, _, _ := slot.Check(slot.File{ID: m.ID, Name: m.Name, Size: m.Size, State: m.State, Finding: m.Finding, Facts: m.Facts.Facts}, *l)
		x.Untaken = fault != ""
		d := &drawer{filled: filled, versions: versions}
		row := form.FileRow(m.ID)
		add := func(column form.Key, label, hint string) {
			p := form.Place{Question: f.Q.Key, Row: row, Column: column}
			x.Details = append(x.Details, Input{Name: Name(p), Label: label, Value: d.filled.Answers[p].Raw, Version: versions[p], As: Line, Hint: hint})
		}
		for i, t := range l.Details {
			add(form.DetailColumn(i), t, "")
		}
		if !l.MadeSince.IsZero() {
			add(form.ColMade, "When it was made", "1 July 2027")
		}
	}
	f.Files = append(f.Files, x)
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
