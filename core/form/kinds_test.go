package form_test

import (
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/core/say"
	"ulvant/core/slot"
)

// asking is the grants pattern with one section more: the questions under test.
func asking(t testing.TB, change func(*form.Design), questions ...form.Question) *form.Form {
	t.Helper()
	d := pattern.Grants(settings())
	for i := range questions {
		q := &questions[i]
		if q.Label == "" {
			q.Label = string(q.Key)
		}
		q.Nature, q.Seen = form.Fact, form.ToReaders
		if q.Blank == "" {
			q.Blank = form.Required
		}
		for j := range q.Columns {
			c := &q.Columns[j]
			c.Label, c.Nature, c.Seen = string(c.Key), form.Fact, form.ToReaders
			if c.Blank == "" {
				c.Blank = form.Required
			}
		}
	}
	d.Sections = append(d.Sections, form.Section{Key: "under-test", Label: "Under test", Questions: questions})
	if change != nil {
		change(d)
	}
	f, err := form.Compile(d)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func limits(l form.Limits) form.Cases[form.Limits] { return form.Cases[form.Limits]{Else: l} }

func options(keys ...form.Key) []form.Option {
	var out []form.Option
	for _, k := range keys {
		out = append(out, form.Option{Key: k, Label: strings.ToUpper(string(k))})
	}
	return out
}

var (
	grades = form.Table{Key: "grades", Label: "Grades", Columns: []form.Column{{Key: "step", Label: "Step",
		Numbers: true}},
		Rows: []form.Row{{Key: "a", Label: "3.33", Cells: []string{"3.33"}},
			{Key: "b", Label: "3.67", Cells: []string{"3.67"}}, {Key: "c", Label: "4", Cells: []string{"4"}}}}
	courses = form.Table{Key: "courses", Label: "Courses",
		Columns: []form.Column{{Key: "credits", Label: "credits", Numbers: true}, {Key: "site", Label: "site"}},
		Rows: []form.Row{{Key: "lofting", Label: "Lofting", Cells: []string{"3", "Tarl"}},
			{Key: "oars", Label: "Oars", Cells: []string{"1.5", "Hallin"}}}}
	fields = form.List{Key: "fields", Label: "Fields", Items: []form.Item{{Code: "bats", Label: "Bats"},
		{Code: "moths", Label: "Moths"}, {Code: "owls", Label: "Owls"}}}
	isles = form.List{Key: "isles", Label: "Isles", Prefix: true, Items: []form.Item{{Code: "OI4", Label: "Corvoe"}}}
)

// What each kind takes, what it refuses, and how it reads. Phone forms by
// github.com/nyaruka/phonenumbers; grade rounding: 3.5 between 3.33 and 3.67 is
// 3.67, to the nearest, ties upward (the-job.md, a fact of the trade, common
// practice, no source).
func TestPlainKinds(t *testing.T) {
	for _, c := range []struct {
		q     form.Question
		typed string
		want  string // the obstacle, "" for none
		reads string
	}{
		{form.Question{Kind: form.Several, Options: options("a", "b", "c"),
			Limits: limits(form.Limits{PickLeast: 2, PickMost: 2})}, "a\nc", "", "A, C"},
		{form.Question{Kind: form.Several, Options: options("a", "b", "c"),
			Limits: limits(form.Limits{PickLeast: 2, PickMost: 2})}, "a", "too-few-picked", "A"},
		{form.Question{Kind: form.Several, Options: options("a", "b", "c"), Limits: limits(form.Limits{PickMost: 2})},
			"a\nb\nc", "too-many-picked", "A, B, C"},
		{form.Question{Kind: form.Several, Options: options("a")}, "z", "unreadable", "z"},
		{form.Question{Kind: form.Keywords, List: "fields"}, "bats\nowls", "", "Bats, Owls"},
		{form.Question{Kind: form.Keywords, List: "fields"}, "bats\nnew: Newts", "unreadable", "bats\nnew: Newts"},
		{form.Question{Kind: form.Keywords, List: "fields", Proposals: true}, "bats\nnew: Newts", "",
			"Bats, Newts (proposed)"},
		{form.Question{Kind: form.Pick, Table: "courses"}, "oars", "", "Oars; credits 1.5; site Hallin"},
		{form.Question{Kind: form.Grade, Table: "grades", Rounding: form.Nearest}, "3.5", "", "3.5, which counts as 3.67"},
		{form.Question{Kind: form.Grade, Table: "grades", Rounding: form.NextDown}, "3.66", "", "3.66, which counts as 3.33"},
		{form.Question{Kind: form.Grade, Table: "grades", Rounding: form.NextUp}, "4.1", "unreadable", "4.1"},
		{form.Question{Kind: form.Percent, Scale: 1}, "12.5 %", "", "12.5%"},
		{form.Question{Kind: form.Percent}, "101", "above-most", "101%"},
		{form.Question{Kind: form.Phone, Region: "IE"}, "(01) 222 2222", "", "+35312222222"},
		{form.Question{Kind: form.Phone}, "+44 20 7946 0018", "", "+442079460018"},
		{form.Question{Kind: form.Phone}, "12", "unreadable", "12"},
		{form.Question{Kind: form.Mail}, "Jane@Place.example", "", "jane@place.example"},
		{form.Question{Kind: form.Mail}, "jane at place", "unreadable", "jane at place"},
		{form.Question{Kind: form.Link}, "place.example/film", "", "https://place.example/film"},
		{form.Question{Kind: form.Link}, "javascript:alert(1)", "unreadable", "javascript:alert(1)"},
		{form.Question{Kind: form.Identifier, Scheme: "orcid"}, "https://orcid.org/0000-0002-1825-0097", "",
			"0000-0002-1825-0097"},
		{form.Question{Kind: form.Identifier, Scheme: "iban"}, "GB29NWBK60161331926818", "unreadable",
			"GB29NWBK60161331926818"},
		{form.Question{Kind: form.Long, Limits: limits(form.Limits{LeastWords: 3, Words: 5})}, "two words", "too-short",
			"two words"},
		{form.Question{Kind: form.Date, Limits: limits(form.Limits{MonthsOld: 6})}, "2026-10-09", "",
			"9 October 2026"}, // closing 9 April 2027
		{form.Question{Kind: form.Date, Limits: limits(form.Limits{MonthsOld: 6})}, "2026-10-08", "too-old",
			"8 October 2026"},
		{form.Question{Kind: form.Declaration, Blank: form.MeansNo}, "no", "", "not agreed"},
		{form.Question{Kind: form.Declaration}, "no", "not-agreed", "not agreed"},
		{form.Question{Kind: form.Declaration, Initials: true}, " i. c. ", "", "agreed: i. c."}, // of Imre Calloway
		{form.Question{Kind: form.Declaration, Initials: true}, "ac", "initials-differ", "agreed: ac"},
		{form.Question{Kind: form.Declaration, Initials: true}, "yes", "initials-differ", "agreed: yes"},
		{form.Question{Kind: form.Declaration, Initials: true}, "", "blank", ""},
		{form.Question{Kind: form.Declaration, Initials: true, Blank: form.MeansNo}, "", "", ""},
	} {
		c.q.Key = "x"
		f := asking(t, func(d *form.Design) {
			d.Lists, d.Tables = []form.List{fields, isles}, []form.Table{grades, courses}
		}, c.q)
		x := filled()
		set(x, "x", "", "", c.typed)
		p := f.Walk(x)
		want := ""
		if c.want != "" {
			want = c.want + " at x"
		}
		if got := codes(p); got != want {
			t.Errorf("%s %q: %q, want %q", c.q.Kind, c.typed, got, want)
		}
		if got := say.Answer(f, f.Question("x"), x, p.Find("x")); got != c.reads {
			t.Errorf("%s %q reads %q, want %q", c.q.Kind, c.typed, got, c.reads)
		}
		for _, o := range p.Obstacles {
			if what, remedy := say.Obstacle(f, o); what == "" || remedy == "" ||
				strings.HasPrefix(what, string(o.Code)) {
				t.Errorf("%s has no sentence: %q %q", o.Code, what, remedy)
			}
		}
	}
}

// Kinds kept piece by piece: what is missing, and what the answer is.
func TestKindsInPieces(t *testing.T) {
	f := asking(t, nil,
		form.Question{Key: "groups", Kind: form.Counts, Options: options("young", "old")},
		form.Question{Key: "order", Kind: form.Ranked, Options: options("a", "b", "c"),
			Limits: limits(form.Limits{PickLeast: 2, PickMost: 2})},
		form.Question{Key: "person", Kind: form.Contact}, form.Question{Key: "box", Kind: form.Contact,
			Shared: true}, form.Question{Key: "called", Kind: form.Names})
	x := filled()
	for at, v := range map[[2]form.Key]string{{"groups", "young"}: "12", {"groups", "old"}: "30",
		{"order", "place-a"}: "c", {"order", "place-b"}: "a",
		{"person", "name"}: "Wenna Astley", {"person", "mail"}: "wenna@bar.example", {"person",
			"phone"}: "01 222 2222", {"box", "mail"}: "office@bar.example", {"called", "legal"}: "Hallin Bar Common CLG"} {
		set(x, at[0], "", at[1], v)
	}
	p := f.Walk(x)
	if got := codes(p); got != "" {
		t.Fatal(got)
	}
	if n := p.Find("groups").Value.Number.Num; n != 42 {
		t.Errorf("12 and 30 are %d", n)
	}
	if got := say.Answer(f, f.Question("order"), x, p.Find("order")); got != "First: C\nSecond: A" {
		t.Errorf("the order reads %q", got)
	}
	set(x, "groups", "", "old", "many")
	set(x, "order", "", "place-b", "c")
	set(x, "person", "", "name", "")
	set(x, "person", "", "mail", "wenna")
	if got, want := codes(f.Walk(x)), "part-unreadable at groups, picked-twice at order, too-few-picked at order, "+
		"part-missing at person, part-unreadable at person"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
}

// A table: a column that is asked only for some rows, counts over its rows, and
// figures that other conditions read.
func TestTablesAndFigures(t *testing.T) {
	is := func(q, col form.Key, v string) condition.Cond {
		return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: q, Column: col}, Rel: condition.Is,
			Value: &condition.Value{Text: v}}}
	}
	three := int64(3)
	f := asking(
		t,
		func(d *form.Design) {
			d.Tables = []form.Table{grades, courses}
			d.Figures = append(
				d.Figures,
				form.Figure{Key: "aid", Label: "aid received", Op: form.Sum,
					Of: []condition.Ref{{Answer: "received", Column: "sum"}}},
				form.Figure{
					Key:   "loans",
					Label: "loans",
					Op:    form.CountWhere,
					Of:    []condition.Ref{{Answer: "received"}},
					Where: is("received", "kind", "loan"),
				},
				form.Figure{Key: "all-grants", Label: "all are grants", Op: form.EveryRow,
					Of: []condition.Ref{{Answer: "received"}}, Where: is("received", "kind", "grant")},
				form.Figure{Key: "age", Label: "age at the opening", Op: form.AgeOn,
					Of: []condition.Ref{{Answer: "born"}, {Date: form.Opens}}},
				form.Figure{Key: "credits", Label: "credits", Op: form.Sum,
					Of: []condition.Ref{{Answer: "first", Column: "credits"}, {Answer: "second", Column: "credits"}}},
				form.Figure{Key: "points", Label: "points", Op: form.CountWhere,
					Of: []condition.Ref{{Answer: "p1"}, {Answer: "p2"}, {Answer: "p3"}}},
				form.Figure{
					Key:      "class",
					Label:    "class",
					Op:       form.StepOf,
					Of:       []condition.Ref{{Figure: "points"}},
					Table:    "grades",
					Rounding: form.Nearest,
				},
			)
		},
		form.Question{Key: "received", Kind: form.Rows, Limits: limits(form.Limits{RowsLeast: 1, RowsMost: 2}),
			Columns: []form.Question{
				{Key: "giver", Kind: form.Short}, {Key: "kind", Kind: form.Choice, Options: options("grant", "loan")},
				{
					Key:   "rate",
					Kind:  form.Number,
					Scale: 1,
					Asked: is("received", "kind", "loan"),
				}, {Key: "sum", Kind: form.Money}}},
		form.Question{Key: "born", Kind: form.Date},
		form.Question{Key: "first", Kind: form.Pick,
			Table: "courses"},
		form.Question{Key: "second", Kind: form.Pick, Table: "courses"},
		form.Question{
			Key:  "p1",
			Kind: form.YesNo,
		},
		form.Question{Key: "p2", Kind: form.YesNo},
		form.Question{Key: "p3",
			Kind: form.YesNo},
		form.Question{Key: "why-so-much", Kind: form.Short,
			Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Figure: "aid"}, Rel: condition.More,
				Value: &condition.Value{Number: &condition.Number{Num: 1_000_000}}}}},
		form.Question{Key: "guardian", Kind: form.Short,
			Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Figure: "age"}, Rel: condition.Less,
				Value: &condition.Value{Number: &condition.Number{Num: 18}}}}},
		form.Question{Key: "enough", Kind: form.YesNo,
			Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Figure: "credits"}, Rel: condition.AtLeast,
				Value: &condition.Value{Number: &condition.Number{Num: three}}}}},
	)
	x := filled()
	for k, v := range map[form.Key]string{"born": "2009-03-02", "first": "lofting", "second": "oars", "p1": "yes",
		"p2": "yes", "p3": "no", "guardian": "Ann", "enough": "yes"} {
		set(x, k, "", "", v)
	}
	set(x, "received", "r0001", "giver", "District")
	set(x, "received", "r0001", "kind", "grant")
	set(x, "received", "r0001", "sum", "4,000")
	p := f.Walk(x)
	// born 2 March 2009, the round opens 1 March 2027: 17 by month and day
	if got := codes(p); got != "" {
		t.Fatal(got)
	}
	set(x, "received", "r0002", "giver", "Bank")
	set(x, "received", "r0002", "kind", "loan")
	set(x, "received", "r0002", "sum", "7000")
	if got, want := codes(f.Walk(x)), "blank at received, blank at why-so-much"; got != want {
		t.Errorf("a loan asks its rate, and 11,000 asks why: %q, want %q", got, want)
	}
	set(x, "received", "r0002", "rate", "3.5")
	set(x, "why-so-much", "", "", "We ask often.")
	if got := codes(f.Walk(x)); got != "" {
		t.Error(got)
	}
	set(x, "born", "", "", "2009-03-01")
	if p := f.Walk(x); p.Find("guardian").Presence != condition.NotAsked {
		t.Error("18 on the day of opening needs no guardian")
	}
	if got := say.Answer(f, f.Question("received"), x, f.Walk(x).Find("received")); !strings.Contains(got,
		"giver: Bank; kind: LOAN; rate: 3.5; sum: €7,000") || !strings.Contains(got, "All of “sum”: €11,000") {
		t.Errorf("the table reads %q", got)
	}
}

