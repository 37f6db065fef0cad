package form_test

import (
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
)

// Whether one more may be begun, by what was sent already.
func TestFull(t *testing.T) {
	count := func(of condition.Fixed, rel condition.Rel, n int64) condition.Cond {
		return condition.Cond{Test: &condition.Test{Of: condition.Ref{Fixed: of}, Rel: rel,
			Value: &condition.Value{Number: &condition.Number{Num: n, Den: 1}}}}
	}
	rule := func(key form.Key, holds condition.Cond, person bool) form.Rule {
		return form.Rule{Key: key, Label: string(key), Holds: holds, Person: person, Yes: "Yes.", No: "No: " + string(key),
			Look: "Look."}
	}
	one, two := count(condition.OthersInRound, condition.AtMost, 0), count(condition.OthersInProgramme, condition.Less, 2)
	for _, c := range []struct {
		what   string
		rules  []form.Rule
		others form.Others
		typed  string // of the district
		want   string // the rule that refuses; "" for none
	}{
		{"one each, none sent", []form.Rule{rule("one-each", one, false)}, form.Others{}, "", ""},
		{"one each, one sent", []form.Rule{rule("one-each", one, false)}, form.Others{Round: 1, Programme: 1}, "",
			"one-each"},
		{"two a programme, one sent", []form.Rule{rule("two", two, false)}, form.Others{Round: 1, Programme: 1}, "", ""},
		{"two a programme, two sent", []form.Rule{rule("two", two, false)}, form.Others{Programme: 2}, "", "two"},
		{"a person looks instead", []form.Rule{rule("one-each", one, true)}, form.Others{Round: 1}, "", ""},
		{"one each, unless the work is in Tarl: not known yet",
			[]form.Rule{rule("one-each", condition.Cond{Any: []condition.Cond{one, is("district", "tarl")}},
				false)}, form.Others{Round: 1}, "", ""},
		{"and it is in Corvoe", []form.Rule{rule("one-each",
			condition.Cond{Any: []condition.Cond{one, is("district",
				"tarl")}}, false)}, form.Others{Round: 1}, "corvoe", "one-each"},
		{"a rule that fails by itself is not one of these", []form.Rule{rule("tarl", is("district", "tarl"), false),
			rule("one-each", one, false)}, form.Others{}, "corvoe", ""},
		{"nothing counts", nil, form.Others{Round: 9}, "", ""},
	} {
		f := asking(t, func(d *form.Design) { d.Rules = append(d.Rules, c.rules...) })
		answers := map[form.Place]form.Answer{}
		if c.typed != "" {
			answers[form.Place{Question: "district"}] = form.Answer{Raw: c.typed}
		}
		got := ""
		for _, r := range f.Full(answers, c.others, 0) {
			got += string(r.Key)
			if r.Reason != "No: "+string(r.Key) {
				t.Errorf("%s: it says %q", c.what, r.Reason)
			}
		}
		if got != c.want {
			t.Errorf("%s: refused by %q, want %q", c.what, got, c.want)
		}
	}
}
