package pathtable_test

import (
	"context"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/pathtable"
	"ulvant/core/proof"
	"ulvant/demo"
)

func designs(t testing.TB) []*form.Form {
	t.Helper()
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	list, err := demo.Designs(time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC), zone)
	if err != nil {
		t.Fatal(err)
	}
	var out []*form.Form
	for _, d := range list {
		f, err := form.Compile(d)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, f)
	}
	return out
}

// dice fall the same way in every test.
func dice() func(n int) int { return rand.New(rand.NewPCG(1, 2)).IntN }

func row(t *testing.T, tb *pathtable.Table, key form.Key) pathtable.Row {
	t.Helper()
	i := slices.IndexFunc(tb.Rows, func(r pathtable.Row) bool { return r.Key == key })
	if i < 0 {
		t.Fatalf("no row for %s", key)
	}
	return tb.Rows[i]
}

// The demo's tables, as an officer would check them against her own forms.
func TestTablesOfTheDemo(t *testing.T) {
	forms := designs(t)
	for i, want := range []struct {
		tells string // something that some column is named by
		cells map[form.Key][2]string
		least int // columns
	}{
		// question: a column whose name holds the first meets the state second
		{"By water", map[form.Key][2]string{"boats": {"By water", "must"}, "boat-insured": {"By road or on foot", "not"},
			"describe": {"Peat", "must 320 words"}, "site": {"By water", "must"}}, 6},
		{"A hand in a yard", map[form.Key][2]string{"guardian": {"", "may"}}, 6},
		{"Bats", map[form.Key][2]string{"licence": {"Bats", "must"}, "statement": {"Moths", "must 700 words"},
			"english": {": yes", "not"}, "no-sound": {"Bats", "not"}}, 6},
		{"Students", map[form.Key][2]string{"school": {"Students", "must"}, "built-before": {"Makers", "must"}}, 6},
	} {
		f := forms[i]
		tb := pathtable.Make(context.Background(), f, nil, dice())
		if len(tb.Columns) < want.least || len(tb.Columns) > pathtable.Most || tb.Unseen {
			t.Errorf("%s: %d columns", f.Design.Name, len(tb.Columns))
		}
		names := ""
		share := 0
		for _, c := range tb.Columns {
			names += c.Name + "\n"
			share += c.Share
			if c.Minutes < 10 || c.Questions < 5 {
				t.Errorf("%s, %s: %d questions in %d minutes", f.Design.Name, c.Name, c.Questions, c.Minutes)
			}
		}
		if !strings.Contains(names, want.tells) || strings.Count(names, "\n") != len(tb.Columns) || share < 90 {
			t.Errorf("%s: the columns are %s", f.Design.Name, names)
		}
		for key, cell := range want.cells {
			r := row(t, tb, key)
			seen := false
			for k, c := range tb.Columns {
				if !strings.Contains(c.Name, cell[0]) {
					continue
				}
				if got := strings.TrimSpace(string(r.Cells[k].State) + " " + r.Cells[k].Limit); strings.HasPrefix(got, cell[1]) {
					seen = true
				} else if cell[0] != "" {
					t.Errorf("%s: %s of %q is %q, want %q", f.Design.Name, key, c.Name, got, cell[1])
				}
			}
			if !seen {
				t.Errorf("%s: nobody named %q meets %s as %q", f.Design.Name, cell[0], key, cell[1])
			}
		}
	}
}

// Every cell holds for everybody of its kind: walked through the real form,
// nobody is asked what the table says is not asked, and everybody what it says
// all must answer.
func TestCellsHoldForEverybody(t *testing.T) {
	for _, f := range designs(t) {
		tb := pathtable.Make(context.Background(), f, nil, dice())
		for k, c := range tb.Columns {
			x := tb.Asker.Example(c.Splits)
			if x == nil {
				t.Errorf("%s: there is nobody of the kind %q", f.Design.Name, c.Name)
				continue
			}
			path := f.Walk(x.Filled)
			if len(path.Obstacles) > 0 {
				t.Errorf("%s: %q cannot send: %+v", f.Design.Name, c.Name, path.Obstacles)
			}
			for _, r := range tb.Rows {
				if r.Section {
					continue
				}
				asked := path.Find(r.Key).Asked.String() == "yes"
				if s := r.Cells[k].State; s == pathtable.Not && asked || s == pathtable.Must && !asked {
					t.Errorf("%s: %s of %q is %q, and somebody of that kind is asked: %v", f.Design.Name, r.Label, c.Name, s, asked)
				}
			}
		}
	}
}

// A cell says why, and columns keep their order.
func TestWhyAndOrder(t *testing.T) {
	f := designs(t)[0]
	tb := pathtable.Make(context.Background(), f, nil, dice())
	for k, c := range tb.Columns {
		if !strings.Contains(c.Name, "By road") {
			continue
		}
		asked, because := tb.Asker.Why(c.Splits, "boat-insured")
		if asked || len(because) != 1 || !strings.Contains(because[0].Says, "Boats and access") {
			t.Errorf("%q is asked about boats: %v, because %+v", tb.Columns[k].Name, asked, because)
		}
	}
	turned := slices.Clone(tb.Columns)
	slices.Reverse(turned)
	again := pathtable.Make(context.Background(), f, turned, dice())
	for i, c := range again.Columns {
		if c.Name != turned[i].Name || row(t, again, "boat-insured").Cells[i] != row(t, tb,
			"boat-insured").Cells[len(turned)-1-i] {
			t.Errorf("column %d is %q with %v", i, c.Name, row(t, again, "boat-insured").Cells[i])
		}
	}
}

// What people are told of a span, by example.
func TestNames(t *testing.T) {
	f := designs(t)[3]
	for want, splits := range map[string][]proof.Split{
		"More than €50,000": {{Question: "cost", Least: 5_000_001, Number: true}},
		"Up to €50,000":     {{Question: "cost", Least: 5_000_001, Number: true, Not: true}},
		"40 m or more":      {{Question: "span", Least: 400, Number: true}},
		"Students":          {{Question: "stream", Value: "students"}},
		"Open or Makers":    {{Question: "stream", Value: "students", Not: true}},
	} {
		if got := strings.Join(pathtable.Parts(f, splits), " · "); got != want {
			t.Errorf("%v are %q, want %q", splits, got, want)
		}
	}
	if got := pathtable.Parts(f, nil); got[0] != "Everybody" {
		t.Errorf("nobody told apart is %q", got)
	}
}

func BenchmarkTable(b *testing.B) {
	for _, f := range designs(b) {
		b.Run(f.Design.Name, func(b *testing.B) {
			for b.Loop() {
				pathtable.Make(context.Background(), f, nil, dice())
			}
		})
	}
}
