package seal

import (
	"slices"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// small asks for a kind, for a depth of those who have peat, for lines of a
// table, for a plan and for a letter.
func small(t *testing.T) *form.Form {
	t.Helper()
	q := func(k form.Key, kind form.Kind) form.Question {
		return form.Question{Key: k, Kind: kind, Label: string(k), Nature: form.Fact, Blank: form.MeansNo,
			Seen: form.ToReaders}
	}
	kind, depth, lines, plan, letter := q("kind", form.Choice), q("depth", form.Number), q("lines", form.Rows), q("plan",
		form.File), q("letter", form.Referee)
	kind.Options = []form.Option{{Key: "peat", Label: "Peat"}, {Key: "shore", Label: "Shore"}}
	depth.Asked = condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "kind"}, Rel: condition.Is,
		Value: &condition.Value{Text: "peat"}}}
	lines.Columns = []form.Question{q("what", form.Short), q("cost", form.Money)}
	f, _ := form.Draft(&form.Design{Currency: "EUR", Zone: "Europe/Dublin",
		Sections: []form.Section{{Key: "all", Label: "All", Questions: []form.Question{kind, depth, lines, plan, letter}}}})
	return f
}

func put(x *form.Filled, q form.Key, row string, col form.Key, v string) {
	x.Answers[form.Place{Question: q, Row: row, Column: col}] = form.Answer{Raw: v}
}

// What is sealed is what is on the path, in reading order; what was set aside
// never enters, and the seal gives back what a walk reads.
func TestWhatIsSealed(t *testing.T) {
	f := small(t)
	x := &form.Filled{Lead: "Imre Calloway", Answers: map[form.Place]form.Answer{}}
	put(x, "lines", "r0002", "cost", "20")
	put(x, "lines", "r0001", "what", "Reed")
	put(x, "lines", "r0001", "cost", "10")
	put(x, "kind", "", "", "shore")
	put(x, "depth", "", "", "4") // set aside: asked of peat alone
	put(x, "gone", "", "", "x")  // of a question that was taken out
	text := func(list []Answer) string {
		var out []string
		for _, a := range list {
			out = append(out, string(a.Question)+a.Row+string(a.Column)+"="+a.Raw)
		}
		return strings.Join(out, " ")
	}
	path := f.Walk(x)
	if got, want := text(Answers(x,
		path)), "kind=shore linesr0001cost=10 linesr0001what=Reed linesr0002cost=20"; got != want {
		t.Errorf("sealed: %s, want %s", got, want)
	}
	put(x, "kind", "", "", "peat")
	x.Answers[form.Place{Question: "depth"}] = form.Answer{Non: form.NotKnown}
	path = f.Walk(x)
	sealed := Answers(x, path)
	if got := text(sealed); !strings.Contains(got, "depth=") || sealed[1].Non != form.NotKnown {
		t.Errorf("sealed: %s", got)
	}
	d := &Document{Answers: sealed, Day: calendar.NewDate(2027, 4, 9), Others: form.Others{Round: 1},
		Signers: []string{"Ann Rae"},
		Files: []File{{ID: 7, Slot: "plan", Name: "plan.pdf", Size: 9, SHA256: "aa",
			Facts: slot.Facts{Kind: slot.PDF, Pages: 2}}}}
	back := d.Filled("Imre Calloway")
	if len(back.Answers) != len(sealed) || back.Lead != "Imre Calloway" || back.Today != d.Day ||
		back.Others.Round != 1 || !slices.Equal(back.Authorised(), []string{"Ann Rae"}) {
		t.Errorf("given back: %+v", back)
	}
	if fs := back.Files["plan"]; len(fs) != 1 || fs[0].ID != 7 || fs[0].Pages != 2 || fs[0].State != slot.Ready {
		t.Errorf("files given back: %+v", fs)
	}
	if again := text(Answers(back, f.Walk(back))); again != text(sealed) {
		t.Errorf("sealed again it is another: %s", again)
	}
}

