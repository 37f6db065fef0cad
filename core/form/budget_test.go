package form_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/form/kindtest"
	"ulvant/core/slot"
)

// shore is the budget of the sketch: people, plant and stock, divided among this
// fund, own money, another's promise and what is given in kind.
func shore(t testing.TB, set func(*form.Question)) (*form.Form, *form.Question) {
	t.Helper()
	d := kindtest.Design(form.Budget)
	q := &d.Sections[len(d.Sections)-1].Questions[2]
	q.Options = []form.Option{
		{Key: "people", Label: "People"},
		{Key: "plant", Label: "Plant"},
		{Key: "stock", Label: "Stock"},
	}
	q.Costing = &form.Costing{Quantities: true, Sources: []form.Key{"own", "promised", "in-kind"},
		Indirect: &form.Indirect{Rate: 15_00, Bases: []form.Base{{Heading: "people"}, {Heading: "stock"}}}}
	if set != nil {
		set(q)
	}
	f, err := form.Compile(d)
	if err != nil {
		t.Fatal(err)
	}
	return f, f.Question(kindtest.Key(form.Budget))
}

// lines types lines: "heading | item | quantity unit × each | us own promised in-kind", and more as "column=value".
func typeLines(f *form.Form, q *form.Question, lines ...string) *form.Filled {
	x := &form.Filled{Answers: map[form.Place]form.Answer{}, Files: map[form.Key][]slot.File{}}
	for n, line := range lines {
		parts := strings.Split(line, "|")
		cells := map[form.Key]string{}
		for i, c := range []form.Key{form.ColHeading, form.ColItem, form.ColQuantity, form.ColUnit, form.ColEach, form.ColUs,
			"own", "promised", "in-kind"} {
			if i < len(parts) {
				cells[c] = strings.TrimSpace(parts[i])
			}
		}
		for _, more := range parts[min(9, len(parts)):] {
			k, v, _ := strings.Cut(more, "=")
			cells[form.Key(strings.TrimSpace(k))] = strings.TrimSpace(v)
		}
		for c, v := range cells {
			if v != "" {
				x.Answers[form.Place{Question: q.Key, Row: form.RowKey(n + 1), Column: c}] = form.Answer{Raw: v}
			}
		}
	}
	return x
}

// faults are the obstacles of the budget, as "row column code".
func faults(f *form.Form, q *form.Question, x *form.Filled) (out []string) {
	for _, o := range f.Walk(x).Obstacles {
		if o.Place.Question == q.Key {
			out = append(out, strings.TrimSpace(fmt.Sprint(o.Place.Row, " ", o.Place.Column, " ", o.Code)))
		}
	}
	return out
}

const good = "people|Warden|18|month|1,400|14000|11200"