func TestFiguresInARingAreNamed(t *testing.T) {
	d := pattern.Grants(settings())
	d.Figures = append(d.Figures, form.Figure{Key: "a", Label: "A", Op: form.Sum, Of: []condition.Ref{{Figure: "b"}}},
		form.Figure{Key: "b", Label: "B", Op: form.Sum, Of: []condition.Ref{{Figure: "a"}}})
	if _, err := form.Compile(d); err == nil || !strings.Contains(err.Error(), "in a ring: “A”, “B”") {
		t.Errorf("%v", err)
	}
}

// Lists by prefix (postcodes), non-answers, how sure an answer is, pages of a file.
func TestListsNonAnswersAndPages(t *testing.T) {
	onList := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "postcode"}, Rel: condition.OnList,
		Value: &condition.Value{Text: "isles"}}}
	f := asking(
		t,
		func(d *form.Design) {
			d.Lists = []form.List{isles}
			d.Rules = append(d.Rules, form.Rule{Key: "area", Label: "Area", Holds: onList, Yes: "In the isles.",
				No: "Outside the isles.", Look: "We look it up."})
		},
		form.Question{Key: "postcode", Kind: form.Short, NonAnswers: []form.NonAnswer{form.NotKnown, form.NoSuchPost}},
		form.Question{
			Key:        "members",
			Kind:       form.Number,
			Sure:       form.Estimated,
			NonAnswers: []form.NonAnswer{form.ToFollow},
			FollowBy:   &form.Day{Key: form.ChecksBy},
		},
		form.Question{Key: "papers", Kind: form.File, Blank: form.MeansUnknown,
			Limits: limits(form.Limits{Slot: &slot.Limits{SizeMost: 100, FilesMost: 2, Details: []string{"its title"},
				Ticks: []string{"no names in the credits"}}})},
		form.Question{Key: "page", Kind: form.PageRef, Slot: "papers", Blank: form.MeansUnknown},
	)
	x := filled()
	set(x, "postcode", "", "", "oi4 2rt")
	set(x, "members", "", "", "40")
	if got, want := codes(f.Walk(x)), "not-said-how-sure at members"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
	set(x, "members", "", form.ColSure, "estimated")
	x.Files["papers"] = []slot.File{{ID: 7, Name: "a.pdf", Size: 60, State: slot.Ready,
		Facts: slot.Facts{Kind: slot.PDF, Pages: 12}}}
	set(x, "page", "", "", "12–13")
	if got, want := codes(f.Walk(x)), "file-detail at papers, file-tick at papers, page-range at page"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
	set(x, "papers", "f7", form.DetailColumn(0), "Otters")
	set(x, "papers", "", form.TickColumn(0), "yes")
	set(x, "page", "", "", "3 - 12")
	if p := f.Walk(x); codes(p) != "" || p.Verdict() != form.Holds {
		t.Errorf("%q %s", codes(p), p.Verdict())
	}
	x.Answers[form.Place{Question: "postcode"}] = form.Answer{Non: form.NoSuchPost}
	x.Answers[form.Place{Question: "members"}] = form.Answer{Non: form.ToFollow}
	if p := f.Walk(x); codes(p) != "" || p.Verdict() != form.Person {
		t.Errorf("an honest non-answer lets a person look: %q %s", codes(p), p.Verdict())
	}
	if got := say.Answer(f, f.Question("members"), x, f.Walk(x).Find("members")); got != "to follow, by 20 April 2027" {
		t.Errorf("%q", got)
	}
	set(x, "postcode", "", "", "EC1A 1AA")
	if p := f.Walk(x); p.Verdict() != form.Fails {
		t.Error("outside the isles")
	}
}

