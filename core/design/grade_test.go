package design_test

import (
	"encoding/json"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
)

// How changes bear on people who are writing already: what an officer would say
// (semantics.md, "Designs while open").
func TestGrades(t *testing.T) {
	base := func() *form.Design {
		yes := true
		return &form.Design{Schema: form.Schema, Fund: 1000, Vote: &form.Vote{Asks: "Which?", Named: 1, Most: 2},
			Letters: []form.Letter{{Key: "l",
				Subject: "S", Body: "B"}}, Calendar: []form.Moment{{Key: form.Closes}},
			Awards: []form.Award{{Key: "first", Label: "First", Purse: 500}},
			Rules: []form.Rule{{Key: "who", Label: "Who",
				Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "b"}, Rel: condition.Is,
					Value: &condition.Value{Yes: &yes}}}}},
			Sections: []form.Section{{Key: "s", Label: "S", Questions: []form.Question{
				{Key: "a", Kind: form.Long, Label: "Tell us", Blank: form.Required,
					Limits: form.Cases[form.Limits]{Else: form.Limits{Words: 200}}},
				{Key: "b", Kind: form.YesNo, Label: "Have you leave?", Blank: form.MeansNo,
					NonAnswers: []form.NonAnswer{form.NotKnown}},
				{Key: "c", Kind: form.Choice, Label: "Which?", Blank: form.Required,
					Options: []form.Option{{Key: "x", Label: "X"}, {Key: "y", Label: "Y"}}},
			}}}}
	}
	q := func(d *form.Design, i int) *form.Question { return &d.Sections[0].Questions[i] }
	for _, c := range []struct {
		change func(*form.Design)
		want   design.Grade
		says   string
	}{
		{func(d *form.Design) { d.Vote.Most = 1 }, design.Wording, ""},
		{func(d *form.Design) { d.Vote.Shows = []form.Key{"a"} }, design.Tightens, ""},
		{func(d *form.Design) { d.Letters[0].Award = "first" }, design.Wording, ""},
		{func(d *form.Design) {
			d.Letters[0].When = condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "b"}, Rel: condition.IsNot}}
		}, design.Wording, ""},
		{func(d *form.Design) { q(d, 0).Label = "Say" }, design.Wording, `set “label” of the question “Say” to “Say”`},
		{func(d *form.Design) { q(d, 0).Limits.Else.Words = 250 }, design.Loosens,
			`changed “limits” of the question “Tell us”`},
		{func(d *form.Design) { q(d, 0).Limits.Else.Words = 150 }, design.Tightens,
			`changed “limits” of the question “Tell us”`},
		{func(d *form.Design) { q(d, 0).Limits.Else.Words = 0 }, design.Loosens, ""},
		{func(d *form.Design) { q(d, 0).Limits.Else.LeastWords = 20 }, design.Tightens, ""},
		{func(d *form.Design) { q(d, 0).Blank = form.MeansNo }, design.Loosens, ""},
		{func(d *form.Design) { q(d, 1).Blank = form.Required }, design.Tightens, ""},
		{func(d *form.Design) { q(d, 1).NonAnswers = nil }, design.TakesAway, ""},
		{func(d *form.Design) { q(d, 2).Options = q(d, 2).Options[:1] }, design.TakesAway, ""},
		{func(d *form.Design) { q(d, 2).Options = append(q(d, 2).Options, form.Option{Key: "z"}) }, design.Loosens, ""},
		{func(d *form.Design) { d.Sections[0].Questions = d.Sections[0].Questions[:2] }, design.TakesAway,
			`took out the question “Which?”`},
		{func(d *form.Design) {
			d.Sections[0].Questions = append(d.Sections[0].Questions,
				form.Question{Key: "n", Label: "New", Blank: form.Required})
		}, design.Tightens, `added the question “New”`},
		{func(d *form.Design) {
			d.Sections[0].Questions = append(d.Sections[0].Questions, form.Question{Key: "n", Label: "New", Blank: form.MeansNo})
		}, design.Loosens, ""},
		{func(d *form.Design) { d.Rules = nil }, design.Loosens, `took out the rule “Who”`},
		{func(d *form.Design) { d.Rules[0].Person = true }, design.Loosens, ""},
		{func(d *form.Design) { d.Awards[0].Purse = 400 }, design.TakesAway, ""},
		{func(d *form.Design) { d.Fund = 2000 }, design.Loosens, ""},
		{func(d *form.Design) { d.ReadersEach = 5 }, design.Wording, ""},
	} {
		d := base()
		c.change(d)
		got, err := design.Compare(doc(t, base()), doc(t, d))
		if err != nil || len(got) != 1 || got[0].Grade != c.want || c.says != "" && got[0].Sentence != c.says {
			t.Errorf("want %d %q, got %+v %v", c.want, c.says, got, err)
		}
	}
	d := base()
	q(d, 0).Label, d.Awards = "Say", nil
	if got, _ := design.Compare(doc(t, base()), doc(t, d)); len(got) != 2 || got[0].Grade != design.TakesAway {
		t.Errorf("the heaviest comes first: %+v", got)
	}
}

func doc(t *testing.T, d *form.Design) []byte {
	t.Helper()
	raw, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

// Whatever two documents say, comparing them gives changes or a sentence, and
// what is the same draws none.
func FuzzCompare(f *testing.F) {
	f.Add([]byte(`{"sections":[{"key":"a","questions":[{"key":"b","limits":{"else":{"words":3}}}]}]}`),
		[]byte(`{"sections":[{"key":"a","questions":[{"key":"b","limits":{"when":[{}],"else":7}}]},{"key":""}]}`))
	f.Add([]byte(`{"calendar":[{"key":"closes","at":null}],"rules":[{"key":"r"},{"key":"r"}]}`),
		[]byte(`{"calendar":[{"key":"closes","at":"x"}],"rules":{}}`))
	f.Fuzz(func(t *testing.T, a, b []byte) {
		design.Compare(a, b)
		if got, err := design.Compare(a, a); err == nil && len(got) > 0 {
			t.Errorf("%s differs from itself: %+v", a, got)
		}
	})
}
