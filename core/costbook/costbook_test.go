package costbook_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ulvant/core/costbook"
	"ulvant/core/form"
	"ulvant/core/form/kindtest"
)

// shore is a budget with years, partners, goods and a day on each line.
func shore(t *testing.T) (*form.Form, *form.Question) {
	t.Helper()
	d := kindtest.Design(form.Budget)
	q := &d.Sections[len(d.Sections)-1].Questions[2]
	q.Options = []form.Option{{Key: "people", Label: "People"}, {Key: "plant", Label: "Plant"}}
	q.Costing.Periods = []form.Option{{Key: "y1", Label: "1"}, {Key: "y2", Label: "Year two: the end/rest"}}
	q.Costing.Units = nil
	q.Costing.Indirect.Bases[0].Heading = "people"
	f, err := form.Compile(d)
	if err != nil {
		t.Fatal(err)
	}
	return f, f.Question(kindtest.Key(form.Budget))
}

type cells map[form.Key]string

func draft(q *form.Question, lines ...cells) *form.Filled {
	x := &form.Filled{Answers: map[form.Place]form.Answer{}}
	for n, l := range lines {
		for k, v := range l {
			x.Answers[form.Place{Question: q.Key, Row: form.RowKey(n + 1), Column: k}] = form.Answer{Raw: v}
		}
	}
	return x
}

func warden() cells {
	return cells{
		"item":     "Warden",
		"heading":  "people",
		"quantity": "18",
		"unit":     "month",
		"each":     "1,400",
		"from-us":  "14,000",
		"own":      "11200.00",
		"period":   "y1",
		"partner":  "trust",
		"when":     "1 July 2027",
		"supplier": "Hallin",
		"quotes":   "f7",
	}
}

// Out and back in changes nothing, whatever stands in the draft: figures typed in
// any way, words that look like formulas, what cannot be read, what the design
// has no longer.
func TestComingBackIsTheIdentity(t *testing.T) {
	f, q := shore(t)
	r := rand.New(rand.NewPCG(5, 5))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	for range 400 {
		var lines []cells
		for range r.IntN(9) {
			lines = append(lines, cells{"item": pick("Warden", "=SUM(A1)", "Punt  hire", "", "-5", `a "b", c`),
				"heading": pick("people", "plant", "", "boats"), "partner": pick("trust", "club", "", "gone"),
				"quantity": pick("", "1", "0.5", "9,000", "some", "1,234.5", "1.125"), "unit": pick("day", "", "m²"),
				"each": pick(
					"",
					"980",
					"1,400.50",
					"€1.234,56",
					"much",
					".50",
				), "from-us": pick("", "0", "12,180", "7.5"),
				"own": pick("", "3"), "in-kind": pick("", "20"), "gives": pick("", "boat", "car"),
				"period": pick("y1", "y2", "", "y9"), "when": pick("", "1 July 2027", "2027-07-01", "soon"),
				"supplier": pick("", "Hallin & Sons"), "quotes": pick("", "f1\nf2")})
		}
		x := draft(q, lines...)
		got, faults := costbook.In(f, q, x, costbook.Out(f, q, x))
		if len(faults) > 0 || len(got.Changes) > 0 {
			t.Fatalf("%v\n%+v\nof %v", faults, got.Changes, lines)
		}
		raw := costbook.CSV(f, q, x).CSV()
		if got, faults = costbook.FromCSV(f, q, x, []byte(raw)); len(faults) > 0 || len(got.Changes) > 0 {
			t.Fatalf("CSV: %v\n%+v\nof %v\n%s", faults, got.Changes, lines, raw)
		}
	}
}

