package register_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/form/kindtest"
	"ulvant/core/refusal"
	"ulvant/core/register"
)

// always are columns of every register.
const always = `done|Done|share|The case||averaged
lacks|What stands in the way|several|The case||open
letter|Letter|choice|The case||6 options
carer|Looked after by|choice|The case||open
labels|Labels|several|The case||open
notes|Notes|number|The case|
begun|Begun|moment|Dates|
changed|Last change|moment|Dates|
sent|Sent|moment|Dates|
until|To be sent by|moment|Dates|
nudged|Last nudged|moment|Dates|
verdict|Rules|choice|Checks and reading||3 options
tosettle|Rules to settle|number|Checks and reading|
query|Query|choice|Checks and reading||4 options
readers|Readers|number|Checks and reading|
marks|Marks in|number|Checks and reading|`

// said is a column in a line: key, heading, type, group, unit, and what marks it.
func said(c register.Column) string {
	out := fmt.Sprintf("%s|%s|%s|%s|%s", c.Key, c.Heading, c.Type, c.Group, c.Unit)
	for _, m := range []struct {
		yes  bool
		word string
	}{{c.Once, "averaged"}, {c.Open, "open"}, {c.Hidden, "hidden"}} {
		if m.yes {
			out += "|" + m.word
		}
	}
	if n := len(c.Options); n > 0 {
		out += fmt.Sprintf("|%d options", n)
	}
	return out
}

// with figures of every way in which they can be, or not be, money.
func withFigures() *form.Design {
	d := kindtest.Design()
	ref := func(k form.Key) condition.Ref { return condition.Ref{Answer: k} }
	d.Figures = append(d.Figures,
		form.Figure{Key: "both", Label: "Both sums", Op: form.Sum, Of: []condition.Ref{ref("sum"), ref("k-money")}},
		form.Figure{Key: "mixed", Label: "A sum and a number", Op: form.Sum, Of: []condition.Ref{ref("sum"),
			ref("k-number")}},
		form.Figure{Key: "twice", Label: "Of a figure", Op: form.MostOf, Of: []condition.Ref{{Figure: "both"}}},
		form.Figure{Key: "ones", Label: "Of a column", Op: form.Sum, Of: []condition.Ref{{Answer: "k-rows", Column: "one"}}},
		form.Figure{Key: "part", Label: "The share", Op: form.Share, Of: []condition.Ref{ref("sum"), ref("k-money")}},
		form.Figure{Key: "rows", Label: "How many", Op: form.CountWhere, Of: []condition.Ref{ref("k-rows")}},
		form.Figure{Key: "months", Label: "How long", Op: form.MonthsTo, Of: []condition.Ref{ref("k-date"),
			{Date: form.Closes}}},
		form.Figure{Key: "age", Label: "How old", Op: form.AgeOn, Of: []condition.Ref{ref("k-date"), {Date: form.Closes}}})
	return d
}

