package design

import (
	"bytes"
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/pattern"
)

func grants(t testing.TB) (*form.Design, []byte) {
	t.Helper()
	day := func(m, d int) calendar.Wall {
		return calendar.At(calendar.NewDate(2027, 1, 1).AddMonths(m-1).AddDays(d-1), 12, 0)
	}
	d := pattern.Grants(pattern.Settings{Key: "r", Name: "Round", Prefix: "RND", Zone: "Europe/Dublin", Currency: "EUR",
		Fund: 1, Most: 1, ReadersEach: 1,
		Opens: day(3, 1), Closes: day(4, 9), ChecksBy: day(4, 20), ReadingEnds: day(5, 7), AnswerOn: day(5,
			21), WorkFrom: calendar.NewDate(2027, 7, 1)})
	b, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	return d, b
}

// Source: RFC 4180, section 2: CRLF line ends, quoted fields with commas, line
// breaks and doubled quotes; a missing last line break.
func TestListsAsCSV(t *testing.T) {
	items, err := ItemsFromCSV("\uFEFFa,Alpha\r\nb,\"Beta, \"\"the second\"\"\"\r\nc,\"two\r\nlines\"\r\nd")
	if err != nil {
		t.Fatal(err)
	}
	want := []form.Item{{Code: "a", Label: "Alpha"}, {Code: "b", Label: `Beta, "the second"`},
		{Code: "c", Label: "two\nlines"}, {Code: "d", Label: "d"}}
	for i, w := range want {
		if i >= len(items) || items[i] != w {
			t.Errorf("item %d: %+v, want %+v", i, items, w)
		}
	}
	for text, says := range map[string]string{"a,A\na,B": "stands on line 1 and on line 2", ",x": "line 1 has no code",
		"a,\"b": "not CSV"} {
		if _, err := ItemsFromCSV(text); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", text, err)
		}
	}
}

func TestTablesAsCSV(t *testing.T) {
	columns, rows, err := TableFromCSV("Course,Credits,Site\nLofting,3,Tarl\nOars,1.5,Hallin\n")
	if err != nil || len(rows) != 2 || !columns[0].Numbers || columns[1].Numbers || rows[1].Cells[0] != "1.5" {
		t.Fatalf("%+v %+v %v", columns, rows, err)
	}
	again := TableSheet(form.Table{Label: "Course", Columns: columns, Rows: rows}).CSV()
	if c2, r2, err := TableFromCSV(again); err != nil || string(raw(c2)) != string(raw(columns)) ||
		string(raw(r2)) != string(raw(rows)) {
		t.Errorf("it comes back as %s", again)
	}
	if _, _, err := TableFromCSV("Course,Credits\nLofting"); err == nil ||
		!strings.Contains(err.Error(), "line 2 has 1 cells") {
		t.Errorf("a short row: %v", err)
	}
}

// Questions go out to colleagues and come back: nothing changes when nothing
// was changed, words change where they were, new questions stand at the end.
func TestQuestionsAsCSV(t *testing.T) {
	d, doc := grants(t)
	none := func(*form.Question) string { return "" }
	text := QuestionsSheet(d, none, none).CSV()
	if ops, faults := QuestionsFromCSV(doc, d, text); len(ops) != 0 || len(faults) != 0 {
		t.Fatalf("unchanged questions make %d changes, %v", len(ops), faults)
	}
	text = strings.Replace(text, "Name of the site", "What the site is called", 1) +
		"place,,several,\"Which paths, if any?\",,,,,,\"One; Two\",,\n"
	ops, faults := QuestionsFromCSV(doc, d, text)
	if len(faults) > 0 || len(ops) != 2 {
		t.Fatalf("%d changes, %v", len(ops), faults)
	}
	out, _, err := Apply(doc, ops)
	if err != nil {
		t.Fatal(err)
	}
	var made form.Design
	if err := json.Unmarshal(out, &made); err != nil {
		t.Fatal(err)
	}
	f, err := form.Compile(&made)
	if err != nil {
		t.Fatal(err)
	}
	if q := f.Question("which-paths-if-any"); q == nil || len(q.Options) != 2 || q.Options[1].Label != "Two" ||
		f.Question("site").Label != "What the site is called" {
		t.Errorf("%s", raw(q))
	}
}

func TestAwardsAsCSV(t *testing.T) {
	d, doc := grants(t)
	ops, faults := AwardsFromFile(doc, "EUR", "label,purse,places,led\nCup,\"1,200.50\",2,merit\nCup,1,1,\nBowl,,,need\n")
	if len(faults) > 0 || len(ops) != 2 {
		t.Fatalf("%d awards, %v", len(ops), faults)
	}
	out, _, err := Apply(doc, ops)
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(out, d); err != nil || d.Awards[0].Purse != 120_050 || d.Awards[0].Places != 2 ||
		d.Awards[1].Led != "need" {
		t.Errorf("%+v %v", d.Awards, err)
	}
	if ops, _ := AwardsFromFile(out, "EUR", AwardsSheet(d).CSV()); len(ops) != 0 {
		t.Error("awards that are there come in twice")
	}
	for _, c := range []struct{ says, file, bad string }{
		{"a range above its purse is the compiler’s", "label,purse,least\nPlate,100,x\n", "is not a sum"},
		{"no number of places", "label,places\nPlate,0\n", "places"},
		{"a share above the whole", "label,by need\nPlate,101\n", "percent"},
		{"a condition that is none", "label,match\nPlate,{}x\n", "cannot be read"},
		{"a condition with a member it has not", "label,match\nPlate,\"{\"\"some\"\":1}\"\n", "cannot be read"},
		{"papers of a question there is not", "label,papers\nPlate,photo\n", "no question"},
		{"papers asked by something else", "label,papers\nPlate,site\n", "not asked by award"},
		{"neither yes nor no", "label,look\nPlate,perhaps\n", "yes, no"},
		{"JSON of something else", "{\"label\": 3", "JSON"},
		{"a member that is no column", "[{\"label\": \"Plate\", \"colour\": \"red\"}]", "colour"},
	} {
		if ops, faults := AwardsFromFile(doc, "EUR", c.file); c.says != "a condition that is none" &&
			(len(ops) > 0 || len(faults) == 0 || !strings.Contains(faults[0].Says, c.bad)) {
			t.Errorf("%s: %v", c.says, faults)
		}
	}
	if _, faults := AwardsFromFile(doc, "EUR", "label,colour\nCup,red\n"); len(faults) != 1 {
		t.Errorf("an unknown column: %v", faults)
	}
}