// What is done elsewhere and comes back, and what it changes in the draft.
func TestWhatComesBack(t *testing.T) {
	f, q := shore(t)
	for _, c := range []struct {
		name  string
		act   func(b *costbook.Book)
		want  []string
		stats [3]int // new, gone, differ
	}{
		{"nothing", func(*costbook.Book) {}, nil, [3]int{}},
		{"a figure", func(b *costbook.Book) { set(b, 0, 2, "From us", "13,000") }, []string{"r0001 from-us 13,000"},
			[3]int{0, 0, 1}},
		{"a number as a workbook keeps it", func(b *costbook.Book) {
			*at(b, 0, 2, "Each") = costbook.Cell{Text: "1400.1000000000001", Number: true}
			at(b, 0, 2, "Cost").Text = ""
		}, []string{"r0001 each 1400.1"}, [3]int{0, 0, 1}},
		{"a date as a workbook keeps it", func(b *costbook.Book) {
			*at(b, 0, 2, "First spent on") = costbook.Cell{Text: "46570", Number: true, Date: true}
		}, []string{"r0001 when 2027-07-02"}, [3]int{0, 0, 1}},
		{"a choice by its label", func(b *costbook.Book) { set(b, 0, 2, "Heading", "plant") },
			[]string{"r0001 heading plant"},
			[3]int{0, 0, 1}},
		{"a sum worked out by a formula", func(b *costbook.Book) {
			*at(b, 0, 2, "From us") = costbook.Cell{Text: "12000", Number: true, Formula: "10000+2000", Calc: "12000"}
		}, []string{"r0001 from-us 12000"}, [3]int{0, 0, 1}},
		{"a new line in the second year", func(b *costbook.Book) {
			set(b, 1, 5, "What", "Punt")
			set(b, 1, 5, "Each", "5")
		}, []string{"r0003 item Punt", "r0003 each 5", "r0003 period y2"}, [3]int{1, 0, 0}},
		{"a line taken out", func(b *costbook.Book) { b.Sheets[1].Rows[2] = nil }, []string{"r0002 item ", "r0002 heading ",
			"r0002 each ", "r0002 period "}, [3]int{0, 1, 0}},
		{"another thing: its quotes go", func(b *costbook.Book) { set(b, 0, 2, "What", "Boat") },
			[]string{"r0001 item Boat", "r0001 quotes "}, [3]int{0, 0, 1}},
		{"a sheet of one’s own", func(b *costbook.Book) {
			b.Sheets = append(b.Sheets, costbook.Sheet{Name: "Scratch", Rows: [][]costbook.Cell{{{Text: "x"}}}})
		}, nil, [3]int{}},
	} {
		t.Run(c.name, func(t *testing.T) {
			x := draft(q, warden(), cells{"item": "Timber", "heading": "plant", "each": "50", "period": "y2"})
			b := costbook.Out(f, q, x)
			c.act(&b)
			got, faults := costbook.In(f, q, x, b)
			if len(faults) > 0 {
				t.Fatal(faults)
			}
			var changes []string
			for _, x := range got.Changes {
				changes = append(changes, fmt.Sprint(x.Place.Row, " ", x.Place.Column, " ", x.Value))
			}
			slices.Sort(changes)
			slices.Sort(c.want)
			if !slices.Equal(changes, c.want) || [3]int{got.New, got.Gone, got.Differ} != c.stats {
				t.Errorf("%q %v, want %q %v", changes, []int{got.New, got.Gone, got.Differ}, c.want, c.stats)
			}
			if len(got.Left) > 0 != (c.name == "a sheet of one’s own") {
				t.Errorf("left out: %q", got.Left)
			}
		})
	}
}

// at is a cell of a sheet by its heading.
func at(b *costbook.Book, sheet, row int, heading string) *costbook.Cell {
	i := slices.IndexFunc(b.Sheets[sheet].Rows[0], func(c costbook.Cell) bool { return c.Text == heading })
	return &b.Sheets[sheet].Rows[row][i]
}

func set(b *costbook.Book, sheet, row int, heading, v string) {
	*at(b, sheet, row, heading) = costbook.Cell{Text: v}
}

