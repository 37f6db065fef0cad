package form

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"ulvant/core/condition"
)

func (c *compiler) cond(cond condition.Cond) condition.Program {
	p, err := condition.Compile(cond, c)
	if err != nil {
		for _, e := range unjoin(err) {
			c.need(false, "%s", e)
		}
		return condition.Program{}
	}
	return p
}

func unjoin(err error) []error {
	if j, ok := err.(interface{ Unwrap() []error }); ok {
		var out []error
		for _, e := range j.Unwrap() {
			out = append(out, unjoin(e)...)
		}
		return out
	}
	return []error{err}
}

// List finds a list for conditions.
func (c *compiler) List(k Key) condition.List {
	if l, ok := c.f.lists[k]; ok {
		c.lists = append(c.lists, l.def)
		return l
	}
	return nil
}

// evidence says which lists, of which version and day, a look-up was made in.
func evidence(lists []*List) string {
	var out []string
	for _, l := range lists {
		s := "“" + l.Label + "”"
		if l.Version != "" {
			s += ", version " + l.Version
		}
		if !l.Day.IsZero() {
			s += " of " + l.Day.Words()
		}
		out = append(out, s+" (SHA-256 "+l.Hash()[:16]+")")
	}
	return strings.Join(out, "; ")
}

// Resolve finds what a condition reads, and refuses what is not known there.
func (c *compiler) Resolve(r condition.Ref) (int, condition.Type, error) {
	switch {
	case r.Answer != "":
		return c.resolveAnswer(r)
	case r.Figure != "":
		for i := range c.f.figures {
			f := &c.f.figures[i]
			if f.def.Key != r.Figure {
				continue
			}
			if f.after >= c.walked {
				return 0, 0, fmt.Errorf("the figure %q is not known yet there", f.def.Label)
			}
			for _, i := range f.reads {
				if err := c.inTime(i); err != nil {
					return 0, 0, err
				}
			}
			c.reads = append(c.reads, f.reads...)
			return f.frame, f.typ, nil
		}
		return 0, 0, fmt.Errorf("no figure is called %q", r.Figure)
	case r.Date != "":
		for i, m := range c.f.Design.Calendar {
			if m.Key == r.Date {
				return c.f.dates[i], condition.TypeDate, nil
			}
		}
		return 0, 0, fmt.Errorf("the calendar has no %q", r.Date)
	case r.Stage != "":
		if i, ok := c.f.stages[r.Stage]; ok {
			if c.f.place(r.Stage) >= c.stage {
				return 0, 0, fmt.Errorf("the result of “%s” is not known yet there", c.f.Design.StageLabel(r.Stage))
			}
			c.known = max(c.known, c.f.place(r.Stage)+1)
			return i, condition.TypeText, nil
		}
		return 0, 0, fmt.Errorf("there is no stage %q", r.Stage)
	case r.Fixed == condition.Today:
		return c.f.today, condition.TypeDate, nil
	case r.Fixed == condition.OthersInRound:
		c.f.counted = true
		return c.f.others, condition.TypeNumber, nil
	case r.Fixed == condition.OthersInProgramme:
		c.f.counted = true
		return c.f.others + 1, condition.TypeNumber, nil
	case r.Fixed == condition.Stream || r.Fixed == condition.Applicant:
		if q := c.f.Supplying(r.Fixed); q != nil {
			return c.resolveAnswer(condition.Ref{Answer: q.Key})
		}
		return 0, 0, fmt.Errorf("no question asks for the %s", r.Fixed)
	}
	return 0, 0, errors.New("a test reads an answer, a figure, a date, the stream, the kind of applicant or the " +
		"result of a stage")
}

func (c *compiler) resolveAnswer(r condition.Ref) (int, condition.Type, error) {
	i, ok := c.f.index[r.Answer]
	if !ok {
		return 0, 0, fmt.Errorf("nothing is called %q", r.Answer)
	}
	q := &c.f.questions[i]
	if r.Column != "" && c.rows == i { // a column of the same row
		for n, col := range q.columns {
			if col.def.Key == r.Column && n < c.column {
				if !col.kind.comparable {
					return 0, 0, fmt.Errorf("a condition cannot read %q, which is a %s", col.def.Label, col.def.Kind)
				}
				return q.cells + n, col.kind.typ, nil
			}
		}
		return 0, 0, fmt.Errorf("no column before this one is called %q", r.Column)
	}
	if i >= c.walked {
		return 0, 0, fmt.Errorf("%s is asked later; a condition reads only what comes before it",
			name(q.def.Label, q.def.Key))
	}
	if err := c.inTime(i); err != nil {
		return 0, 0, err
	}
	if r.Column != "" {
		t := c.f.Fills(q.def)
		if t == nil {
			return 0, 0, fmt.Errorf("the rows of %s are read through a figure, such as a sum or a count",
				name(q.def.Label, q.def.Key))
		}
		for n, col := range t.Columns {
			if col.Key == r.Column {
				c.reads = append(c.reads, i)
				if col.Numbers {
					return q.cells + n, condition.TypeNumber, nil
				}
				return q.cells + n, condition.TypeText, nil
			}
		}
		return 0, 0, fmt.Errorf("the table %q has no column %q", t.Label, r.Column)
	}
	if !q.kind.comparable {
		return 0, 0, fmt.Errorf("a condition cannot read %s, which is a %s", name(q.def.Label, q.def.Key), q.def.Kind)
	}
	c.reads = append(c.reads, i)
	return i, q.kind.typ, nil
}

// inTime refuses to read a question of a later stage.
func (c *compiler) inTime(i int) error {
	if q := &c.f.questions[i]; c.f.sections[q.section].stage > c.stage {
		return fmt.Errorf("%s is asked in a later stage", name(q.def.Label, q.def.Key))
	}
	return nil
}

// ReadBy are the questions that rules read, straight or by figures worked out
// from them, each once, in the order in which they are met.
func (f *Form) ReadBy(rules ...Key) (out []Key) {
	seen := map[Key]bool{} // figures
	var read func(condition.Ref)
	read = func(ref condition.Ref) {
		if ref.Answer != "" && !slices.Contains(out, ref.Answer) {
			out = append(out, ref.Answer)
		}
		for _, x := range f.Design.Figures {
			if ref.Figure != "" && x.Key == ref.Figure && !seen[x.Key] {
				seen[x.Key] = true
				for _, of := range x.Of {
					read(of)
				}
			}
		}
	}
	for _, key := range rules {
		for _, r := range f.Design.Rules {
			if r.Key == key {
				r.Holds.Refs(read)
			}
		}
	}
	return out
}