// Which columns there are: of every case, of the kinds of questions, of figures.
// Money is what is all of money; a share is averaged; nothing of a survey or of
// people asked is there.
func TestColumns(t *testing.T) {
	f := compile(t, withFigures())
	cs := register.Of(f)
	for _, want := range strings.Split(strings.TrimSpace(`
find|Title, lead or number|words|The case||hidden
lead|Lead|words|The case|
mail|Lead’s address|words|The case|
title|Title|words|The case|
state|Where it is|choice|The case||22 options
move|Whose move|choice|The case||5 options
place|District|choice|The case||6 options
`+always+`
score|Mean score|number|Checks and reading||averaged
asked|Asked|money|Money|
given|Awarded|money|Money|
charged|Fee|money|Money|
paid|Fee paid|money|Money|
q.registered-number|Its registered number|words|For reports|
q.area|How much ground is repaired?|number|Answers|ha
q.budget|Costs, line by line|money|Answers|
m.budget|Others pay, of “Costs, line by line”|share|Answers||averaged
q.k-short|About short|words|Answers|
q.k-long|About long|words|Answers|
q.k-choice|About choice|choice|Answers||2 options
q.k-yesno|About yesno|choice|Answers||2 options
q.k-several|About several|several|Answers||2 options
q.k-ranked|About ranked|several|Answers||2 options
q.k-keywords|About keywords|several|Answers||2 options
q.k-pick|About pick|choice|Answers||2 options
q.k-grade|About grade|words|Answers|
q.k-number|About number|number|Answers|
q.k-percent|About percent|share|Answers||averaged
q.k-money|About money|money|Answers|
q.k-date|About date|day|Answers|
q.k-names|About names|words|Answers|
q.k-contact|About contact|words|Answers|
q.k-address|About address|words|Answers|
q.k-phone|About phone|words|Answers|
q.k-mail|About mail|words|Answers|
q.k-link|About link|words|Answers|
q.k-identifier|About identifier|words|Answers|
q.k-counts|About counts|number|Answers|
q.k-rows|About rows|number|Answers|rows
q.k-years|About years|number|Answers|rows
q.k-budget|About budget|money|Answers|
m.k-budget|Others pay, of “About budget”|share|Answers||averaged
q.k-aid|About aid|number|Answers|rows
q.k-declared|About declared|words|Answers|
q.k-file|About file|number|Answers|files
q.k-pages|About pages|words|Answers|
q.k-stream|About stream|choice|Answers||2 options
q.k-applicant|About applicant|choice|Answers||2 options
q.k-awards|About awards|several|Answers||2 options
q.k-award-order|About award-order|several|Answers||2 options
q.k-fees|About fees|money|Answers|
q.k-signer|About signer|words|Answers|
q.k-declaration|About declaration|choice|Answers||2 options
q.k-signature|About signature|words|Answers|
f.whole-cost|the whole cost|money|Figures|
f.our-share|our share of the cost|share|Figures||averaged
f.both|Both sums|money|Figures|
f.ones|Of a column|money|Figures|
f.part|The share|share|Figures||averaged
f.rows|How many|number|Figures|
f.months|How long|number|Figures|months
f.age|How old|number|Figures|years`), "\n") {
		key, _, _ := strings.Cut(want, "|")
		c, ok := cs.Find(key)
		if !ok || said(c) != want {
			t.Errorf("%s, want %s", said(c), want)
		}
	}
	if n := 103; len(cs) != n {
		t.Errorf("%d columns, want %d", len(cs), n)
	}
	var all []string
	for _, c := range register.Of(nil) {
		all = append(all, said(c))
	}
	if got, want := strings.Join(all, "\n"), strings.TrimSpace(`
find|Title, lead or number|words|The case||hidden
lead|Lead|words|The case|
mail|Lead’s address|words|The case|
title|Title|words|The case|
state|Where it is|choice|The case||22 options
move|Whose move|choice|The case||5 options
round|Round|choice|The case||open
place|Place or field|choice|The case||open
`+always+``); got != want {
		t.Errorf("over all rounds\n%s", got)
	}
	if got := register.Default(f); !slices.Equal(got, []string{"lead", "place", "state", "done", "letter", "asked",
		"changed"}) {
		t.Errorf("usual are %v", got)
	}
	if got := register.Default(nil); !slices.Equal(got, []string{"round", "lead", "place", "state", "changed"}) {
		t.Errorf("usual over all rounds are %v", got)
	}
}