// Fees rise by the date; an extra is offered only to those whose answers fit.
func TestFees(t *testing.T) {
	day := calendar.NewDate(2027, 3, 20)
	after := condition.Cond{Test: &condition.Test{Of: condition.Ref{Fixed: condition.Today}, Rel: condition.More,
		Value: &condition.Value{Date: day}}}
	young := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "student"}, Rel: condition.Is,
		Value: &condition.Value{Yes: new(true)}}}
	f := asking(t, func(d *form.Design) {
		d.Fees = []form.Fee{
			{Key: "entry", Label: "Entry", What: "entry",
				Price: form.Cases[form.Price]{
					When: []form.Case[form.Price]{{If: after, Then: form.Price{Amount: 9_000}}},
					Else: form.Price{Amount: 6_000},
				}},
			{Key: "supper", Label: "Supper", What: "extra", Offered: young, Most: 2,
				Price: form.Cases[form.Price]{Else: form.Price{Amount: 1_500}}}}
		d.Codes = []form.FeeCode{{Key: "half", Code: "ISLE", Percent: 50}}
	}, form.Question{Key: "student", Kind: form.YesNo}, form.Question{Key: "fees", Kind: form.Fees})
	x := filled()
	set(x, "student", "", "", "yes")
	set(x, "fees", "", "supper", "2")
	for _, c := range []struct {
		today calendar.Date
		code  string
		want  int64
	}{{day, "", 9_000}, {day.AddDays(1), "", 12_000}, {day, "isle", 4_500}} {
		x.Today = c.today
		set(x, "fees", "", form.ColCode, c.code)
		if got := f.Walk(x).Find("fees").Value.Number; got == nil || got.Num != c.want {
			t.Errorf("on %s with code %q: %v, want %d", c.today, c.code, got, c.want)
		}
	}
	set(x, "student", "", "", "no")
	set(x, "fees", "", form.ColCode, "nonsense")
	if got, want := codes(f.Walk(x)), "fee-not-offered at fees, fee-code at fees"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
}

