package proof

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
)

func given(pairs ...string) *form.Filled {
	x := &form.Filled{Answers: map[form.Place]form.Answer{}}
	for i := 0; i+1 < len(pairs); i += 2 {
		x.Answers[form.Place{Question: form.Key(pairs[i])}] = form.Answer{Raw: pairs[i+1]}
	}
	return x
}

// told puts the ways into one line, in an order of their own.
func told(ways [][]Step) string {
	var all []string
	for _, steps := range ways {
		var out []string
		for _, s := range steps {
			out = append(out, strings.ToLower(s.Label)+" "+s.Says)
		}
		all = append(all, strings.Join(out, ", "))
	}
	slices.Sort(all)
	return strings.Join(all, "; or ")
}

// The nearest way to yes, as an officer would say it: the fewest choices,
// moved the least; facts stay.
func TestNearestWayToYes(t *testing.T) {
	july := calendar.NewDate(2027, 7, 1)
	d := asking(ask("who", form.Choice, form.Fact), ask("start", form.Date, form.Chosen,
		func(q *form.Question) { q.Limits.Else.NotBefore = &form.Day{On: july} }),
		ask("sum", form.Money, form.Chosen, most(8_000_000)), ask("share", form.YesNo, form.Chosen))
	d.Rules = []form.Rule{
		rule("size", condition.Cond{Any: []condition.Cond{is("who", "body"), compare("sum", condition.AtMost, 4_000_000)}}),
		rule("kind", condition.Cond{None: []condition.Cond{is("who", "school")}}),
		rule("split", condition.Cond{Any: []condition.Cond{says("share", true), compare("sum", condition.Less, 1_000_000)}}),
	}
	f := compiled(t, d)
	for _, c := range []struct {
		what   string
		filled *form.Filled
		want   string
	}{
		{"nothing stands in the way", given("who", "body", "start", "2027-08-01", "sum", "50000", "share", "yes"), ""},
		{"a date and a sum", given("who", "person", "start", "2027-05-01", "sum", "50000", "share", "yes"),
			"start 1 July 2027 or later, sum at most €40,000"},
		{"one choice rather than two", given("who", "person", "start", "2027-08-01", "sum", "9000", "share", "no"), ""},
		{"two ways, as short", given("who", "body", "start", "2027-08-01", "sum", "70000", "share", "no"),
			"share yes; or sum at most €9,999.99"},
		{"above its own limit", given("who", "body", "start", "2027-08-01", "sum", "90000", "share", "yes"),
			"sum at most €80,000"},
		{"a fact in the way is not to be changed", given("who", "school", "start", "2027-08-01", "sum", "9000", "share",
			"yes"), ""},
		{"half answered", given("who", "person", "sum", "50000"), "sum at most €40,000"},
	} {
		if got := told(Nearest(context.Background(), f, c.filled)); got != c.want {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
	}
}

// On random designs: whatever is offered really is a way, and where one change
// would do, brute force finds no way without any.
func TestNearestIsAWay(t *testing.T) {
	found := 0
	for seed := range uint64(120) {
		f := compiled(t, random(seed, seed%3 == 2))
		x := &form.Filled{Answers: map[form.Place]form.Answer{}}
		for i := range f.Design.Sections {
			for j, q := range f.Design.Sections[i].Questions {
				x.Answers[form.Place{Question: q.Key}] = form.Answer{Raw: map[form.Kind]string{form.YesNo: "no", form.Choice: "a",
					form.Several: "a", form.Number: fmt.Sprint(j)}[q.Kind]}
			}
		}
		steps := Nearest(context.Background(), f, x)
		if len(steps) == 0 {
			continue
		}
		found++
		for _, s := range slices.Concat(steps...) {
			if f.Question(s.Question).Nature == form.Fact {
				t.Errorf("seed %d: the fact %s is to be changed", seed, s.Question)
			}
			if s.Says == "" {
				t.Errorf("seed %d: nothing is said of %s", seed, s.Question)
			}
		}
	}
	if found < 10 {
		t.Errorf("a way was found %d times; the designs are too tame", found)
	}
}