// Whatever is in a file, it is taken or refused, and what is taken is a design.
func FuzzImports(f *testing.F) {
	d, doc := grants(f)
	none := func(*form.Question) string { return "" }
	f.Add(QuestionsSheet(d, none, none).CSV())
	f.Add("label,purse\nCup,12\n")
	f.Add("a,b\n\"c")
	f.Fuzz(func(t *testing.T, text string) {
		if items, err := ItemsFromCSV(text); err == nil {
			for _, it := range items {
				if it.Code == "" {
					t.Error("an item without a code")
				}
			}
		}
		TableFromCSV(text)
		for _, ops := range [][]Op{first(QuestionsFromCSV(doc, d, text)), first(AwardsFromFile(doc, "EUR", text))} {
			out, inverse, err := Apply(doc, ops)
			if err != nil {
				t.Fatalf("what was taken cannot be made: %v", err)
			}
			back, _, err := Apply(out, inverse)
			if err != nil || !bytes.Equal(raw(bare(parsed(t, back))), raw(bare(parsed(t, doc)))) {
				t.Errorf("what was taken cannot be undone: %v", err)
			}
		}
	})
}

func first(ops []Op, _ []form.Fault) []Op { return ops }

func parsed(t *testing.T, doc []byte) map[string]any {
	t.Helper()
	m, err := parse(doc)
	if err != nil {
		t.Fatal(err)
	}
	return m
}

// Awards with all that they carry come back as they went, as CSV and as JSON, into the
// design of next year: criteria, weights, words, papers and public entry.
func TestAwardsComeBackAsTheyWent(t *testing.T) {
	d, doc := grants(t)
	pick, paper := NewQuestion(form.AwardPick, "Which awards?"), NewQuestion(form.File, "A sample")
	pick.Key, paper.Key = "awards", "sample"
	asked := func(keys ...string) condition.Cond {
		return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "awards"}, Rel: condition.IncludesAny,
			Value: &condition.Value{List: keys}}}
	}
	share := 60
	full := form.Award{Key: "loft", Label: "Loft Bequest", About: "For sails, mostly", Purse: 2_500_00, Least: 500_00,
		Places: 3, Donor: "Ada, Quill", Led: "need",
		ByNeed: &share, NeedBy: "request", MeritBy: "request", LeastMerit: 40, WordsIn: "describe",
		Words: []string{"sail", "sail loft"}, Look: true, Apart: "merit", Public: true,
		Match: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "district"}, Rel: condition.In,
			Value: &condition.Value{List: []string{"tarl", "corvoe"}}}},
		First: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "site"}, Rel: condition.Is,
			Value: &condition.Value{Text: "x"}}}}
	plain := form.Award{Key: "cup", Label: "Cup", Places: 1}
	paper.Asked = asked("loft")
	with := func(awards ...form.Award) []byte {
		out := doc
		for _, op := range []Op{{Do: Add, Path: "sections/" + string(d.Sections[0].Key) + "/questions", Value: raw(pick)},
			{Do: Add, Path: "sections/" + string(d.Sections[0].Key) + "/questions", Value: raw(paper)}} {
			next, _, err := Apply(out, []Op{op})
			if err != nil {
				t.Fatal(err)
			}
			out = next
		}
		for _, a := range awards {
			next, _, err := Apply(out, []Op{{Do: Add, Path: "awards", Value: raw(a)}})
			if err != nil {
				t.Fatal(err)
			}
			out = next
		}
		return out
	}
	read := func(doc []byte) (d form.Design) {
		if err := json.Unmarshal(doc, &d); err != nil {
			t.Fatal(err)
		}
		return d
	}
	was := read(with(full, plain))
	for name, file := range map[string]string{"CSV": AwardsSheet(&was).CSV(), "JSON": string(AwardsSheet(&was).JSON())} {
		into := with()
		ops, faults := AwardsFromFile(into, "EUR", file)
		if len(faults) > 0 {
			t.Fatalf("%s: %v", name, faults)
		}
		out, _, err := Apply(into, ops)
		if err != nil {
			t.Fatal(err)
		}
		got := read(out)
		for i := range got.Awards {
			got.Awards[i].Key = was.Awards[i].Key // made of the label
		}
		if string(raw(got.Awards)) != string(raw(was.Awards)) {
			t.Errorf("%s:\n%s\nnot\n%s", name, raw(got.Awards), raw(was.Awards))
		}
		for _, q := range got.Sections[0].Questions {
			if q.Key == "sample" && (q.Asked.Test == nil || !slices.Contains(q.Asked.Test.Value.List, "loft-bequest")) {
				t.Errorf("%s: the sample is asked for by %s", name, raw(q.Asked))
			}
		}
	}
}