// Nothing that anybody types, anywhere, makes a walk fail.
func FuzzEveryKind(f *testing.F) {
	var questions []form.Question
	for _, k := range form.Kinds() {
		q := form.Question{Key: form.Key("k-" + string(k.Kind)), Kind: k.Kind, Blank: form.MeansUnknown,
			NonAnswers: form.NonAnswers, Sure: form.Estimated}
		switch k.Kind {
		case form.Choice, form.Several, form.Ranked, form.Counts, form.Years:
			q.Options = options("a", "b")
		case form.Keywords:
			q.List, q.Proposals = "fields", true
		case form.Pick:
			q.Table = "courses"
		case form.Grade:
			q.Table, q.Rounding = "grades", form.Nearest
		case form.Identifier:
			q.Scheme = "iban"
		case form.Rows:
			q.Columns = []form.Question{{Key: "one", Kind: form.Money}, {Key: "two", Kind: form.Date}}
		case form.Budget:
			q.Request = "request"
		case form.Declared:
			q.Declared = &form.DeclaredRule{Of: "k-years"}
		case form.File:
			q.Limits = limits(form.Limits{Slot: &slot.Limits{SizeMost: 9}})
		case form.PageRef:
			q.Slot = "site-plan"
		case form.Referee, form.Signatory:
			q.Limits = limits(form.Limits{Referees: 1})
		}
		questions = append(questions, q)
	}
	compiled := asking(f, func(d *form.Design) {
		d.Lists, d.Tables = []form.List{fields}, []form.Table{grades, courses}
		d.Streams = []form.Stream{{Key: "one", Label: "One"}}
		d.Applicants, d.Awards = options("person"), []form.Award{{Key: "cup", Label: "Cup", Places: 1}}
		d.Fees = []form.Fee{{Key: "entry", Label: "Entry", What: "extra",
			Price: form.Cases[form.Price]{Else: form.Price{Amount: 100}}}}
	}, questions...)
	f.Add("12", "1 July 2027", "a\nb")
	f.Fuzz(func(t *testing.T, a, b, c string) {
		x := filled()
		typed := []string{a, b, c}
		for i, q := range questions {
			set(x, q.Key, "", "", typed[i%3])
			for j, p := range compiled.Parts(compiled.Question(q.Key)) {
				set(x, q.Key, "", p.Key, typed[j%3])
			}
			for j, col := range compiled.Columns(q.Key) {
				set(x, q.Key, "r0001", col.Key, typed[j%3])
			}
		}
		p := compiled.Walk(x)
		for _, o := range p.Obstacles {
			if what, _ := say.Obstacle(compiled, o); what == "" {
				t.Errorf("%+v has no sentence", o)
			}
		}
		for i := range p.Questions {
			say.Answer(compiled, compiled.Question(p.Questions[i].Key), x, &p.Questions[i])
		}
	})
}

