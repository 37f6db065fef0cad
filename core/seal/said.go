package seal

import (
	"strings"

	"ulvant/core/form"
)

// Said is what the applicant wrote beside a file that was sent, each with what
// it answers: "its title: Otters · made: 3 May 2026". "" for nothing.
func (d *Document) Said(f *form.Form, x File) string {
	if q := f.Question(x.Slot); q != nil {
		return d.said(q, x)
	}
	return ""
}

func (d *Document) said(q *form.Question, x File) string {
	var out []string
	for _, a := range d.Answers {
		if a.Question != x.Slot || a.Row != form.FileRow(x.ID) || strings.TrimSpace(a.Raw) == "" {
			continue
		}
		out = append(out, detail(q, a.Column)+": "+strings.TrimSpace(a.Raw))
	}
	return strings.Join(out, " · ")
}

// detail names what is asked beside a file at a column, in the first case of
// the slot's limits that asks it.
func detail(q *form.Question, column form.Key) string {
	if column == form.ColMade {
		return "made"
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