// What keeps a line from adding up, beside the cell where it is mended.
func TestLinesOfABudget(t *testing.T) {
	for _, c := range []struct {
		name  string
		set   func(*form.Question)
		lines []string
		want  []string
	}{
		{"all is well", nil, []string{good}, nil},
		{"nothing at all", nil, nil, []string{"blank"}},
		{"a heading alone is no line", nil, []string{"people"}, []string{"blank"}},
		{"without a name", nil, []string{"people||1|day|5|5"}, []string{"r0001 item budget-line"}},
		{"the parts are more than it costs", nil, []string{"plant|Excavator|12|day|980|12180"},
			[]string{"r0001 from-us budget-line-over"}},
		{"the parts together are more", nil, []string{"plant|Excavator|12|day|980|180|12000"},
			[]string{"r0001 own budget-divide"}},
		{"nobody pays a part", nil, []string{"plant|Punt|2|season|2670|2670|2000"}, []string{"r0001 from-us budget-divide"}},
		{"a quantity that is none", nil, []string{"plant|Punt|some|season|2670|1"}, []string{"r0001 quantity budget-line"}},
		{"a sum that is none", nil, []string{"plant|Punt|1|season|much|1|x"},
			[]string{"r0001 each budget-line", "r0001 own budget-line"}},
		{"less than nothing", nil, []string{"plant|Punt|1|season|100|-5|105"}, []string{"r0001 from-us budget-line"}},
		{"no price", nil, []string{"plant|Punt|3|season||"}, []string{"r0001 each budget-line"}},
		{"beyond what can be kept", nil, []string{"plant|Punt|99999999|season|99999999|1"},
			[]string{"r0001 quantity budget-line"}},
		{"beyond 64 bits", nil, []string{"plant|Punt|99999999999999999|season|9999999999999|1"},
			[]string{"r0001 quantity budget-line"}},
		{"one of it, where no number is typed", nil, []string{"stock|Plough|||100|100"}, nil},
		{"so many of nothing", nil, []string{"stock|Plough|3||100|300"}, []string{"r0001 unit budget-choice"}},
		{"half a day", nil, []string{"people|Trainer|0.5|day|551|275.50"}, nil},
		{"rounded once, half up", nil, []string{"people|Trainer|0.5|day|0.01|0.01"}, nil},
		{"no heading", nil, []string{"|Punt|1|day|5|5"}, []string{"r0001 heading budget-choice"}},
		{"a heading that was taken away", nil, []string{"boats|Punt|1|day|5|5"}, []string{"r0001 heading budget-choice"}},
		{"no year and no partner", func(q *form.Question) {
			q.Costing.Periods = []form.Option{{Key: "y1", Label: "Year 1"}}
			q.Costing.Partners = []form.Option{{Key: "trust", Label: "Trust"}}
		}, []string{good, good + "||||period=y1|partner=trust"},
			[]string{"r0001 period budget-choice", "r0001 partner budget-choice"}},
		{"a unit that is not offered", func(q *form.Question) {
			q.Costing.Units = []form.Option{{Key: "month", Label: "month"}}
		}, []string{good, "people|Ann|1|moon|5|5"}, []string{"r0002 unit budget-choice"}},
		{"spent before the start", func(q *form.Question) {
			q.Costing.Dated = true
			q.Limits.Else.NotBefore = &form.Day{On: calendar.NewDate(2027, 9, 1)}
		}, []string{good + "||||when=31 August 2027", good + "||||when=1 September 2027", good, good + "||||when=soon"},
			[]string{"r0001 when budget-early", "r0003 when budget-choice", "r0004 when budget-line"}},
		{"one pays the rest", func(q *form.Question) { q.Costing.Sources, q.Costing.Indirect = nil, nil },
			[]string{"stock|Reed|1|lot|900|600|||||payer=own money", "stock|Oak|1|lot|900|600", "stock|Elm|1|lot|900|900"},
			[]string{"r0002 payer budget-payer"}},
		{"quotes under one heading alone", func(q *form.Question) {
			q.Costing.Quotes = &form.Quotes{Above: 1, Headings: []form.Key{"plant"}}
		}, []string{good, "plant|Punt|1|day|5|5"}, []string{"r0002 supplier budget-supplier"}},
		{"quotes from 5,000 on", func(q *form.Question) {
			q.Costing.Quotes = &form.Quotes{Above: 5_000_00, Count: 2, Slot: "paper"}
		}, []string{"plant|Dear|1|piece|5000|5000", "plant|Cheap|1|piece|4999.99|4999.99",
			"plant|Quoted|1|piece|5000|5000|||||supplier=Hallin|quotes=f1\nf2",
			"plant|One|1|piece|6000|6000|||||supplier=Hallin|quotes=f1\nf9",
			"people|Hours|400|hour|20||||8000"},
			[]string{"r0001 supplier budget-supplier", "r0001 quotes budget-quotes", "r0004 quotes budget-quotes"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			f, q := shore(t, c.set)
			x := typeLines(f, q, c.lines...)
			x.Files["paper"] = []slot.File{
				{ID: 1, State: slot.Ready},
				{ID: 2, State: slot.Inspecting},
				{ID: 9, State: slot.Uploading},
			}
			if got := faults(f, q, x); !slices.Equal(got, c.want) {
				t.Errorf("%q, want %q", got, c.want)
			}
		})
	}
}