// A statement that the round no longer offers is nothing given, and the
// question is asked again; it is never shown as something that cannot be read.
func TestAStatementNoLongerOffered(t *testing.T) {
	for _, may := range []bool{true, false} {
		q := form.Question{Key: "members", Kind: form.Number}
		if may {
			q.NonAnswers = []form.NonAnswer{form.NotKnown}
		}
		x := filled()
		x.Answers[form.Place{Question: "members"}] = form.Answer{Non: form.NotKnown}
		got, want := codes(asking(t, nil, q).Walk(x)), map[bool]string{true: "", false: "blank at members"}[may]
		if got != want {
			t.Errorf("offered %v: %q, want %q", may, got, want)
		}
	}
}

// A file that the slot does not take counts for none of those it needs.
func TestAFileNotTakenDoesNotCount(t *testing.T) {
	f := asking(t, nil, form.Question{Key: "plans", Kind: form.File,
		Limits: limits(form.Limits{Slot: &slot.Limits{SizeMost: 100, PagesMost: 3, FilesLeast: 2, FilesMost: 3}})})
	file := func(id int64, pages int) slot.File {
		return slot.File{
			ID:    id,
			Name:  "a.pdf",
			Size:  9,
			State: slot.Ready,
			Facts: slot.Facts{Kind: slot.PDF, Pages: pages},
		}
	}
	for want, files := range map[string][]slot.File{
		"":                                      {file(1, 3), file(2, 1)},
		"file at plans, too-few-files at plans": {file(1, 3), file(2, 4)},
		"file at plans":                         {file(1, 3), file(2, 1), file(3, 4)},
	} {
		x := filled()
		x.Files["plans"] = files
		if got := codes(f.Walk(x)); got != want {
			t.Errorf("%d files: %q, want %q", len(files), got, want)
		}
	}
}

// What anybody may ask is the widest of the cases; without a bound in one, there is none.
func TestAmountsOverAllCases(t *testing.T) {
	bounds := func(least, most int64) form.Limits { return form.Limits{Least: &least, Most: &most} }
	q := form.Question{Limits: form.Cases[form.Limits]{Else: bounds(200, 800),
		When: []form.Case[form.Limits]{{Then: bounds(100, 500)}, {Then: bounds(300, 900)}}}}
	if least, most, depends := q.Amounts(); *least != 100 || *most != 900 || !depends {
		t.Errorf("%d to %d, depends %v", *least, *most, depends)
	}
	q.Limits.When = append(q.Limits.When, form.Case[form.Limits]{})
	if least, most, _ := q.Amounts(); least != nil || most != nil {
		t.Error("one case has no bounds")
	}
	q.Limits.When = nil
	if _, _, depends := q.Amounts(); depends {
		t.Error("one case depends on nothing")
	}
}
