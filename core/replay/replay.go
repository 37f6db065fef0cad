// Package replay runs a design over the sealed applications of an earlier
// round: whom its rules and limits would have stopped, and what became of
// those; what it would ask that was not asked then; and which questions cost
// applicants how much time without being used by anything.
//
// Dates are not compared: an earlier round lies in another year.
package replay

import (
	"cmp"
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/proof"
	"ulvant/core/say"
)

// Case is one sealed application, as it was decided.
type Case struct {
	Ref, Title string
	Filled     *form.Filled
	State      lifecycle.State
}

// Cause is one thing of the design that would have stopped somebody.
type Cause struct {
	Path    string // in the document
	Says    string
	Stopped []Case
	Awarded int // of them
}

// Asked is a question that was not asked then and would be now.
type Asked struct {
	Path, Label string
	Cases       int
	Must        bool
}

// Cost is the time one question took.
type Cost struct {
	Path, Label string
	Cases       int
	Minutes     int // of all applicants together
}

// Result of a replay.
type Result struct {
	Cases, Stopped, Awarded int // Awarded of those stopped
	Causes                  []Cause
	New                     []Asked
	Unused                  []Cost // of the earlier round, the dearest first
	Minutes                 int    // of all its questions
}

// Over runs the design f over the cases of an earlier round, whose own design
// was was.
func Over(f, was *form.Form, cases []Case) Result {
	r := Result{Cases: len(cases)}
	causes := map[string]*Cause{}
	fresh := map[form.Key]*Asked{}
	for _, c := range cases {
		path := f.Walk(c.Filled)
		stopped := map[string]bool{}
		for _, o := range path.Obstacles {
			key, at, says := cause(f, o)
			if key == "" || stopped[key] {
				continue
			}
			stopped[key] = true
			x := causes[key]
			if x == nil {
				x = &Cause{Path: at, Says: says}
				causes[key] = x
			}
			x.Stopped = append(x.Stopped, c)
			if c.State.Is(lifecycle.Gives) {
				x.Awarded++
			}
		}
		if len(stopped) > 0 {
			r.Stopped++
			if c.State.Is(lifecycle.Gives) {
				r.Awarded++
			}
		}
		for i := range path.Questions {
			st := &path.Questions[i]
			if st.Asked != condition.Yes || was.Question(st.Key) != nil && asked(was, c.Filled, st.Key) {
				continue
			}
			x := fresh[st.Key]
			if x == nil {
				x = &Asked{Path: pathOf(f, st.Key), Label: f.Question(st.Key).Label}
				fresh[st.Key] = x
			}
			x.Cases++
			x.Must = x.Must || st.Must == condition.Yes
		}
	}
	for _, x := range causes {
		r.Causes = append(r.Causes, *x)
	}
	slices.SortFunc(r.Causes, func(a, b Cause) int {
		return cmp.Or(cmp.Compare(len(b.Stopped), len(a.Stopped)), strings.Compare(a.Path, b.Path))
	})
	for _, x := range fresh {
		r.New = append(r.New, *x)
	}
	slices.SortFunc(r.New, func(a, b Asked) int {
		return cmp.Or(cmp.Compare(b.Cases, a.Cases),
			strings.Compare(a.Path, b.Path))
	})
	r.costs(was, cases)
	return r
}

func asked(f *form.Form, filled *form.Filled, k form.Key) bool {
	return f.Walk(filled).Find(k).Asked == condition.Yes
}

// cause names what an obstacle comes from; "" for what cannot be compared: what
// is blank because it was not asked, what others had to do, and dates.
func cause(f *form.Form, o form.Obstacle) (key, path, says string) {
	if o.Code == form.CodeNotEligible {
		for _, r := range f.Design.Rules {
			if r.Label == o.Name {
				return "rule " + string(r.Key), "rules/" + string(r.Key), "The rule “" + r.Label + "”"
			}
		}
		return "", "", ""
	}
	switch o.Code {
	case form.CodeTooLong, form.CodeTooShort, form.CodeTooManyChars, form.CodeTooLittle, form.CodeTooMuch,
		form.CodeTooFewPicked, form.CodeTooManyPicked,
		form.CodeTooFewRows, form.CodeTooManyRows, form.CodeBudgetMatch, form.CodeBudgetMatchAsked, form.CodeBudgetCap,
		form.CodeBudgetLeast, form.CodeBudgetMost, form.CodeFile,
		form.CodeFilesFew, form.CodeFilesMany, form.CodeFilesSize:
	default:
		return "", "", ""
	}
	q := f.Question(o.Place.Question)
	if q == nil {
		return "", "", ""
	}
	limit := say.Limit(f, q, q.Limits.Else, true)
	if o.Code == form.CodeBudgetMatch {
		limit = "Others pay at least " + o.Name + "% of the whole cost."
	}
	return string(o.Code) + " " + string(q.Key), pathOf(f, q.Key), "The limit of “" + strings.TrimSuffix(q.Label, "?") +
		"”: " + limit
}

func pathOf(f *form.Form, k form.Key) string {
	return "sections/" + string(f.SectionOf(k)) + "/questions/" + string(k)
}

// costs adds up what the earlier round's questions took.
func (r *Result) costs(was *form.Form, cases []Case) {
	tenths, n := map[form.Key]int{}, map[form.Key]int{}
	all := 0
	for _, c := range cases {
		path := was.Walk(c.Filled)
		for i := range path.Questions {
			if st := &path.Questions[i]; st.Asked == condition.Yes {
				t := was.Question(st.Key).Tenths(st.Limits)
				tenths[st.Key] += t
				n[st.Key]++
				all += t
			}
		}
	}
	r.Minutes = all / 10
	for _, k := range proof.UnusedBy(was) {
		if n[k] > 0 {
			r.Unused = append(r.Unused, Cost{pathOf(was, k), was.Question(k).Label, n[k], tenths[k] / 10})
		}
	}
	slices.SortStableFunc(r.Unused, func(a, b Cost) int { return cmp.Compare(b.Minutes, a.Minutes) })
}