// What holds of a whole budget, at the very bound and a cent beyond it.
func TestSharesOfABudget(t *testing.T) {
	ask := func(sum string) func(*form.Filled) {
		return func(x *form.Filled) { x.Answers[form.Place{Question: "sum"}] = form.Answer{Raw: sum} }
	}
	bare := func(q *form.Question) { q.Costing.Indirect = nil }
	limits := func(l form.Limits) func(*form.Question) {
		return func(q *form.Question) { bare(q); q.Limits.Else = l }
	}
	for _, c := range []struct {
		name  string
		set   func(*form.Question)
		also  func(*form.Filled)
		lines []string
		want  []string
	}{
		{"it adds up to the request", bare, ask("14000"), []string{good}, nil},
		{"it does not", bare, ask("14000.01"), []string{good}, []string{"budget-request"}},
		{"with what indirect costs come to", nil, ask("17780"), []string{good}, nil},
		{"or without, where the applicant bears them", func(q *form.Question) { q.Costing.Indirect.ByOwn = true },
			ask("14000"),
			[]string{good}, nil},
		{"others pay 20% of the cost", limits(form.Limits{MatchPercent: 20}), nil, []string{"stock|Reed|1|lot|1000|800|200"},
			nil},
		{"a cent less", limits(form.Limits{MatchPercent: 20}), nil, []string{"stock|Reed|1|lot|1000|800.01|199.99"},
			[]string{"budget-match"}},
		{"20% of the cost is 25% of what is asked", limits(form.Limits{MatchOfAsked: 25}), nil,
			[]string{"stock|Reed|1|lot|1000|800|200"}, nil},
		{"and not 26%", limits(form.Limits{MatchOfAsked: 26}), nil, []string{"stock|Reed|1|lot|1000|800|200"},
			[]string{"budget-match-asked"}},
		{"in kind counts up to a tenth", limits(form.Limits{MatchPercent: 20, InKindMost: 10}), nil,
			[]string{"stock|Reed|1|lot|1000|700|100||200"}, nil},
		{"so more of it does not help", limits(form.Limits{MatchPercent: 21, InKindMost: 10}), nil,
			[]string{"stock|Reed|1|lot|1000|700|100||200"}, []string{"budget-match"}},
		{"a heading at its share of the cost", limits(form.Limits{Caps: []form.Cap{{Heading: "plant", Percent: 30,
			Of: form.OfCost}}}), nil,
			[]string{"stock|Reed|1|lot|700|700", "plant|Punt|1|day|300|300"}, nil},
		{"a cent above", limits(form.Limits{Caps: []form.Cap{{Heading: "plant", Percent: 30, Of: form.OfCost}}}), nil,
			[]string{"stock|Reed|1|lot|700|700", "plant|Punt|1|day|300.01|300.01"}, []string{"budget-cap"}},
		{"above its share of what is asked, not of the cost", limits(form.Limits{Caps: []form.Cap{{Heading: "plant",
			Percent: 30, Of: form.OfAsked}}}), nil,
			[]string{"stock|Reed|1|lot|700|0|700", "plant|Punt|1|day|300|300"}, []string{"budget-cap"}},
		{"the cost without indirect costs is less", func(q *form.Question) {
			q.Limits.Else.Caps = []form.Cap{{Heading: "plant", Percent: 30, Of: form.OfCost}}
		}, nil, []string{"stock|Reed|1|lot|600|600", "plant|Punt|1|day|290|290"}, nil},
		{"and of that it is too much", func(q *form.Question) {
			q.Limits.Else.Caps = []form.Cap{{Heading: "plant", Percent: 30, Of: form.OfDirect}}
		}, nil, []string{"stock|Reed|1|lot|600|600", "plant|Punt|1|day|290|290"}, []string{"budget-cap"}},
		{"sums beyond what can be kept", bare, nil, slices.Repeat([]string{"stock|Reed|1|lot|9000000000000|9000000000000"},
			499),
			nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			f, q := shore(t, c.set)
			x := typeLines(f, q, c.lines...)
			if c.also != nil {
				c.also(x)
			}
			if got := faults(f, q, x); !slices.Equal(got, c.want) {
				t.Errorf("%q, want %q", got, c.want)
			}
		})
	}
}

