package proof

import (
	"context"
	"slices"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
)

// A rule over a sum of a budget, against what caps, match and request allow: at
// the very bound somebody can apply, a cent beyond it nobody can, and the proof
// says so. Whoever it calls possible really walks through the form.
func TestRulesOverABudget(t *testing.T) {
	headings := []form.Option{{Key: "people", Label: "People"}, {Key: "plant", Label: "Plant"}}
	of := func(column form.Key) condition.Ref { return condition.Ref{Answer: "costs", Column: column} }
	share := func(a, b form.Key) form.Figure {
		return form.Figure{Key: "x", Label: "X", Op: form.Share, Of: []condition.Ref{of(a), of(b)}}
	}
	sum := func(a form.Key) form.Figure {
		return form.Figure{Key: "x", Label: "X", Op: form.Sum, Of: []condition.Ref{of(a)}}
	}
	figure := func(rel condition.Rel, num, den int64) condition.Cond {
		return condition.Cond{Test: &condition.Test{Of: condition.Ref{Figure: "x"}, Rel: rel,
			Value: &condition.Value{Number: &condition.Number{Num: num, Den: den}}}}
	}
	all := &form.Costing{Quantities: true, Sources: []form.Key{"own", "in-kind"},
		Periods: []form.Option{
			{Key: "y1", Label: "1"},
			{Key: "y2", Label: "2"},
		}, Partners: []form.Option{{Key: "p", Label: "P"}}}
	boats := &form.Costing{Quantities: true, Gives: []form.Key{"boat"}}
	gives := &form.Costing{Quantities: true, Gives: []form.Key{"tree"}}
	for _, c := range []struct {
		name    string
		costing *form.Costing
		limits  form.Limits
		figure  form.Figure
		holds   condition.Cond
		can     bool
	}{
		{"others pay a fifth, and what is asked is four fifths", nil, form.Limits{MatchPercent: 20}, share("from-us", "cost"),
			figure(condition.AtLeast, 80, 100), true},
		{"or more than that", nil, form.Limits{MatchPercent: 20}, share("from-us", "cost"), figure(condition.More, 80, 100),
			false},
		{"25% of what is asked is a fifth of the cost", all, form.Limits{MatchOfAsked: 25}, share("match", "cost"),
			figure(condition.AtMost, 20, 100), true},
		{"and not less", all, form.Limits{MatchOfAsked: 25}, share("match", "cost"), figure(condition.Less, 20, 100), false},
		{"plant at its cap", all, form.Limits{Caps: []form.Cap{{Heading: "plant", Percent: 30, Of: form.OfCost}}},
			share("heading-plant", "cost"),
			figure(condition.AtLeast, 30, 100), true},
		{"plant above its cap", all, form.Limits{Caps: []form.Cap{{Heading: "plant", Percent: 30, Of: form.OfCost}}},
			share("heading-plant", "cost"),
			figure(condition.More, 30, 100), false},
		{"of what is asked others may add to plant", all, form.Limits{Caps: []form.Cap{{Heading: "plant", Percent: 30,
			Of: form.OfAsked}}},
			share("heading-plant", "cost"), figure(condition.AtLeast, 90, 100), true},
		{"what is asked is what the question says", nil, form.Limits{}, sum("from-us"), figure(condition.AtLeast, 8_000, 1),
			true},
		{"and not more", nil, form.Limits{}, sum("from-us"), figure(condition.More, 8_000, 1), false},
		{"the years come to the cost", all, form.Limits{}, share("period-y2", "cost"), figure(condition.AtMost, 100, 100),
			true},
		{"and not to more", all, form.Limits{}, share("period-y2", "cost"), figure(condition.More, 100, 100), false},
		{"one partner bears all of it", all, form.Limits{}, share("partner-p", "cost"), figure(condition.Less, 100, 100),
			false},
		{"in kind beyond its share does not help", all, form.Limits{MatchPercent: 40, InKindMost: 10}, share("own", "cost"),
			figure(condition.Less, 30, 100), false},
		{"but up to it", all, form.Limits{MatchPercent: 40, InKindMost: 10}, share("own", "cost"),
			figure(condition.AtMost, 30, 100), true},
		{"boats are given whole", boats, form.Limits{}, sum("asked-boat"), figure(condition.AtLeast, 301, 1), true},
		{"one and a half are not", boats, form.Limits{}, sum("asked-boat"), condition.Cond{All: []condition.Cond{
			figure(condition.More, 300, 1), figure(condition.Less, 600, 1)}}, false},
		{"trees up to their most", gives, form.Limits{}, sum("asked-tree"), figure(condition.AtLeast, 500, 1), true},
		{"and not more", gives, form.Limits{}, sum("asked-tree"), figure(condition.More, 500, 1), false},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := asking(ask("sum", form.Money, form.Chosen, least(1_000), most(8_000)),
				ask("costs", form.Budget, form.Chosen, func(q *form.Question) {
					q.Request, q.Options, q.Costing, q.Limits.Else = "sum", headings, c.costing, c.limits
				}))
			d.Currency = "JPY" // sums without cents, as they are typed here
			top := int64(500)
			d.Gifts = []form.Gift{{Key: "tree", Label: "Trees", What: "goods", Most: &top},
				{Key: "boat", Label: "Boats", What: "goods", Value: 300}}
			d.Figures = []form.Figure{c.figure}
			d.Rules = []form.Rule{rule("bound", c.holds)}
			f, err := form.Compile(d)
			if err != nil {
				t.Fatal(err)
			}
			r := Run(context.Background(), f)
			can := !slices.ContainsFunc(r.Findings, func(x Finding) bool { return x.Grade == CannotOpen })
			if can != c.can {
				t.Errorf("somebody can apply: %v\n%+v", can, r.Findings)
			}
		})
	}
}
