package form

import (
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/phrase"
)

var _ = register(kind{
	key: Grade, means: "Number brought to a step of a table by a stated rounding", keeps: InText,
	typ: condition.TypeNumber, comparable: true,
	members: []string{"table", "rounding"}, begin: func(q *Question) { q.Rounding = Nearest },
	compile: func(c *compiler, q *Question) {
		t := c.f.tables[q.Table]
		c.need(t != nil && len(t.steps()) > 0, "choose a table with a column of numbers")
		c.need(slices.Contains([]Rounding{Nearest, NextUp, NextDown}, q.Rounding), "say how it is rounded")
	},
	read: readGrade, how: says("Write the number as it stands on the paper, such as 3.5."), words: gradeWords,
	limitsSay: func(q *Question, _ Limits) string { return "It is brought " + string(q.Rounding) + "." },
	note: func(f *Form, q *Question, filled *Filled, s *QuestionState) string {
		return phrase.Initial(gradeWords(f, q, filled, s))
	},
	values: func(f *Form, q *Question) Values {
		v := Values{Of: Listed}
		for _, s := range f.Steps(q.Table) {
			v.Listed = append(v.Listed, condition.Value{Number: &s})
		}
		return v
	},
	example: func(f *Form, q *Question, _ Limits) string {
		if s := f.Steps(q.Table); len(s) > 0 {
			return decimal.String(s[len(s)-1], 6)
		}
		return ""
	},
	tenths: takes(10), weighed: true, control: figureIn(ownUnit),
})

func readGrade(f *Form, q *Question, raw string) (condition.Value, bool) {
	n, ok := decimal.Parse(raw)
	t := f.tables[q.Table]
	if !ok || t == nil {
		return condition.Value{}, false
	}
	step, ok := t.Round(n, q.Rounding)
	return condition.Value{Number: &step}, ok
}

func gradeWords(_ *Form, _ *Question, _ *Filled, s *QuestionState) string {
	return strings.TrimSpace(s.Raw) + ", which counts as " + decimal.String(*s.Value.Number, 4)
}