// Goods beside money: each adds up to its own question and has a least and a
// most; what one is worth is what the round says.
func TestGoodsBesideMoney(t *testing.T) {
	least, most := int64(100_00), int64(500_00)
	d := kindtest.Design(form.Budget)
	d.Gifts = []form.Gift{
		{Key: "tree", Label: "Trees", What: "goods", Value: 50_00, Least: &least, Most: &most, Request: "trees"},
		{Key: "place", Label: "Places", What: "place"},
	}
	s := &d.Sections[len(d.Sections)-1]
	trees := s.Questions[0]
	trees.Key = "trees"
	s.Questions = slices.Insert(s.Questions, 1, trees)
	b := &s.Questions[3]
	b.Costing = &form.Costing{Quantities: true, Gives: []form.Key{"tree", "place"}}
	d.Figures = append(d.Figures, form.Figure{Key: "goods", Label: "Goods asked", Op: form.Sum,
		Of: []condition.Ref{{Answer: b.Key, Column: form.GiftSum("tree")}}})
	f, err := form.Compile(d)
	if err != nil {
		t.Fatal(err)
	}
	q := f.Question(b.Key)
	for _, c := range []struct {
		name       string
		sum, trees string
		lines      []string
		want       []string
	}{
		{"money and trees", "600", "150", []string{"a|Work|1|lot|600|600", "a|Oaks|3|tree||150|||||gives=tree"}, nil},
		{"trees at the price they have", "0", "150", []string{"a|Oaks|3|tree|50|150|||||gives=tree"}, nil},
		{"trees at another price", "0", "150", []string{"a|Oaks|3|tree|40|120|||||gives=tree"},
			[]string{"r0001 each budget-value", "budget-request"}},
		{"fewer than are given", "0", "50", []string{"a|Oaks|1|tree||50|||||gives=tree"}, []string{"budget-least"}},
		{"more than are given", "0", "550", []string{"a|Oaks|11|tree||550|||||gives=tree"}, []string{"budget-most"}},
		{"more than were asked for", "0", "100", []string{"a|Oaks|3|tree||150|||||gives=tree"}, []string{"budget-request"}},
		{"trees are not money", "150", "150", []string{"a|Oaks|3|tree||150|||||gives=tree"}, []string{"budget-request"}},
		{"a thing that is not given", "1", "0", []string{"a|Car|1|car|1|1|||||gives=car"},
			[]string{"r0001 gives budget-choice", "budget-request"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			x := typeLines(f, q, c.lines...)
			x.Answers[form.Place{Question: "sum"}], x.Answers[form.Place{Question: "trees"}] = form.Answer{
				Raw: c.sum,
			}, form.Answer{
				Raw: c.trees,
			}
			if got := faults(f, q, x); !slices.Equal(got, c.want) {
				t.Errorf("%q, want %q", got, c.want)
			}
		})
	}
}