// What stands of earlier stages goes with a seal of a later one, and comes back.
func TestBefore(t *testing.T) {
	f := small(t)
	x := &form.Filled{Answers: map[form.Place]form.Answer{}}
	if BeforeOf(x, f.Walk(x)) != nil {
		t.Error("the first stage has something before it")
	}
	x.Results = map[form.Key]string{"writing": "invited on"}
	x.Earlier = &form.Filled{Answers: map[form.Place]form.Answer{}}
	put(x.Earlier, "kind", "", "", "peat")
	b := BeforeOf(x, f.Walk(x))
	if b == nil || b.Results["writing"] != "invited on" || len(b.Answers) != 1 || b.Answers[0].Raw != "peat" {
		t.Fatalf("before: %+v", b)
	}
	back := (&Document{Before: b, Stage: "full-plan"}).Filled("Imre")
	if back.Stage != "full-plan" || back.Results["writing"] != "invited on" ||
		back.Earlier.Answers[form.Place{Question: "kind"}].Raw != "peat" {
		t.Errorf("given back: %+v", back)
	}
}

// What differs between two seals of one entry: answers, files, letters.
func TestEveryChange(t *testing.T) {
	f := small(t)
	answer := func(q form.Key, raw string) Answer { return Answer{Place: form.Place{Question: q}, Raw: raw} }
	was := &Document{Answers: []Answer{answer("kind", "peat"), answer("depth", "4")},
		Files:   []File{{Slot: "plan", Name: "plan.pdf", SHA256: "aa"}},
		Letters: []Letter{{Question: "letter", Referee: 1, Name: "Dacian Rowe", Text: "Good."}}}
	for _, c := range []struct {
		what   string
		change func(*Document)
		want   string // questions
		check  func(Change) bool
	}{
		{"nothing", func(*Document) {}, "", nil},
		{"another answer", func(d *Document) { d.Answers[1].Raw = "5" }, "depth", nil},
		{"an answer gone", func(d *Document) { d.Answers = d.Answers[:1] }, "depth", nil},
		{"an answer more", func(d *Document) { d.Answers = append(d.Answers, answer("lines", "x")) }, "lines", nil},
		{"a non-answer", func(d *Document) { d.Answers[1] = Answer{Place: d.Answers[1].Place, Non: form.NotKnown} }, "depth",
			nil},
		{"another file", func(d *Document) { d.Files[0] = File{Slot: "plan", Name: "new.pdf", SHA256: "bb"} }, "plan",
			func(c Change) bool {
				return len(c.Gone) == 1 && c.Gone[0].Name == "plan.pdf" && len(c.Come) == 1 && c.Come[0].Name == "new.pdf"
			}},
		{"another letter", func(d *Document) {
			d.Letters = []Letter{{Question: "letter", Referee: 2, Name: "Ysolde Fenn", Text: "Good."}}
		}, "letter",
			func(c Change) bool { return c.LettersWere == "Dacian Rowe" && c.LettersAre == "Ysolde Fenn" }},
		{"the same letter, written anew", func(d *Document) { d.Letters[0].Text = "Better." }, "letter", nil},
		{"a letter more", func(d *Document) {
			d.Letters = append(d.Letters, Letter{Question: "letter", Referee: 3, Name: "Tam Reed"})
		}, "letter",
			func(c Change) bool { return c.LettersAre == "Dacian Rowe\nTam Reed" }},
		{"two things, in reading order", func(d *Document) { d.Letters, d.Answers[0].Raw = nil, "shore" }, "kind letter",
			nil},
	} {
		is := &Document{Answers: slices.Clone(was.Answers), Files: slices.Clone(was.Files),
			Letters: slices.Clone(was.Letters)}
		c.change(is)
		var got []string
		for _, x := range Changes(f, was, is) {
			got = append(got, string(x.Question))
			if c.check != nil && !c.check(x) {
				t.Errorf("%s: %+v", c.what, x)
			}
		}
		if strings.Join(got, " ") != c.want {
			t.Errorf("%s: %v, want %s", c.what, got, c.want)
		}
	}
}
