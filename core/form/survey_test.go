package form_test

import (
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/seal"
)

// surveyed has a survey whose second question hangs on its first, and whose
// third hangs on what was sent.
func surveyed(t *testing.T, change func(*form.Design)) (*form.Form, error) {
	t.Helper()
	d := *asking(t, nil).Design
	q := func(key form.Key, kind form.Kind, asked condition.Cond) form.Question {
		return form.Question{Key: key, Kind: kind, Label: string(key), Nature: form.Fact, Blank: form.MeansNo,
			Seen: form.ToOffice, Options: options("yes", "no"), Asked: asked}
	}
	d.Sections = append(d.Sections, form.Section{Key: "after", Label: "After", Stage: form.AfterSending,
		Questions: []form.Question{
			q("clear", form.Choice, condition.Cond{}), q("why-not", form.Long, is("clear", "no")), q("of-the-shore", form.Long,
				is("repair-kind", "shore"))}})
	if change != nil {
		change(&d)
	}
	return form.Compile(&d)
}

// A survey is no part of the application: it is never asked in it, never in its
// way, never in its seal. Afterwards it is asked alone.
func TestASurveyStandsApart(t *testing.T) {
	f, err := surveyed(t, nil)
	if err != nil {
		t.Fatal(err)
	}
	x := filled()
	set(x, "clear", "", "", "no") // by a hand-made request
	p := f.Walk(x)
	if len(p.Obstacles) != 0 || p.Find("clear").Asked != condition.No ||
		p.Sections[len(p.Sections)-1].Asked != condition.No {
		t.Errorf("in the application: %+v", p.Obstacles)
	}
	for _, a := range seal.Answers(x, p) {
		if a.Question == "clear" {
			t.Error("it is sealed")
		}
	}
	for _, c := range []struct {
		what   string
		answer map[form.Place]form.Answer
		asked  map[form.Key]condition.Tri
		wants  bool
	}{
		{"nothing yet", nil, map[form.Key]condition.Tri{"clear": condition.Yes, "why-not": condition.No,
			"of-the-shore": condition.Yes}, false},
		{"not clear", map[form.Place]form.Answer{{Question: "clear"}: {Raw: "no"}},
			map[form.Key]condition.Tri{"why-not": condition.Yes}, true},
		{"clear", map[form.Place]form.Answer{{Question: "clear"}: {Raw: "yes"}},
			map[form.Key]condition.Tri{"why-not": condition.No}, true},
		{"what is not asked does not count", map[form.Place]form.Answer{{Question: "why-not"}: {Raw: "so"}},
			map[form.Key]condition.Tri{"why-not": condition.No}, false},
		{"another's answer", map[form.Place]form.Answer{{Question: "site"}: {Raw: "so"}},
			map[form.Key]condition.Tri{"site": condition.No}, false},
	} {
		p := f.Walk(form.Surveyed(c.answer, filled()))
		for k, want := range c.asked {
			if got := p.Find(k).Asked; got != want {
				t.Errorf("%s: %s asked: %v, want %v", c.what, k, got, want)
			}
		}
		if p.Wants() != c.wants || len(p.Obstacles) != 0 {
			t.Errorf("%s: worth keeping: %v, in the way: %v", c.what, p.Wants(), p.Obstacles)
		}
	}
	if p := f.Walk(form.Surveyed(map[form.Place]form.Answer{{Question: "clear"}: {Raw: "perhaps"}},
		filled())); len(p.Obstacles) != 1 || p.Obstacles[0].Code != form.CodeUnreadable {
		t.Errorf("what cannot be read: %v", p.Obstacles)
	}
}

func TestWhatASurveyCannotBe(t *testing.T) {
	last := func(d *form.Design) *form.Section { return &d.Sections[len(d.Sections)-1] }
	for what, change := range map[string]func(*form.Design){
		"asks for a file":      func(d *form.Design) { last(d).Questions[1].Kind = form.File },
		"asks for a signature": func(d *form.Design) { last(d).Questions[1].Kind = form.Signature },
		"is asked again":       func(d *form.Design) { last(d).Again = []form.Key{"writing"} },
		"decides who may apply": func(d *form.Design) {
			d.Rules = append(d.Rules, form.Rule{Key: "r", Label: "R", Yes: "Y", No: "N", Holds: is("clear", "yes")})
		},
		"takes the name of a stage": func(d *form.Design) {
			d.Stages = append(d.Stages[:0:0], d.Stages...)
			d.Stages[1].Key = form.AfterSending
		},
	} {
		if _, err := surveyed(t, change); err == nil {
			t.Errorf("a survey that %s: no fault", what)
		}
	}
}