// What a budget that adds up comes to, by every sum that figures can read.
func TestSumsOfABudget(t *testing.T) {
	f, q := shore(t, func(q *form.Question) {
		q.Costing.Periods = []form.Option{{Key: "y1", Label: "Year 1"}, {Key: "y2", Label: "Year 2"}}
		q.Costing.Partners = []form.Option{{Key: "trust", Label: "Trust"}}
		q.Costing.Gives = []form.Key{"boat"}
	})
	x := typeLines(f, q, "people|Warden|18|month|1,400|14000|11200|||period=y1|partner=trust",
		"plant|Boat|1|boat|50|50|||||period=y2|partner=trust|gives=boat",
		"stock|Reed|9,000|plug|1.20|6250|4000|550||period=y2|partner=trust")
	st := f.Walk(x).Find(q.Key)
	if st.Totals == nil {
		t.Fatalf("%+v", f.Walk(x).Obstacles)
	}
	want := map[form.Key]int64{"cost": 41_450_00, "from-us": 25_700_00, "match": 15_750_00, "direct": 36_050_00,
		"indirect": 5_400_00, "own": 15_200_00, "promised": 550_00, "in-kind": 0, "heading-people": 25_200_00,
		"heading-plant": 50_00, "heading-stock": 10_800_00, "period-y1": 25_200_00, "period-y2": 10_850_00,
		"partner-trust": 36_050_00, "asked-": 25_650_00, "asked-boat": 50_00}
	got := map[form.Key]int64{}
	for _, o := range f.BudgetSums(q) {
		got[o.Key] = form.BudgetSum(st.Totals, o.Key)
		if o.Label == "" {
			t.Errorf("%s has no name", o.Key)
		}
	}
	for k, n := range want {
		if got[k] != n {
			t.Errorf("%s is %d, want %d", k, got[k], n)
		}
	}
	if len(got) != len(want) {
		t.Errorf("%v", got)
	}
	words := f.Words(q, x, st)
	for _, says := range []string{"People – Warden: 18 month at €1,400, €25,200, of which from us €14,000, own €11,200; Year 1; Trust",
		"Plant – Boat: 1 boat at €50, €50, of which from us €50; A boat; Year 2; Trust",
		"Indirect costs: 15% of €36,000, €5,400", "All: €41,450, from us €25,700, from others €15,750"} {
		if !strings.Contains(words, says) {
			t.Errorf("%q is not in\n%s", says, words)
		}
	}
}

// Designs that cannot be run, and what is said of them.
func TestCostingsThatAreRefused(t *testing.T) {
	for _, c := range []struct {
		set  func(*form.Question)
		says string
	}{
		{func(q *form.Question) { q.Limits.Else.Caps = []form.Cap{{Heading: "boats", Percent: 5}} }, "no heading"},
		{func(q *form.Question) { q.Limits.Else.Caps = []form.Cap{{Heading: "people", Percent: 5, Of: "profit"}} },
			"a cap is a share of"},
		{func(q *form.Question) { q.Limits.Else.Caps = []form.Cap{{Heading: "people", Percent: 101}} }, "between 0 and 100"},
		{func(q *form.Question) { q.Limits.Else.InKindMost = 101 }, "between 0 and 100"},
		{func(q *form.Question) {
			q.Costing.Periods = []form.Option{{Key: "a", Label: "A"}, {Key: "a", Label: "B"}}
		}, "given twice"},
		{func(q *form.Question) { q.Costing.Units = []form.Option{{Key: "a"}} }, "needs a label"},
		{func(q *form.Question) { q.Costing.Sources = []form.Key{"uncle"} }, "nobody pays as"},
		{func(q *form.Question) { q.Costing.Gives = []form.Key{"moon"} }, "nothing that is given"},
		{func(q *form.Question) { q.Costing.Quotes = &form.Quotes{Count: 1, Slot: "sum"} }, "the file slot"},
		{func(q *form.Question) { q.Costing.Quotes.Headings = []form.Key{"moon"} }, "want quotes under"},
		{func(q *form.Question) { q.Costing.Indirect.Rate = 0 }, "a share between"},
		{func(q *form.Question) { q.Costing.Indirect.Bases = nil }, "name the headings"},
		{func(q *form.Question) { q.Costing.Indirect.Bases[0].Heading = "moon" }, "no heading"},
		{func(q *form.Question) { q.Request = "paper" }, "must add up to"},
	} {
		d := kindtest.Design(form.Budget)
		q := &d.Sections[len(d.Sections)-1].Questions[2]
		q.Options = []form.Option{{Key: "people", Label: "People"}}
		q.Costing.Indirect = &form.Indirect{Rate: 5_00, Bases: []form.Base{{Heading: "people"}}}
		c.set(q)
		if _, err := form.Compile(d); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%v, want %q", err, c.says)
		}
	}
}