// What cannot be taken is named by sheet and cell, and nothing is taken.
func TestWorkbooksThatAreNotTaken(t *testing.T) {
	f, q := shore(t)
	for _, c := range []struct {
		name string
		act  func(b *costbook.Book)
		want string
	}{
		{"a changed heading", func(b *costbook.Book) { set(b, 0, 0, "Each", "Price") },
			"“Year 1”, G1: the heading says “Price”; it should say “Each”"},
		{"a column taken out", func(b *costbook.Book) { b.Sheets[0].Rows[0] = b.Sheets[0].Rows[0][:4] },
			"“Year 1”, E1: the heading says “”; it should say “How many”"},
		{"a missing sheet", func(b *costbook.Book) { b.Sheets = b.Sheets[:1] },
			"the sheet “Year two the end rest” is missing"},
		{"an empty sheet", func(b *costbook.Book) { b.Sheets[0].Rows = nil }, "“Year 1”: the sheet is empty"},
		{"a formula that lies", func(b *costbook.Book) {
			*at(b, 0, 2, "From us") = costbook.Cell{Text: "14000", Number: true, Formula: "7000+5000", Calc: "12000"}
		}, "“Year 1”, I3: the formula says 14000 and comes to 12000; put in the one that is meant"},
		{"a link to another workbook", func(b *costbook.Book) {
			*at(b, 0, 2, "From us") = costbook.Cell{Text: "14000", Number: true, Formula: "[1]Sheet1!A1"}
		}, "“Year 1”, I3: the formula cannot be worked out here; put in what it comes to"},
		{"a cost that is typed over", func(b *costbook.Book) {
			*at(b, 0, 2, "Cost") = costbook.Cell{Text: "20000", Number: true}
		}, "“Year 1”, H3: the cost says 20000; the line comes to €25,200"},
		{"a date as a number", func(b *costbook.Book) {
			*at(b, 0, 2, "How many") = costbook.Cell{Text: "46000", Number: true, Date: true}
		}, "“Year 1”, E3: this is a date; under “How many” stands a number"},
		{"a number as a date", func(b *costbook.Book) {
			*at(b, 0, 2, "First spent on") = costbook.Cell{Text: "46569", Number: true}
		}, "“Year 1”, O3: “46569” cannot be read as a day; write it as 1 July 2027"},
		{"text as a number", func(b *costbook.Book) { set(b, 0, 2, "From us", "about 14") },
			"“Year 1”, I3: “about 14” cannot be read as a sum in EUR"},
		{"another currency’s sign", func(b *costbook.Book) { set(b, 0, 2, "From us", "$14,000") },
			"“Year 1”, I3: “$14,000” cannot be read as a sum in EUR"},
		{"shown in another currency", func(b *costbook.Book) {
			*at(b, 0, 2, "From us") = costbook.Cell{Text: "14000", Number: true, Sign: "£"}
		}, "“Year 1”, I3: this is shown in £; sums here are in EUR"},
		{"a third of a cent", func(b *costbook.Book) {
			*at(b, 0, 2, "From us") = costbook.Cell{Text: "14000.333", Number: true}
		}, "“Year 1”, I3: “14000.333” has more decimals than EUR has"},
		{"less than nothing", func(b *costbook.Book) {
			*at(b, 0, 2, "From us") = costbook.Cell{Text: "-5", Number: true}
		}, "“Year 1”, I3: a sum cannot be less than nothing"},
		{"a heading that is not offered", func(b *costbook.Book) { set(b, 0, 2, "Heading", "Boats") },
			"“Year 1”, C3: “Boats” is not offered under “Heading”"},
		{"a line twice", func(b *costbook.Book) { b.Sheets[0].Rows[3] = b.Sheets[0].Rows[2] },
			"“Year 1”, A4: another line has this number already; empty it for a new line"},
		{"a line without its number", func(b *costbook.Book) { set(b, 0, 2, "Line", "first") },
			"“Year 1”, A3: “first” is no number of a line; empty it for a new line"},
		{"something beside the table", func(b *costbook.Book) {
			b.Sheets[0].Rows[2] = append(b.Sheets[0].Rows[2], costbook.Cell{Text: "note"})
		}, "“Year 1”, Q3: this stands outside the columns of the budget"},
		{"a million rows", func(b *costbook.Book) { b.Sheets[0].More = true },
			"“Year 1”: it has more than 500 lines or 30 columns; a budget takes fewer"},
	} {
		t.Run(c.name, func(t *testing.T) {
			x := draft(q, warden())
			b := costbook.Out(f, q, x)
			c.act(&b)
			got, faults := costbook.In(f, q, x, b)
			if len(faults) == 0 || faults[0].String() != c.want || len(got.Changes) > 0 {
				t.Errorf("%v %+v, want %s", faults, got.Changes, c.want)
			}
		})
	}
	// many faults are told of up to a number
	x := draft(q)
	b := costbook.Out(f, q, x)
	for n := range 400 {
		b.Sheets[0].Rows = append(b.Sheets[0].Rows, []costbook.Cell{{Text: fmt.Sprint("x", n)}})
	}
	if _, faults := costbook.In(f, q, x, b); len(faults) != costbook.MostFaults+1 ||
		faults[len(faults)-1].Says != "and 340 more" {
		t.Errorf("%d faults, the last: %v", len(faults), faults[len(faults)-1])
	}
	// more lines than a budget takes
	b = costbook.Out(f, q, x)
	for range 400 {
		for _, s := range []int{0, 1} {
			line := make([]costbook.Cell, len(b.Sheets[0].Rows[0]))
			line[1] = costbook.Cell{Text: "Punt"}
			b.Sheets[s].Rows = append(b.Sheets[s].Rows, line)
		}
	}
	if _, faults := costbook.In(f, q, x, b); len(faults) != 1 || faults[0].Says != "a budget takes 499 lines" {
		t.Errorf("%v", faults)
	}
}

