package field

import (
	"strings"

	"ulvant/core/control"
	"ulvant/core/form"
)

// Posted is what reading a form needs: every value under a name.
type Posted interface{ Values(name string) []string }

// NonName is the name of the choice of non-answers beside a question.
func NonName(name string) string { return name + "!non" }

// AddName is the name of the line in which a keyword is added.
func AddName(name string) string { return name + "!add" }

// Read an answer from a form. Several values stand on a line each; a keyword
// typed by its label becomes its code, or a proposal.
func Read(p Posted, q *form.Question, in Input) form.Answer {
	a := form.Answer{Raw: strings.Join(p.Values(in.Name), "\n")}
	if in.As == control.Adder {
		for _, typed := range p.Values(AddName(in.Name)) {
			if key := Keyword(q, in.Options, typed); key != "" {
				a.Raw = strings.TrimSpace(a.Raw + "\n" + key)
			}
		}
	}
	if non := p.Values(NonName(in.Name)); len(non) > 0 && non[0] != "" {
		return form.Answer{Non: form.NonAnswer(non[0])}
	}
	for _, n := range q.NonAnswers { // as the check carries it
		if a.Raw == string(n) {
			return form.Answer{Non: n}
		}
	}
	return a
}

// Keyword finds the code of what was typed: a label or code of the list, else
// a proposal where those are taken; "" for nothing.
func Keyword(q *form.Question, options []form.Option, typed string) string {
	typed = strings.Join(strings.Fields(typed), " ")
	for _, o := range options {
		if strings.EqualFold(o.Label, typed) || string(o.Key) == typed {
			return string(o.Key)
		}
	}
	if typed != "" && q.Proposals {
		return form.Proposal + typed
	}
	return typed
}

// FromForm reads every plain answer, and every piece, that a posted form holds.
func FromForm(r Posted, f *form.Form) map[form.Place]form.Answer {
	out := map[form.Place]form.Answer{}
	d := &drawer{form: f, filled: &form.Filled{}}
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			q := &s.Questions[i]
			places := []form.Place{{Question: q.Key}}
			for _, p := range f.Parts(q) {
				places = append(places, form.Place{Question: q.Key, Column: p.Key})
			}
			places = append(places, tablePlaces(r, f, q)...)
			for _, p := range places {
				if len(r.Values(Name(p))) == 0 && len(r.Values(NonName(Name(p)))) == 0 {
					continue
				}
				as := q
				if c := f.Column(q.Key, p.Column); c != nil {
					as = c
				} else if p.Row != "" {
					as = &form.Question{Key: q.Key}
				}
				if a := Read(r, as, d.input(p, as)); !a.Empty() {
					out[p] = a
				}
			}
		}
	}
	return out
}

// tablePlaces are the places of a table's rows that a posted form holds.
func tablePlaces(r Posted, f *form.Form, q *form.Question) (out []form.Place) {
	columns := f.Cells(q)
	for n := 1; len(columns) > 0 && n <= form.MostRows; n++ {
		for _, c := range columns {
			if p := (form.Place{Question: q.Key, Row: form.RowKey(n), Column: c}); len(r.Values(Name(p))) > 0 {
				out = append(out, p)
			}
		}
	}
	return out
}
