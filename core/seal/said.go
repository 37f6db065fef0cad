package seal

import (
	"strings"

	"ulvant/core/form"
	"ulvant/core/slot"
)

// Said is what the applicant wrote beside a file that was sent, each with what
// it answers: "its title: Otters · made: 3 May 2026". "" for nothing.
func (d *Document) Said(f *form.Form, x File) string {
	if q := f.Question(x.Slot); q != nil {
		return d.said(q, x)
	}
	return ""
}

// Titled is Said with what it is called apart: the first thing written beside it that
// was asked as a title, "" when none was. Where an excerpt begins and ends is left out.
func (d *Document) Titled(f *form.Form, x File) (title, said string) {
	q := f.Question(x.Slot)
	if q == nil {
		return "", ""
	}
	var rest []string
	for _, a := range d.beside(x) {
		label := detail(q, a.Column)
		switch {
		case a.Column == form.ColWhole:
			rest = append(rest, label+": "+d.called(a.Raw))
		case a.Column == form.ColFrom || a.Column == form.ColTo:
		case title == "" && strings.Contains(strings.ToLower(label), "title"):
			title = strings.TrimSpace(a.Raw)
		default:
			rest = append(rest, label+": "+strings.TrimSpace(a.Raw))
		}
	}
	return title, strings.Join(rest, " · ")
}

// Excerpt is the part of a recording that should be looked at or listened to; none
// when none is named.
func (d *Document) Excerpt(x File) (e slot.Excerpt) {
	var from, to string
	for _, a := range d.beside(x) {
		switch a.Column {
		case form.ColFrom:
			from = a.Raw
		case form.ColTo:
			to = a.Raw
		}
	}
	e, _ = slot.ReadExcerpt(from, to, 0, 0)
	return e
}

// beside is what was written beside a file, in the order of the page.
func (d *Document) beside(x File) (out []Answer) {
	for _, a := range d.Answers {
		if a.Question == x.Slot && a.Row == form.FileRow(x.ID) && strings.TrimSpace(a.Raw) != "" {
			out = append(out, a)
		}
	}
	return out
}

func (d *Document) said(q *form.Question, x File) string {
	var out []string
	for _, a := range d.beside(x) {
		raw := strings.TrimSpace(a.Raw)
		if a.Column == form.ColWhole {
			raw = d.called(raw)
		}
		out = append(out, detail(q, a.Column)+": "+raw)
	}
	return strings.Join(out, " · ")
}

// called is the name of the file that a row stands for.
func (d *Document) called(row string) string {
	for _, x := range d.Files {
		if form.FileRow(x.ID) == strings.TrimSpace(row) {
			return x.Name
		}
	}
	return "a file that is not here"
}

// detail names what is asked beside a file at a column, in the first case of
// the slot's limits that asks it.
func detail(q *form.Question, column form.Key) string {
	switch column {
	case form.ColMade:
		return "made"
	case form.ColFrom:
		return "excerpt from"
	case form.ColTo:
		return "to"
	case form.ColWhole:
		return "belongs to"
	}
	cases := []form.Limits{q.Limits.Else}
	for _, w := range q.Limits.When {
		cases = append(cases, w.Then)
	}
	for _, l := range cases {
		if l.Slot == nil {
			continue
		}
		for i, says := range l.Slot.Details {
			if form.DetailColumn(i) == column {
				return says
			}
		}
	}
	return "beside it"
}
