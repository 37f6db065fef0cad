package workbook_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"ulvant/core/budget"
	"ulvant/core/costbook"
	"ulvant/core/form"
	"ulvant/core/form/kindtest"
	"ulvant/core/money"
	"ulvant/internal/platform/inspect"
	"ulvant/internal/platform/limit"
	"ulvant/internal/platform/workbook"
)

func TestMain(m *testing.M) {
	if os.Getenv(inspect.Env) != "" {
		os.Exit(inspect.Child(os.Args[2], os.Args[3:]...))
	}
	os.Exit(m.Run())
}

// shore has years, partners and capped bases of indirect costs.
func shore(t testing.TB) (*form.Form, *form.Question) {
	t.Helper()
	d := kindtest.Design(form.Budget)
	q := &d.Sections[len(d.Sections)-1].Questions[2]
	q.Options = []form.Option{
		{Key: "people", Label: "People"},
		{Key: "plant", Label: "“Plant” & more"},
		{Key: "sub", Label: "Sub"},
	}
	q.Costing = &form.Costing{Quantities: true, Sources: []form.Key{"own"},
		Periods: []form.Option{{Key: "y1", Label: "1"}, {Key: "y2", Label: "The end’s end"}},
		Partners: []form.Option{
			{Key: "trust", Label: "Trust"},
			{Key: "club", Label: "Club"},
		}, Gives: []form.Key{"boat"},
		Indirect: &form.Indirect{
			Rate: 12_50,
			Bases: []form.Base{{Heading: "people"}, {Heading: "plant", LineMost: 900_00},
				{Heading: "sub", PartnerMost: 5_000_00}},
		}}
	f, err := form.Compile(d)
	if err != nil {
		t.Fatal(err)
	}
	return f, f.Question(kindtest.Key(form.Budget))
}

// random lines that add up; every one has a partner, so that the workbook's caps
// for those without are tried apart.
func random(f *form.Form, q *form.Question, r *rand.Rand, lines int) *form.Filled {
	x := &form.Filled{Answers: map[form.Place]form.Answer{}}
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	for n := range lines {
		many, each := pick("", "0.5", "3", "12", "1.25"), fmt.Sprintf("%d.%02d", r.IntN(2000), r.IntN(100))
		cells := map[form.Key]string{
			"item":     fmt.Sprint("Line ", n),
			"heading":  pick("people", "plant", "sub"),
			"quantity": many,
			"unit":     "day",
			"each":     each,
			"from-us":  fmt.Sprintf("%d.%02d", r.IntN(500), r.IntN(100)),
			"period":   pick("y1", "y2"),
			"partner":  pick("trust", "club"),
		}
		if r.IntN(5) == 0 {
			cells["gives"], cells["each"] = "boat", ""
		}
		for k, v := range cells {
			if v != "" {
				x.Answers[form.Place{Question: q.Key, Row: form.RowKey(n + 1), Column: k}] = form.Answer{Raw: v}
			}
		}
	}
	return x
}

func totals(t testing.TB, f *form.Form, q *form.Question, x *form.Filled) budget.Totals {
	t.Helper()
	st := f.Walk(x).Find(q.Key)
	if st.Totals == nil {
		t.Fatalf("%+v", f.Walk(x).Obstacles)
	}
	return *st.Totals
}

// Written as XLSX and read in the child, a budget comes back as it went.
func TestOutAndBack(t *testing.T) {
	f, q := shore(t)
	bench := inspect.Bench{Gate: make(limit.Gate, 1)}
	r := rand.New(rand.NewPCG(2, 2))
	for _, lines := range []int{0, 1, 40, 300} {
		x := random(f, q, r, lines)
		path := write(t, f, q, x)
		book, err := bench.Cells(t.Context(), path)
		if err != nil {
			t.Fatal(err)
		}
		if got, faults := costbook.In(f, q, x, book); len(faults) > 0 || len(got.Changes) > 0 {
			t.Fatalf("%d lines: %v %+v", lines, faults, got.Changes)
		}
	}
}