// A round that asks for no sum, no letter, no fee and marks nothing has no columns
// for them, and one of two stages says at which a case is.
func TestColumnsFollowTheDesign(t *testing.T) {
	d := kindtest.Design(form.Short)
	d.Request, d.Fees, d.Criteria, d.Listed, d.Awards = "", nil, nil, form.Listing{}, nil
	d.Field = ""
	d.ReadersEach = 1
	d.Criteria = []form.Criterion{{Key: "all", Label: "All of it", Weight: 100, Steps: []string{"no", "yes"}}}
	var sections []form.Section
	for _, s := range d.Sections {
		if s.Key == kindtest.Section {
			sections = append(sections, s)
		}
	}
	d.Sections, d.Rules, d.Figures, d.Bodies = sections, nil, nil, nil
	cs := register.Of(compile(t, d))
	for _, key := range []string{"asked", "letter", "charged", "paid", "stage"} {
		if c, ok := cs.Find(key); ok {
			t.Errorf("there is a column %s", said(c))
		}
	}
	if c, _ := cs.Find("place"); said(c) != "place|Place or field|choice|The case||open" {
		t.Errorf("nothing is listed, and there is %s", said(c))
	}
	if got := register.Default(compile(t, d)); !slices.Equal(got, []string{"lead", "place", "state", "done", "changed"}) {
		t.Errorf("usual are %v", got)
	}
	for _, g := range register.Groups {
		for _, c := range cs.In(g) {
			if c.Group != g {
				t.Errorf("%s stands among %s", said(c), g)
			}
		}
	}
	if n := len(cs.In(register.OfAnswers)); n != 3 {
		t.Errorf("%d answers, want the sum, the paper and the short text", n)
	}
}

// How many values and conditions there may be, and how far days reach.
func TestBoundsOfConditions(t *testing.T) {
	cs := known(t)
	labels := func(n int) string {
		var out []string
		for i := range n {
			out = append(out, fmt.Sprintf("l%d", i))
		}
		return "labels~is~" + strings.Join(out, ",")
	}
	for _, c := range []struct {
		text string
		ok   bool
	}{
		{labels(1), true}, {labels(register.MostValues), true}, {labels(register.MostValues + 1), false},
		{"labels~is~", false},
		{"labels~not~a,b", true}, {"title~has~a,b", false}, {"title~has~a", true},
		{"title~has~" + strings.Repeat("x", 200), true},
		{"title~has~" + strings.Repeat("x", 201), false}, {"sent~within~0", true}, {"sent~within~-1", false},
		{"sent~within~3660", true}, {"sent~within~3661", false}, {"asked~least~1e15", false}, {"asked~least~-1e15", false},
		{"asked~least~999999999999999", true}, {"asked~least~x", false}, {"sent~from~2027-02-30", false},
		{"sent~from~2027-02-28", true},
		{"state~there~", true}, {"state~there~draft", true}, {"state~is~draft,draft", true}, {"state~is", false},
		{"~~", false},
	} {
		cond, err := register.ParseCondition(c.text, cs)
		if (err == nil) != c.ok {
			t.Errorf("%.60s: %v", c.text, err)
		}
		if _, said := refusal.Of(err); err != nil && !said {
			t.Errorf("%.60s fails: %v", c.text, err)
		}
		if c.text == "state~is~draft,draft" && len(cond.Values) != 1 {
			t.Errorf("one value twice is %v", cond.Values)
		}
		if c.text == "state~there~draft" && cond.Values != nil {
			t.Errorf("what needs no value has %v", cond.Values)
		}
	}
	col, _ := cs.Find("labels")
	many := strings.Split(strings.TrimPrefix(labels(register.MostValues+1), "labels~is~"), ",")
	if _, err := register.Typed(col, register.Is, many[:register.MostValues], "EUR"); err != nil {
		t.Errorf("60 values: %v", err)
	}
	if _, err := register.Typed(col, register.Is, many, "EUR"); err == nil {
		t.Error("61 values are taken")
	}
	v := map[string][]string{"if": slices.Repeat([]string{"state~is~draft"}, register.MostConditions+1)}
	if s := register.Read(v, cs, nil); len(s.Filter) != register.MostConditions {
		t.Errorf("%d conditions", len(s.Filter))
	}
}

// A condition that is changed shows what was typed.
func TestSaid(t *testing.T) {
	cs := known(t)
	for text, want := range map[string]string{"asked~least~2000050": "20,000.50", "sent~from~2027-05-14": "14 May 2027",
		"sent~within~7": "7", "q.k-number~most~3.5": "3.5", "place~is~Tarl,Hallin": "", "state~there~": ""} {
		c, err := register.ParseCondition(text, cs)
		if err != nil {
			t.Fatal(text, err)
		}
		col, _ := cs.Find(c.Column)
		if got := c.Said(col, "EUR"); got != want {
			t.Errorf("%s is typed %q, want %q", text, got, want)
		}
	}
}
