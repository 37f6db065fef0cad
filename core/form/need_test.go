package form_test

import (
	"strings"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/form/kindtest"
)

// Need as a round reckons it: costs less a tenth of what a household earned in
// two years (invented figures), and what of it is compared with a declaration.
func TestNeedFromPeopleAndYears(t *testing.T) {
	design := func(percent int64) *form.Design {
		d := kindtest.Design(form.Declared)
		cell := func(k form.Key) condition.Ref { return condition.Ref{Answer: "household", Column: k} }
		d.Figures = append(
			d.Figures,
			form.Figure{
				Key:     "share",
				Label:   "share",
				Op:      form.PartOf,
				Of:      []condition.Ref{cell("a")},
				Percent: percent,
			},
			form.Figure{Key: "both", Label: "both", Op: form.Sum, Of: []condition.Ref{cell("a"), cell("b")}},
			form.Figure{
				Key:     "tenth",
				Label:   "tenth",
				Op:      form.PartOf,
				Of:      []condition.Ref{{Figure: "both"}},
				Percent: 10,
			},
			form.Figure{
				Key:   "need",
				Label: "need",
				Op:    form.Difference,
				Of:    []condition.Ref{{Answer: "sum"}, {Figure: "tenth"}},
			},
		)
		d.Rules = []form.Rule{{Key: "needs", Label: "Needs", Yes: "Yes.", No: "No.", Look: "Look.",
			Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Figure: "need"}, Rel: condition.More,
				Value: &condition.Value{Number: &condition.Number{Num: 6_000_00, Den: 1}}}}}}
		return d
	}
	f, err := form.Compile(design(10))
	if err != nil {
		t.Fatal(err)
	}
	x := &form.Filled{Answers: map[form.Place]form.Answer{}}
	set := func(row string, col form.Key, v string) {
		x.Answers[form.Place{Question: "household", Row: row, Column: col}] = form.Answer{Raw: v}
	}
	set("r0001", "person", "Ada")
	set("r0001", "a", "20,000")
	set("r0001", "b", "18,000")
	set("r0002", "person", "Bo")
	set("r0002", "b", "2,000.10")
	x.Answers[form.Place{Question: kindtest.Key(form.Declared)}] = form.Answer{Raw: " hd-204-881 "}
	for asked, want := range map[string]form.Outcome{"10,000.01": form.Fails, "10,000.02": form.Holds} {
		x.Answers[form.Place{Question: "sum"}] = form.Answer{Raw: asked}
		if got := f.Walk(x).Rules[0].Outcome; got != want {
			t.Errorf("%s less a tenth of 40,000.10: %s, want %s", asked, got, want)
		}
	}
	d := f.Declarations(f.Walk(x))
	if len(d) != 1 || d[0].Reference != "HD-204-881" || d[0].Here["Apples"] != 20_000_00 ||
		d[0].Here["Bread"] != 20_000_10 ||
		strings.Join(d[0].Years, ",") != "Apples,Bread" {
		t.Errorf("%+v", d)
	}
	if _, err := form.Compile(design(0)); err == nil || !strings.Contains(err.Error(), "how many percent") {
		t.Errorf("no percent: %v", err)
	}
	bad := design(10)
	s := &bad.Sections[len(bad.Sections)-1]
	s.Questions[len(s.Questions)-1].Declared.Of = "sum"
	if _, err := form.Compile(bad); err == nil || !strings.Contains(err.Error(), "table of people and years") {
		t.Errorf("compared with a sum: %v", err)
	}
}
