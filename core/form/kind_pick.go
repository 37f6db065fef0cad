package form

import (
	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/phrase"
)

var _ = register(kind{
	key: Pick, means: "Pick a row of a table the office keeps; the rest is filled in", keeps: InText,
	typ: condition.TypeText, comparable: true, fills: true, members: []string{"table"},
	compile: func(c *compiler, q *Question) {
		c.need(c.f.tables[q.Table] != nil, "choose the table that is picked from")
	},
	read: readOption, options: tableRows, how: says(howChoosing), words: rowPicked,
	note: func(f *Form, q *Question, filled *Filled, s *QuestionState) string {
		return phrase.Initial(rowPicked(f, q, filled, s))
	},
	values: oneOf, example: firstOption, tenths: takes(5), weighed: true,
	control: func(f *Form, q *Question, _ *Filled, _ string) Control {
		return Control{As: control.Select, Options: tableRows(f, q)}
	},
})

func tableRows(f *Form, q *Question) []Option {
	t := f.tables[q.Table]
	if t == nil {
		return nil
	}
	var out []Option
	for _, r := range t.Rows {
		out = append(out, Option{r.Key, r.Label})
	}
	return out
}

// rowPicked writes a row of a table the office keeps, with what it fills in.
func rowPicked(f *Form, q *Question, _ *Filled, s *QuestionState) string {
	t := f.Table(q.Table)
	for _, r := range t.Rows {
		if string(r.Key) != s.Value.Text {
			continue
		}
		out := r.Label
		for i, c := range t.Columns {
			out += "; " + c.Label + " " + r.Cells[i]
		}
		return out
	}
	return s.Value.Text
}
