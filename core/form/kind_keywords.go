package form

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
)

// Proposal marks a keyword that is not on the list but proposed for it.
const Proposal = "new: "

var _ = register(kind{
	key: Keywords, means: "Keywords from a list", keeps: InText, typ: condition.TypeSet, comparable: true,
	members: []string{"list", "proposals"}, limits: []string{"pickLeast", "pickMost"},
	compile: func(c *compiler, q *Question) {
		c.need(c.f.lists[q.List] != nil, "choose the list that is picked from")
	},
	read: readKeywords, options: listed, check: checkPicked, how: says("Choose from the list."), words: keywordLabels,
	values: someOf, possible: picksPossible, example: firstPicks, tenths: takes(20), weighed: true,
	control: func(f *Form, q *Question, _ *Filled, _ string) Control {
		return Control{As: control.Adder, Options: listed(f, q)}
	},
})

// listed are the items of the list that keywords are picked from.
func listed(f *Form, q *Question) []Option {
	var out []Option
	for i := range f.Design.Lists {
		if f.Design.Lists[i].Key == q.List {
			for _, it := range f.Design.Lists[i].Items {
				out = append(out, Option{Key(it.Code), it.Label})
			}
		}
	}
	return out
}

func readKeywords(f *Form, q *Question, raw string) (condition.Value, bool) {
	var out []string
	for _, p := range Lines(raw) {
		if text, proposed := strings.CutPrefix(p, Proposal); proposed {
			if !q.Proposals || len(text) > 80 {
				return condition.Value{}, false
			}
			if it, ok := f.Called(q.List, text); ok { // it was taken into the list since
				out = append(out, it.Code)
				continue
			}
			out = append(out, p)
			continue
		}
		it, ok := f.LookUp(q.List, p)
		if !ok {
			return condition.Value{}, false
		}
		out = append(out, it.Code)
	}
	return condition.Value{List: out}, len(out) > 0
}

func keywordLabels(f *Form, q *Question, _ *Filled, s *QuestionState) string {
	var out []string
	for _, k := range s.Value.List {
		if text, proposed := strings.CutPrefix(k, Proposal); proposed {
			out = append(out, text+" (proposed)")
		} else if it, ok := f.LookUp(q.List, k); ok {
			out = append(out, it.Label)
		}
	}
	return strings.Join(out, ", ")
}
