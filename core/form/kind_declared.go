package form

import (
	"regexp"
	"strings"

	"ulvant/core/condition"
)

var _ = register(kind{
	key: Declared, means: "Declaration made elsewhere, compared with a table of people and years", keeps: InText,
	members: []string{"declared"},
	compile: func(c *compiler, q *Question) {
		rule := q.declared()
		i, ok := c.f.index[rule.Of]
		c.need(
			ok && i < c.walked && len(c.f.questions[i].def.Options) > 0 && len(c.columnsOf(c.f.questions[i].def)) > 0,
			"name the table of people and years before it that it is compared with",
		)
		c.need(rule.Tolerance >= 0 && rule.Tolerance <= 100, "a share lies between 0 and 100 percent")
	},
	read: func(_ *Form, _ *Question, raw string) (condition.Value, bool) {
		raw = strings.ToUpper(strings.TrimSpace(raw))
		return condition.Value{Text: raw}, reference.MatchString(raw)
	},
	how:     says("Copy the reference from the declaration: letters, digits and hyphens."),
	words:   func(_ *Form, _ *Question, _ *Filled, s *QuestionState) string { return s.Value.Text },
	ready:   func(q *Question, _ Limits, _ string) string { return q.Label + "." },
	example: func(*Form, *Question, Limits) string { return "HD-204-881" }, tenths: takes(10),
	control: lineIn,
})

// DeclaredRule says what a declaration is compared with.
type DeclaredRule struct {
	Of        Key   `json:"of"`                  // a table of people and years
	Tolerance int64 `json:"tolerance,omitempty"` // they agree within so many percent of what was declared
}

var reference = regexp.MustCompile(`^[A-Z0-9][A-Z0-9-]{3,30}$`)

func lineIn(*Form, *Question, *Filled, string) Control {
	return Control{As: "line", Hint: "HD-204-881"}
}

func (q *Question) declared() DeclaredRule {
	if q.Declared == nil {
		return DeclaredRule{}
	}
	return *q.Declared
}

// DeclaredSums is one declaration to be compared: its reference, the years by their labels in
// order, and what is said here of each, minor units.
type DeclaredSums struct {
	Question  Key
	Label     string
	Reference string
	Years     []string
	Here      map[string]int64
	Tolerance int64
}

// Declarations lists those on a path that are given.
func (f *Form) Declarations(path *Path) (out []DeclaredSums) {
	for i := range f.questions {
		q, s := f.questions[i].def, &path.Questions[i]
		if q.Declared == nil || s.Asked != condition.Yes || s.Presence != condition.Given {
			continue
		}
		d := DeclaredSums{Question: q.Key, Label: q.Label, Reference: s.Value.Text, Here: map[string]int64{},
			Tolerance: q.Declared.Tolerance}
		table := f.Question(q.Declared.Of)
		sums := f.RowSums(table, path.Find(table.Key))
		for n, c := range f.Columns(table.Key) {
			for _, o := range table.Options {
				if o.Key == c.Key && sums[n] != nil {
					d.Years, d.Here[o.Label] = append(d.Years, o.Label), *sums[n]
				}
			}
		}
		out = append(out, d)
	}
	return out
}

// DeclaredRuleKey is the key under which a comparison stands among the findings.
func DeclaredRuleKey(question Key) Key { return "declared-" + question }
