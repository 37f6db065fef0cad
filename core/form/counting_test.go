package form_test

import (
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Whether any, every and how many rows, or answers, are so: while one is open the
// figure is settled only where that one decides nothing more.
func TestCounting(t *testing.T) {
	yes := &condition.Value{Yes: new(true)}
	afloat := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "vessels", Column: "afloat"},
		Rel: condition.Is, Value: yes}}
	if *yes.Yes != true {
		t.Fatal("new(true) is not true")
	}
	gate := func(key form.Key, c condition.Test) form.Question {
		return form.Question{Key: key, Kind: form.Short, Blank: form.MeansUnknown, Asked: condition.Cond{Test: &c}}
	}
	count := func(n int64) *condition.Value { return &condition.Value{Number: &condition.Number{Num: n, Den: 1}} }
	boats := []condition.Ref{{Answer: "vessels"}}
	f := asking(t, func(d *form.Design) {
		d.Figures = append(d.Figures,
			form.Figure{Key: "any", Label: "any afloat", Op: form.AnyRow, Of: boats, Where: afloat},
			form.Figure{Key: "every", Label: "all afloat", Op: form.EveryRow, Of: boats, Where: afloat},
			form.Figure{Key: "rows", Label: "afloat", Op: form.CountWhere, Of: boats, Where: afloat},
			form.Figure{Key: "said", Label: "said yes", Op: form.CountWhere,
				Of: []condition.Ref{{Answer: "one"}, {Answer: "two"}}})
	},
		form.Question{Key: "vessels", Kind: form.Rows, Blank: form.MeansUnknown,
			Columns: []form.Question{{Key: "name", Kind: form.Short},
				{Key: "afloat", Kind: form.YesNo, Blank: form.MeansUnknown, NonAnswers: []form.NonAnswer{form.NotKnown}}}},
		form.Question{Key: "one", Kind: form.YesNo, Blank: form.MeansUnknown,
			NonAnswers: []form.NonAnswer{form.NotKnown}}, form.Question{Key: "two", Kind: form.YesNo, Blank: form.MeansUnknown},
		gate("if-any", condition.Test{Of: condition.Ref{Figure: "any"}, Rel: condition.Is, Value: yes}),
		gate("if-every", condition.Test{Of: condition.Ref{Figure: "every"}, Rel: condition.Is, Value: yes}),
		gate("if-two-rows", condition.Test{Of: condition.Ref{Figure: "rows"}, Rel: condition.AtLeast, Value: count(2)}),
		gate("if-one-said", condition.Test{Of: condition.Ref{Figure: "said"}, Rel: condition.AtLeast, Value: count(1)}))
	const open = "?" // neither asked nor not
	for _, c := range []struct {
		name                   string
		boats                  []string // what is said of each
		one, two               string
		any, every, two_, said string // yes, no or open
	}{
		{"two of two", []string{"yes", "yes"}, "yes", "no", "yes", "yes", "yes", "yes"},
		{"one of two", []string{"yes", "no"}, "no", "no", "yes", "no", "no", "no"},
		{"none of two", []string{"no", "no"}, "no", "no", "no", "no", "no", "no"},
		{"one is, one is open", []string{"yes", ""}, "yes", "", "yes", open, open, open},
		{"one is not, one is open", []string{"no", ""}, "no", "", open, "no", open, open},
		{"both are open", []string{"", ""}, "", "", open, open, open, open},
	} {
		t.Run(c.name, func(t *testing.T) {
			x := filled()
			for i, v := range c.boats {
				row := string(rune('1' + i))
				set(x, "vessels", "r000"+row, "name", "Boat "+row)
				set(x, "vessels", "r000"+row, "afloat", v)
			}
			set(x, "one", "", "", c.one)
			set(x, "two", "", "", c.two)
			p := f.Walk(x)
			for key, want := range map[form.Key]string{"if-any": c.any, "if-every": c.every, "if-two-rows": c.two_,
				"if-one-said": c.said} {
				got := map[condition.Tri]string{condition.Yes: "yes", condition.No: "no",
					condition.Unknown: open}[p.Find(key).Asked]
				if got != want {
					t.Errorf("%s: %s, want %s", key, got, want)
				}
			}
		})
	}
}

// What each state of a letter stands in the way with, and whose move it is.
func TestLettersInTheWay(t *testing.T) {
	f := asking(t, nil)
	for letter, want := range map[form.LetterState]string{
		form.ToAsk: "referee-to-ask applicant", form.Asked: "referee-asked third party",
		form.Accepted: "referee-writing third party",
		form.Declined: "referee-declined applicant", form.Uploaded: "letter-not-sent third party", form.SentIn: "",
	} {
		x := filled()
		x.Referees["site-referee"] = []form.RefereeStanding{{Name: "Old One", Letter: form.Replaced},
			{Name: "Dacian Rowe", Letter: letter}}
		got := ""
		for _, o := range f.Walk(x).Obstacles {
			if o.Name != "Dacian Rowe" {
				t.Errorf("%s: %+v", letter, o)
			}
			got = string(o.Code) + " " + string(o.Move)
		}
		if got != want {
			t.Errorf("%s: %q, want %q", letter, got, want)
		}
	}
}

