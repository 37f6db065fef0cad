// Package survey counts what people answered after sending. A survey is kept
// apart from the cases: nothing here knows who answered what, and nothing is
// shown until enough have answered for nobody to be told by it (a threshold of
// five, common practice, no source).
package survey

import (
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/export"
	"ulvant/core/form"
	"ulvant/core/say"
)

// Least is how many must have answered before anything is shown.
const Least = 5

// Result of one question.
type Result struct {
	Question *form.Question
	Answered int
	Picks    []Pick                 // of a choice, in the order of its options; for preferences, how often each came first
	Low      condition.Number       // of numbers and dates: the least …
	Middle   condition.Number       // … the middle one, the lower of two …
	High     condition.Number       // … and the most
	Numbers  bool                   // the three above hold
	Texts    []string               // as written, in the order given
	Declined map[form.NonAnswer]int // who gave an honest answer that is none
}

// Pick is how often an option was chosen.
type Pick struct {
	Label string
	N     int
}

// Share of those who answered, in percent, rounded to the nearest.
func (r Result) Share(n int) int {
	if r.Answered == 0 {
		return 0
	}
	return (200*n + r.Answered) / (2 * r.Answered)
}

// Tally counts the answered surveys of a form, question by question in reading
// order. What cannot be read, as after a change of the design, is left out.
func Tally(f *form.Form, answered []map[form.Place]form.Answer) []Result {
	var out []Result
	for _, s := range f.Survey() {
		for i := range s.Questions {
			out = append(out, tally(f, &s.Questions[i], answered))
		}
	}
	return out
}

func tally(f *form.Form, q *form.Question, answered []map[form.Place]form.Answer) Result {
	r := Result{Question: q, Declined: map[form.NonAnswer]int{}}
	picks := map[string]int{}
	var numbers []condition.Number
	for _, a := range answered {
		at := form.Place{Question: q.Key}
		if parts := f.Parts(q); len(parts) > 0 { // preferences: the first
			at.Column = parts[0].Key
		}
		x := a[at]
		switch {
		case x.Non != "":
			r.Declined[x.Non]++
			continue
		case x.Empty():
			continue
		}
		read := q
		if at.Column != "" {
			first := f.Parts(q)[0]
			read = &form.Question{Kind: first.Kind, Options: first.Options}
		}
		v, ok := f.Read(read, x.Raw)
		if !ok {
			continue
		}
		r.Answered++
		switch {
		case v.Yes != nil:
			picks[map[bool]string{true: "yes", false: "no"}[*v.Yes]]++
		case v.Number != nil:
			numbers = append(numbers, *v.Number)
		case !v.Date.IsZero():
			numbers = append(numbers, condition.Number{Num: int64(v.Date), Den: 1})
		case v.List != nil:
			for _, k := range v.List {
				picks[k]++
			}
		case f.Options(q) != nil:
			picks[v.Text]++
		default:
			r.Texts = append(r.Texts, strings.TrimSpace(x.Raw))
		}
	}
	options := f.Options(q)
	if q.Type() == condition.TypeYes {
		options = form.YesAndNo()
	}
	for _, o := range options {
		r.Picks = append(r.Picks, Pick{o.Label, picks[string(o.Key)]})
	}
	if len(numbers) > 0 {
		slices.SortFunc(numbers, condition.Number.Compare)
		r.Numbers, r.Low, r.Middle, r.High = true, numbers[0], numbers[(len(numbers)-1)/2], numbers[len(numbers)-1]
	}
	return r
}

// Sheet gives the answered surveys out, a row each under the questions' labels,
// in the order given.
func Sheet(f *form.Form, answered []map[form.Place]form.Answer) *export.Sheet {
	var questions []*form.Question
	var columns []export.Column
	for _, s := range f.Survey() {
		for i := range s.Questions {
			q := &s.Questions[i]
			questions, columns = append(questions, q), append(columns, export.Column{Key: string(q.Key), Heading: q.Label})
		}
	}
	out := export.New(columns...)
	for _, a := range answered {
		filled := form.Surveyed(a, &form.Filled{})
		path := f.Walk(filled)
		row := make([]export.Cell, len(questions))
		for i, q := range questions {
			row[i] = export.Text(say.Answer(f, q, filled, path.Find(q.Key)))
		}
		out.Add(row...)
	}
	return out
}