func write(t testing.TB, f *form.Form, q *form.Question, x *form.Filled) string {
	t.Helper()
	b, err := workbook.XLSX(costbook.Out(f, q, x), money.Digits(f.Design.Currency))
	if err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), "budget.xlsx")
	if err := os.WriteFile(path, b, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// Opened and worked out anew by LibreOffice (Debian's libreoffice-calc), the
// workbook comes to the sums that the program comes to, and still comes back as
// it went.
func TestLibreOfficeComesToTheSameSums(t *testing.T) {
	office, err := exec.LookPath("soffice")
	if err != nil {
		t.Skip("LibreOffice is not installed here: ./run test installs it")
	}
	f, q := shore(t)
	bench := inspect.Bench{Gate: make(limit.Gate, 1)}
	r := rand.New(rand.NewPCG(8, 8))
	for round := range 3 {
		x := random(f, q, r, 20+30*round)
		if round == 1 { // some without a partner
			for _, row := range x.Rows(q.Key)[:8] {
				delete(x.Answers, form.Place{Question: q.Key, Row: row, Column: "partner"})
			}
		}
		path := write(t, f, q, x)
		out := filepath.Join(filepath.Dir(path), "anew")
		cmd := exec.Command(
			office,
			"-env:UserInstallation=file://"+t.TempDir(),
			"--headless",
			"--convert-to",
			"xlsx:Calc MS Excel 2007 XML",
			"--outdir",
			out,
			path,
		)
		if says, err := cmd.CombinedOutput(); err != nil {
			t.Fatalf("%v: %s", err, says)
		}
		book, err := bench.Cells(t.Context(), filepath.Join(out, "budget.xlsx"))
		if err != nil {
			t.Fatal(err)
		}
		want := totals(t, f, q, x)
		sums := map[string]string{}
		i := slices.IndexFunc(book.Sheets, func(s costbook.Sheet) bool { return s.Name == costbook.Summary })
		for _, row := range book.Sheets[i].Rows {
			if len(row) > 1 {
				sums[row[0].Text] = row[1].Text
			}
		}
		for label, n := range map[string]int64{"All lines": want.Direct, "Indirect costs": want.Indirect,
			"Cost of it all": want.Cost,
			"Asked from us":  want.FromUs, "Others and you": want.Match, "under “Sub”": want.ByHeading["sub"].Cost} {
			got, ok := money.Parse(rounded(sums[label]), "EUR")
			if !ok || got != n {
				t.Errorf("%s: LibreOffice says %q, want %s", label, sums[label], money.Plain(n, "EUR"))
			}
		}
		if got, faults := costbook.In(f, q, x, book); len(faults) > 0 || len(got.Changes) > 0 {
			t.Errorf("%v %+v", faults, got.Changes)
		}
	}
}

// rounded is a double as a workbook shows it, to the cent.
func rounded(s string) string {
	var v float64
	fmt.Sscanf(s, "%g", &v)
	return fmt.Sprintf("%.2f", v)
}

// Files that are none, or that hold what is not wanted.
func TestWorkbooksThatAreRefused(t *testing.T) {
	f, q := shore(t)
	x := &form.Filled{Answers: map[form.Place]form.Answer{}}
	bench := inspect.Bench{Gate: make(limit.Gate, 1)}
	open := func() *excelize.File {
		b, err := excelize.OpenFile(write(t, f, q, x))
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	save := func(b *excelize.File, opts ...excelize.Options) string {
		path := filepath.Join(t.TempDir(), "other.xlsx")
		if err := b.SaveAs(path, opts...); err != nil {
			t.Fatal(err)
		}
		return path
	}
	text := filepath.Join(t.TempDir(), "words.xlsx")
	if err := os.WriteFile(text, []byte("PK and nothing"), 0o600); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		path string
		want error
	}{
		"words":      {text, inspect.ErrWorkbook},
		"a password": {save(open(), excelize.Options{Password: "secret"}), inspect.ErrLocked},
		"macros": {func() string {
			b := open()
			b.Pkg.Store("xl/vbaProject.bin", []byte("macro"))
			return save(b)
		}(), inspect.ErrMacros},
	} {
		if _, err := bench.Cells(t.Context(), c.path); err == nil || err.Error() != c.want.Error() {
			t.Errorf("%s: %v, want %v", name, err, c.want)
		}
	}
	b := open()
	set := func(at string, v any) {
		if err := b.SetCellValue("Year 1", at, v); err != nil {
			t.Fatal(err)
		}
	}
	dollars := `[$$-409]#,##0.00`
	dollar, err := b.NewStyle(&excelize.Style{CustomNumFmt: &dollars})
	if err != nil {
		t.Fatal(err)
	}
	day, err := b.NewStyle(&excelize.Style{NumFmt: 14})
	if err != nil {
		t.Fatal(err)
	}
	set("B3", "Boat")
	set("E3", 46000)
	set("G3", 100)
	set("B4", "Oar")
	set("G4", "x")
	if err := b.SetCellStyle("Year 1", "E3", "E3", day); err != nil {
		t.Fatal(err)
	}
	if err := b.SetCellStyle("Year 1", "G3", "G3", dollar); err != nil {
		t.Fatal(err)
	}
	if err := b.SetCellFormula("Year 1", "I4", "'[other.xlsx]Sheet1'!A1"); err != nil {
		t.Fatal(err)
	}
	if err := b.SetCellFormula("Year 1", "I3", "2*50"); err != nil {
		t.Fatal(err)
	}
	book, err := bench.Cells(t.Context(), save(b))
	if err != nil {
		t.Fatal(err)
	}
	_, faults := costbook.In(f, q, x, book)
	var says []string
	for _, x := range faults {
		says = append(says, x.String())
	}
	all := strings.Join(says, "\n")
	for _, want := range []string{"E3: this is a date", "G3: this is shown in $", "G4: “x” cannot be read",
		"I4: the formula cannot be worked out here"} {
		if !strings.Contains(all, want) {
			t.Errorf("%q is not among\n%s", want, all)
		}
	}
}

// A million rows end in a sentence, within the child's memory and time.
func TestAMillionRows(t *testing.T) {
	if testing.Short() {
		t.Skip("it writes a large workbook")
	}
	b := excelize.NewFile()
	w, err := b.NewStreamWriter("Sheet1")
	if err != nil {
		t.Fatal(err)
	}
	for n := range 1_000_000 {
		if err := w.SetRow(fmt.Sprintf("A%d", n+1), []any{n}); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Flush(); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), "many.xlsx")
	if err := b.SaveAs(path); err != nil {
		t.Fatal(err)
	}
	book, err := (inspect.Bench{Gate: make(limit.Gate, 1)}).Cells(t.Context(), path)
	if err == nil && (len(book.Sheets) != 1 || !book.Sheets[0].More || len(book.Sheets[0].Rows) > costbook.MostLines) {
		t.Errorf("%d rows were read", len(book.Sheets[0].Rows))
	}
	if err != nil && err.Error() != inspect.ErrWorkbook.Error() {
		t.Error(err)
	}
}

func BenchmarkXLSXOf300Lines(b *testing.B) {
	f, q := shore(b)
	x := random(f, q, rand.New(rand.NewPCG(1, 1)), 300)
	for b.Loop() {
		if _, err := workbook.XLSX(costbook.Out(f, q, x), 2); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkXLSXOf300LinesBack(b *testing.B) {
	f, q := shore(b)
	x := random(f, q, rand.New(rand.NewPCG(1, 1)), 300)
	path := write(b, f, q, x)
	bench := inspect.Bench{Gate: make(limit.Gate, 1)}
	for b.Loop() {
		book, err := bench.Cells(b.Context(), path)
		if err != nil {
			b.Fatal(err)
		}
		costbook.In(f, q, x, book)
	}
}
