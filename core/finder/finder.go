// Package finder says what a visitor can look for a round by: its kind, the
// place, who may apply, and the sum. All of it is read off the design, so that
// nobody keeps a second description that grows out of date.
package finder

import (
	"slices"

	"ulvant/core/condition"
	"ulvant/core/form"
)

// Round as somebody looks for it.
type Round struct {
	Kind        string // grant, scholarship …
	Least, Most *int64 // minor units that may be asked; nil where nothing is
	Currency    string
	Who         []string // labels of the kinds of applicant; nil: anybody
	Places      []string // labels of the places or fields it is listed by; nil: anywhere
	Heading     string   // of the places: District, Field
}

// Describe a design.
func Describe(f *form.Form) Round {
	d := f.Design
	r := Round{Kind: d.Kind, Currency: d.Currency, Heading: d.Listed.Heading}
	if q := f.Question(d.Request); q != nil {
		r.Least, r.Most = q.Limits.Else.Least, q.Limits.Else.Most
	}
	if q := f.Question(d.Listed.Question); q != nil {
		r.Places = labels(f.Options(q))
	}
	r.Who = labels(d.Applicants)
	if r.Who != nil {
		return r
	}
	// without kinds of its own: the first choice that the rules read and that
	// is true of the applicant whatever they wish
	for _, q := range f.CheckQuestions() {
		if picksOne(q) && q.Nature == form.Fact && q.Key != d.Listed.Question {
			r.Who = labels(f.Options(q))
			break
		}
	}
	return r
}

// picksOne reports a question that picks one of its own options.
func picksOne(q *form.Question) bool {
	k := form.KindOf(q.Kind)
	return k.Chooses && k.Compared && k.Type == condition.TypeText
}

func labels(options []form.Option) (out []string) {
	for _, o := range options {
		out = append(out, o.Label)
	}
	return out
}

// Wish is what a visitor looks for; what is empty does not matter to them.
type Wish struct {
	Kind, Who, Place string
	Sum              int64 // minor units; 0 for any
}

// Any reports a wish that asks for something.
func (w Wish) Any() bool { return w != Wish{} }

// Fits reports a round that a wish does not rule out.
func (r Round) Fits(w Wish) bool {
	among := func(list []string, label string) bool {
		return label == "" || list == nil || slices.Contains(list, label)
	}
	return (w.Kind == "" || w.Kind == r.Kind) && among(r.Who, w.Who) && among(r.Places, w.Place) &&
		(w.Sum == 0 || (r.Least == nil || *r.Least <= w.Sum) && (r.Most == nil || w.Sum <= *r.Most))
}

// Same reports two questions of different rounds that one answer serves: of a
// kind, asked in the same words, with the same options.
func Same(a, b *form.Question) bool {
	return a.Kind == b.Kind && a.Label == b.Label && slices.EqualFunc(a.Options, b.Options,
		func(x, y form.Option) bool { return x.Key == y.Key })
}

// Choices over some rounds, each once, in the order in which they are met.
func Choices(list []Round) (kinds, who, places []string) {
	add := func(to *[]string, more ...string) {
		for _, m := range more {
			if m != "" && !slices.Contains(*to, m) {
				*to = append(*to, m)
			}
		}
	}
	for _, r := range list {
		add(&kinds, r.Kind)
		add(&who, r.Who...)
		add(&places, r.Places...)
	}
	return kinds, who, places
}
