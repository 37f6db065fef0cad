// Package field turns a question and its state into what templates draw, and
// reads answers back from an ordinary form.
package field

import (
	"fmt"
	"strconv"
	"strings"

	"ulvant/core/budget"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/reference"
)

// Input is one thing to type into.
type Input struct {
	Name     string // question, or question:row:column
	Label    string
	Value    string
	Declared bool
	Version  int
}

// Row of a table question.
type Row struct {
	Key    string
	Inputs []Input
	Match  string // what others pay, formatted
	Faulty bool
}

// Problem at a question.
type Problem struct{ What, Remedy string }

// Field is a question as it is drawn.
type Field struct {
	Q        *form.Question
	S        *form.QuestionState
	Currency string
	Shown    bool
	Limit    string
	Words    int // the word limit, 0 for none
	Input    Input
	Parts    []Input // of an address
	Rows     []Row   // of a budget
	Totals   *Totals
	Payers   []budget.Payer
	Problems []Problem
	Files    []material.File
	Referees []reference.Referee
	Typed    map[string]string // what was typed into a form that was refused
	ReadOnly bool
}

// Totals of a budget as they are shown.
type Totals struct{ Cost, FromUs, Match, Share string }

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

// New draws a question. versions are of the kept answers; nil for none.
func New(f *form.Form, filled *form.Filled, path *form.Path, q *form.Question, versions map[form.Place]int) Field {
	s := path.Find(q.Key)
	input := func(p form.Place, label string) Input {
		a := filled.Answers[p]
		return Input{Name: Name(p), Label: label, Value: a.Raw, Declared: a.Declared, Version: versions[p]}
	}
	out := Field{Q: q, S: s, Currency: f.Design.Currency, Shown: s.Asked == condition.Yes, Limit: say.Limit(f, q, s.Limits, s.Settled),
		Words: s.Limits.Words, Input: input(form.Place{Question: q.Key}, q.Label), Payers: budget.Payers}
	faulty := map[string]bool{}
	for _, o := range path.Obstacles {
		if o.Place.Question != q.Key || o.Code == form.CodeNotEligible {
			continue
		}
		faulty[o.Place.Row] = true
		if o.Code == form.CodeBlank {
			continue
		}
		what, remedy := say.Obstacle(f, o)
		out.Problems = append(out.Problems, Problem{what, remedy})
	}
	switch q.Kind {
	case form.Address:
		for _, c := range form.AddressColumns {
			out.Parts = append(out.Parts, input(form.Place{Question: q.Key, Column: c.Key}, c.Label))
		}
	case form.Budget:
		out.budget(f, filled, input, faulty)
	}
	return out
}

var columns = []form.Option{{Key: form.ColItem, Label: "What"}, {Key: form.ColCost, Label: "Cost"}, {Key: form.ColUs, Label: "Asked from us"}, {Key: form.ColPayer, Label: "Who pays the rest"}}

// spare is how many empty lines a budget shows below the last one.
const spare = 2

func (out *Field) budget(f *form.Form, filled *form.Filled, input func(form.Place, string) Input, faulty map[string]bool) {
	last := 0
	rows := filled.Rows(out.Q.Key)
	for _, r := range rows {
		if n, err := strconv.Atoi(strings.TrimPrefix(r, "r")); err == nil {
			last = max(last, n)
		}
	}
	for i := range max(spare, 4-len(rows)) {
		rows = append(rows, fmt.Sprintf("r%04d", last+1+i))
	}
	for _, key := range rows {
		row := Row{Key: key, Faulty: faulty[key]}
		empty := true
		for _, c := range columns {
			in := input(form.Place{Question: out.Q.Key, Row: key, Column: c.Key}, c.Label)
			empty = empty && strings.TrimSpace(in.Value) == ""
			row.Inputs = append(row.Inputs, in)
		}
		cost, ok := money.Parse(row.Inputs[1].Value, out.Currency)
		us, okUs := money.Parse(row.Inputs[2].Value, out.Currency)
		if ok && (okUs || strings.TrimSpace(row.Inputs[2].Value) == "") {
			row.Match = money.Format(cost-us, out.Currency)
		}
		if !empty || row.Inputs[0].Version == 0 {
			out.Rows = append(out.Rows, row)
		}
	}
	if t := out.S.Totals; t != nil {
		out.Totals = &Totals{money.Format(t.Cost, out.Currency), money.Format(t.FromUs, out.Currency), money.Format(t.Match, out.Currency),
			strconv.FormatFloat(budget.Percent(t.Match, t.Cost), 'f', 1, 64)}
	}
}

// Request is what reading a form needs.
type Request interface {
	FormValue(key string, def ...string) string
}

// NotKnown is the name of the box beside a question for saying "not known".
func NotKnown(name string) string { return name + "!not-known" }

// FromForm reads every plain answer that a posted form holds.
func FromForm(r Request, f *form.Form) map[form.Place]form.Answer {
	out := map[form.Place]form.Answer{}
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			q := &s.Questions[i]
			p := form.Place{Question: q.Key}
			a := form.Answer{Raw: r.FormValue(Name(p)), Declared: q.NotKnown && (r.FormValue(NotKnown(Name(p))) != "" || r.FormValue(Name(p)) == "not known")}
			if a.Declared {
				a.Raw = ""
			}
			if !a.Empty() {
				out[p] = a
			}
		}
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
	for _, r := range f.Referees {
		if r.State != form.Declined {
			return false
		}
	}
	return true
}