// CSV as other programs write it. Source: RFC 4180 for commas, quotes and line
// ends; semicolons and tabs are common practice.
func TestCSVAsOthersWriteIt(t *testing.T) {
	f, q := shore(t)
	head := "Line,Year,What,Heading,Whose,How many,of,Each,From us,Own,Promised,Applied for,In kind,As,First spent on,Supplier"
	for name, c := range map[string]struct {
		raw, want string
	}{
		"plain": {head + "\r\n,1,\"Punt, hire\",Plant,The trust,2,season,\"2,670\",5340,,,,,,1 July 2027,\r\n",
			"Punt, hire"},
		"a mark":      {"\ufeff" + head + "\n,1,Punt,Plant\n", "Punt"},
		"semicolons":  {strings.ReplaceAll(head, ",", ";") + "\n;1;Punt;Plant\n", "Punt"},
		"tabs":        {strings.ReplaceAll(head, ",", "\t") + "\n\t1\tPunt\tPlant\n", "Punt"},
		"guarded":     {head + "\n,1,'=Punt,Plant\n", "=Punt"},
		"no last end": {head + "\n,1,Punt,Plant", "Punt"},
	} {
		t.Run(name, func(t *testing.T) {
			got, faults := costbook.FromCSV(f, q, draft(q), []byte(c.raw))
			i := slices.IndexFunc(got.Changes, func(x costbook.Change) bool { return x.Place.Column == form.ColItem })
			if len(faults) > 0 || got.New != 1 || i < 0 || got.Changes[i].Value != c.want {
				t.Errorf("%v %+v", faults, got)
			}
		})
	}
	for raw, says := range map[string]string{"\xff\xfe": "not in UTF-8", "a\"b,c\"\n\"": "cannot be read as CSV",
		"What,Cost\n": "A1: the heading says “What”; it should say “Line”", "": "the sheet is empty",
		head + "\n,3,Punt\n": "B2: “3” is not offered under “Year”"} {
		if _, faults := costbook.FromCSV(f, q, draft(q), []byte(raw)); len(faults) == 0 ||
			!strings.Contains(faults[0].String(), says) {
			t.Errorf("%q: %v, want %q", raw, faults, says)
		}
	}
}

// Names of cells and sheets (ISO/IEC 29500-1, 18.2.19 for what a sheet's name holds).
func TestNames(t *testing.T) {
	for at, want := range map[[2]int]string{{0, 0}: "A1", {25, 9}: "Z10", {26, 0}: "AA1", {701, 0}: "ZZ1",
		{702, 1}: "AAA2"} {
		if got := costbook.Name(at[0], at[1]); got != want {
			t.Errorf("%v: %s, want %s", at, got, want)
		}
	}
	f, q := shore(t)
	q.Costing.Periods = []form.Option{
		{Key: "a", Label: "What it comes to"},
		{Key: "b", Label: "[ ]"},
		{Key: "c", Label: "year"},
		{
			Key:   "d",
			Label: strings.Repeat("ü", 40),
		},
		{Key: "e", Label: strings.Repeat("ü", 50)},
		{Key: "f", Label: "'quoted'"},
	}
	seen := map[string]bool{}
	for _, s := range costbook.Out(f, q, draft(q)).Sheets {
		if n := len([]rune(s.Name)); seen[strings.ToLower(s.Name)] || n == 0 || n > 31 ||
			strings.ContainsAny(s.Name, `:\/?*[]`) ||
			strings.Trim(s.Name, "'") != s.Name {
			t.Errorf("a sheet is called %q", s.Name)
		}
		seen[strings.ToLower(s.Name)] = true
	}
}
