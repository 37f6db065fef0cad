package demo

import (
	"testing"
	"time"

	"ulvant/core/condition"
	"ulvant/core/form"
)

func designs(t *testing.T, now time.Time) ([]*form.Design, *time.Location) {
	t.Helper()
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	list, err := Designs(now, zone)
	if err != nil {
		t.Fatal(err)
	}
	return list, zone
}

// The programmes are whole, and between them they use every kind of question,
// every relation, every way to work out a figure and every joining of tests.
func TestProgrammesUseEverything(t *testing.T) {
	kinds, rels, ops, joins, fixed := map[form.Kind]bool{}, map[condition.Rel]bool{}, map[form.FigureOp]bool{},
		map[string]bool{}, map[condition.Fixed]bool{}
	var look func(c condition.Cond)
	look = func(c condition.Cond) {
		for name, list := range map[string][]condition.Cond{"all": c.All, "any": c.Any, "none": c.None} {
			for _, k := range list {
				joins[name] = true
				look(k)
			}
		}
		if c.AtLeast != nil {
			joins["at least"] = true
			for _, k := range c.AtLeast.Of {
				look(k)
			}
		}
		if c.Test != nil {
			rels[c.Test.Rel] = true
			fixed[c.Test.Of.Fixed] = true
			joins["another answer"] = joins["another answer"] || c.Test.Other != nil
		}
	}
	everything, _ := designs(t, time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC))
	for _, d := range everything {
		if _, err := form.Compile(d); err != nil {
			t.Errorf("%s: %v", d.Name, err)
		}
		for _, f := range d.Figures {
			ops[f.Op] = true
			look(f.Where)
		}
		for _, r := range d.Rules {
			look(r.Holds)
			look(r.When)
		}
		for _, a := range d.Awards {
			look(a.Match)
		}
		for _, x := range d.Fees {
			look(x.Offered)
			for _, w := range x.Price.When {
				look(w.If)
			}
		}
		for _, s := range d.Sections {
			look(s.Asked)
			for _, q := range s.Questions {
				kinds[q.Kind] = true
				look(q.Asked)
				look(q.Must)
				for _, w := range q.Limits.When {
					look(w.If)
				}
			}
		}
	}
	for _, k := range form.Kinds() {
		if !kinds[k.Kind] {
			t.Errorf("no programme asks a question of the kind %s", k.Kind)
		}
	}
	for _, r := range condition.Rels {
		if !rels[r] && r != condition.OffList {
			t.Errorf("no programme compares by %q", r)
		}
	}
	for _, o := range []form.FigureOp{form.Sum, form.Difference, form.Share, form.AgeOn, form.MonthsTo, form.CountWhere,
		form.AnyRow, form.EveryRow, form.MostOf, form.StepOf} {
		if !ops[o] {
			t.Errorf("no programme works a figure out by %q", o)
		}
	}
	for _, j := range []string{"all", "any", "none", "at least", "another answer"} {
		if !joins[j] {
			t.Errorf("no programme joins tests by %q", j)
		}
	}
	for _, f := range condition.EveryFixed {
		if !fixed[f] {
			t.Errorf("no programme reads the %s", f)
		}
	}
	if n := len(everything[1].Awards); n != 40 {
		t.Errorf("the scholarships have %d awards", n)
	}
}