// While the deciding answer is open the loosest limits hold whichever of the cases
// comes first: bounds widen, and what one case does not limit is not limited.
func TestLoosestEitherWay(t *testing.T) {
	ptr := func(n int64) *int64 { return &n }
	small := form.Limits{Words: 100, RowsMost: 2, RowsLeast: 2, Referees: 2, Least: ptr(10), Most: ptr(90),
		MatchPercent: 20,
		Slot: &slot.Limits{Wish: slot.Wanted, SizeMost: 100, SizeAll: 200, FilesMost: 1, FilesLeast: 1, PagesMost: 4,
			HeightLeast: 80, SecondsLeast: 5}}
	large := form.Limits{Words: 300, RowsMost: 5, RowsLeast: 1, Referees: 1, Least: ptr(5), Most: ptr(95),
		MatchPercent: 10,
		Slot: &slot.Limits{Wish: slot.NotAccepted, SizeMost: 600, SizeAll: 900, FilesMost: 3, FilesLeast: 0, PagesMost: 9,
			HeightLeast: 40, SecondsLeast: 2}}
	peat := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "peat"}, Rel: condition.Is,
		Value: &condition.Value{Yes: new(true)}}}
	for name, cases := range map[string]form.Cases[form.Limits]{
		"the small first": {When: []form.Case[form.Limits]{{If: peat, Then: small}}, Else: large},
		"the large first": {When: []form.Case[form.Limits]{{If: peat, Then: large}}, Else: small},
	} {
		t.Run(name, func(t *testing.T) {
			f := asking(t, nil, form.Question{Key: "peat", Kind: form.YesNo},
				form.Question{Key: "x", Kind: form.Long, Media: true, Limits: cases})
			l := f.Walk(filled()).Find("x").Limits
			s := *l.Slot
			if l.Words != 300 || l.RowsMost != 5 || l.RowsLeast != 1 || l.Referees != 1 || *l.Least != 5 || *l.Most != 95 ||
				l.MatchPercent != 10 {
				t.Errorf("%+v, from %d to %d", l, *l.Least, *l.Most)
			}
			if s.Wish != slot.Wanted || s.SizeMost != 600 || s.SizeAll != 900 || s.FilesMost != 3 || s.FilesLeast != 0 ||
				s.PagesMost != 9 || s.HeightLeast != 40 || s.SecondsLeast != 2 {
				t.Errorf("of files: %+v", s)
			}
		})
	}
}

// Pages of a file, by its real count.
func TestPages(t *testing.T) {
	f := asking(t, nil, form.Question{Key: "where", Kind: form.PageRef, Slot: "site-plan"})
	for raw, want := range map[string]string{
		"1": "", "2": "", "1-2": "", "1–2": "", " 2 ": "",
		"3": "page-range at where", "2-3": "page-range at where",
		"0": "unreadable at where", "2-1": "unreadable at where", "a": "unreadable at where", "1-": "unreadable at where",
		"100000": "unreadable at where", "99999": "page-range at where",
	} {
		x := filled() // its plan has 2 pages
		set(x, "where", "", "", raw)
		if got := codes(f.Walk(x)); got != want {
			t.Errorf("%q: %q, want %q", raw, got, want)
		}
	}
}

// How far a section is: what must be answered, and what is answered besides.
func TestSectionsCount(t *testing.T) {
	f := asking(t, nil, form.Question{Key: "must", Kind: form.Short},
		form.Question{Key: "may", Kind: form.Short, Blank: form.MeansUnknown}, form.Question{Key: "long", Kind: form.Long,
			Blank: form.MeansUnknown, Limits: limits(form.Limits{Words: 1})})
	section := f.Design.Sections[0]
	for _, s := range f.Design.Sections {
		for _, q := range s.Questions {
			if q.Key == "must" {
				section = s
			}
		}
	}
	count := func(answers map[form.Key]string) (all, done int) {
		x := filled()
		for k, v := range answers {
			set(x, k, "", "", v)
		}
		for _, s := range f.Walk(x).Sections {
			if s.Key == section.Key {
				return s.All, s.Done
			}
		}
		t.Fatal("no such section")
		return 0, 0
	}
	all, done := count(nil)
	for _, c := range []struct {
		name      string
		answers   map[form.Key]string
		all, done int // more than with none of them
	}{
		{"what must be", map[form.Key]string{"must": "x"}, 0, 1},
		{"what may be", map[form.Key]string{"may": "x"}, 1, 1},
		{"too long", map[form.Key]string{"long": "two words"}, 1, 0},
		{"all three", map[form.Key]string{"must": "x", "may": "y", "long": "z"}, 2, 3},
	} {
		t.Run(c.name, func(t *testing.T) {
			if a, d := count(c.answers); a-all != c.all || d-done != c.done {
				t.Errorf("%d of %d, before %d of %d", d, a, done, all)
			}
		})
	}
}
