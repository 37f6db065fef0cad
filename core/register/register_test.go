package register_test

import (
	"encoding/json"
	"net/url"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/form/kindtest"
	"ulvant/core/refusal"
	"ulvant/core/register"
)

func compile(t testing.TB, d *form.Design) *form.Form {
	t.Helper()
	f, err := form.Compile(d)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// What is known of an answer is of the type of its column, for every kind of
// question there is: read back, it says what the case says.
func TestEveryKindIsKnownAsItsColumnSays(t *testing.T) {
	for _, k := range form.Kinds() {
		t.Run(string(k.Kind), func(t *testing.T) {
			f := compile(t, kindtest.Design(k.Kind))
			q := f.Question(kindtest.Key(k.Kind))
			filled := kindtest.Filled(f, q)
			path := f.Walk(filled)
			columns := register.Of(f)
			c, ok := columns.Find("q." + string(q.Key))
			if q.Keeps() == form.AsPeople {
				if ok {
					t.Fatal("people asked have a column of answers")
				}
				return
			}
			if !ok {
				t.Fatal("it has no column")
			}
			if key, yes := c.Answers(); !yes || key != q.Key {
				t.Fatalf("its column is of %q", key)
			}
			raw, err := json.Marshal(register.Facts(f, filled, path)[c.Fact()])
			if err != nil {
				t.Fatal(err)
			}
			cell := c.ReadCell(raw)
			if path.Find(q.Key).Asked != condition.Yes {
				t.Skip("it is not asked here")
			}
			if st := path.Find(q.Key); st.Presence == condition.Given && cell.Blank() {
				t.Fatalf("what was given is not known: %s", raw)
			}
			if cell.Blank() {
				return
			}
			switch {
			case c.Type.Counts() != (cell.Number != ""), (c.Type == register.Several) != (cell.List != nil):
				t.Errorf("a %s is kept as %s", c.Type, raw)
			case c.Type == register.Choice && !slices.ContainsFunc(c.Options,
				func(o register.Option) bool { return o.Value == cell.Text }):
				t.Errorf("%q is none of its options", cell.Text)
			case c.Say(cell, "EUR", time.UTC, time.Now()) == "":
				t.Errorf("%s says nothing", raw)
			}
			if len(c.Type.Ops()) == 0 {
				t.Errorf("a %s can be asked nothing", c.Type)
			}
		})
	}
}

// A survey is kept apart, what is used without being shown is not shown, and what
// is set aside is not known.
func TestWhatTheRegisterDoesNotKnow(t *testing.T) {
	d := kindtest.Design(form.Short, form.YesNo, form.Number)
	s := &d.Sections[len(d.Sections)-1]
	for i := range s.Questions {
		switch s.Questions[i].Kind {
		case form.Short:
			s.Questions[i].Purpose = form.ForMatching
		case form.Number:
			s.Questions[i].Asked = condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: kindtest.Key(form.YesNo)},
				Rel: condition.Is, Value: &condition.Value{Yes: new(bool)}}} // asked of those who say no
		}
	}
	f := compile(t, d)
	filled := kindtest.Filled(f, f.Question(kindtest.Key(form.Short)), f.Question(kindtest.Key(form.YesNo)),
		f.Question(kindtest.Key(form.Number)))
	columns, facts := register.Of(f), register.Facts(f, filled, f.Walk(filled))
	if _, ok := columns.Find("q.k-short"); ok || facts["q.k-short"] != nil {
		t.Error("what is for matching alone is shown")
	}
	if facts["q.k-number"] != nil {
		t.Errorf("an answer that is set aside is known: %v", facts["q.k-number"])
	}
	if facts["q.k-yesno"] != "yes" {
		t.Errorf("yes is known as %v: %v", facts["q.k-yesno"], facts)
	}
}

// Numbers are plain: shares in parts of a hundred, thirds to four places.
func TestPlain(t *testing.T) {
	for _, c := range []struct {
		t    register.Type
		n    condition.Number
		want string
	}{
		{register.Money, condition.Number{Num: 6400000, Den: 1}, "6400000"}, {register.Number,
			condition.Number{Num: 32, Den: 10}, "3.2"},
		{register.Share, condition.Number{Num: 1, Den: 4}, "25"}, {register.Share, condition.Number{Num: 2, Den: 3},
			"66.6667"},
		{register.Number, condition.Number{Num: -5}, "-5"}, {register.Number, condition.Number{Num: 100, Den: 100}, "1"},
		{register.Number, condition.Number{Num: 0, Den: 3}, "0"},
	} {
		if got := register.Plain(c.t, c.n); got.String() != c.want {
			t.Errorf("%s of %+v: %s, want %s", c.t, c.n, got, c.want)
		}
	}
}

// columns that a practitioner knows.
func known(t testing.TB) register.Columns {
	t.Helper()
	cs := register.Of(compile(t, kindtest.Design(form.Number, form.Date, form.Several, form.Short)))
	for i := range cs {
		switch cs[i].Key {
		case register.KeyCarer:
			cs[i].Options = []register.Option{{Value: "7", Label: "Neda Sparrow", Says: "me"}, {Value: "8", Label: "Jonas Tarn"}}
		}
	}
	return cs
}

// A filter reads back as a sentence.
func TestSentence(t *testing.T) {
	cs := known(t)
	for _, c := range []struct {
		conditions []string
		want       string
	}{
		{nil, "All applications"},
		{[]string{"state~is~draft"}, "Applications that are still being written"},
		{[]string{"state~is~draft", "place~is~Tarl,Sunder+Bay", "asked~least~2000000",
			"letter~is~to+ask,asked,accepted,uploaded,declined"},
			"Applications that are still being written, in Tarl or Sunder Bay, asking €20,000 or more, whose letter has not come"},
		{[]string{"letter~is~uploaded,to+ask"},
			"Applications whose letter is uploaded and not sent or is still to be asked for"},
		{[]string{"state~not~withdrawn,lapsed"}, "Applications that are not withdrawn or lapsed"},
		{[]string{"place~not~Tarl"}, "Applications not in Tarl"},
		{[]string{"carer~is~7"}, "Applications looked after by me"},
		{[]string{"carer~blank~"}, "Applications without an answer to “Looked after by”"},
		{[]string{"labels~is~site+visit,large"}, "Applications labelled site visit or large"},
		{[]string{"sent~within~7"}, "Applications sent in the last 7 days"},
		{[]string{"sent~within~1"}, "Applications sent in the last 1 day"},
		{[]string{"changed~older~14"}, "Applications last changed more than 14 days ago"},
		{[]string{"until~coming~3"}, "Applications to be sent in the next 3 days"},
		{[]string{"sent~from~2027-05-14"}, "Applications sent on 14 May 2027 or later"},
		{[]string{"q.k-number~most~3.5"}, "Applications whose “About number” is 3.5 or less"},
		{[]string{"q.k-date~until~2027-05-14"}, "Applications whose “About date” is on 14 May 2027 or earlier"},
		{[]string{"q.k-several~is~a,b"}, "Applications whose “About several” is Apples or Bread"},
		{[]string{"q.k-short~has~old+hand"}, "Applications whose “About short” has “old hand”"},
		{[]string{"q.k-short~there~"}, "Applications with an answer to “About short”"},
		{[]string{"find~has~eider"}, "Applications with “eider” in title, lead or number"},
		{[]string{"done~least~80"}, "Applications whose “Done” is 80% or more"},
	} {
		var f register.Filter
		for _, text := range c.conditions {
			cond, err := register.ParseCondition(text, cs)
			if err != nil {
				t.Fatalf("%s: %v", text, err)
			}
			f = append(f, cond)
		}
		if got := f.Text(cs, "EUR"); got != c.want {
			t.Errorf("%q reads\n%s, want\n%s", c.conditions, got, c.want)
		}
	}
}

// A shape in an address is read as it was written; what does not hold any more is
// left away and said.
func TestShapeGoesThroughAnAddress(t *testing.T) {
	cs := known(t)
	usual := []string{"lead", "state"}
	for _, s := range []register.Shape{
		{Columns: usual},
		{Columns: []string{"state", "asked", "q.k-number"}, Sort: "asked", Down: true},
		{Columns: usual, Sort: "lead", Filter: register.Filter{{Column: "labels", Op: register.Is,
			Values: []string{"Ó Dálaigh, ~&=", "Tarl"}}, {Column: "sent", Op: register.There}}},
	} {
		v := s.Address(usual)
		again, err := url.ParseQuery(v.Encode())
		if err != nil {
			t.Fatal(err)
		}
		if got := register.Read(again, cs, usual); !reflect.DeepEqual(got, s) {
			t.Errorf("%+v comes back as %+v", s, got)
		}
	}
	lost := register.Read(url.Values{"cols": {"lead,gone,find,lead"}, "if": {"gone~is~a", "state~is~nothing",
		"state~least~3", "x"},
		"sort": {"-gone"}}, cs, usual)
	if !slices.Equal(lost.Columns, []string{"lead"}) || lost.Filter != nil || lost.Sort != "" || len(lost.Lost) != 5 {
		t.Errorf("what does not hold: %+v", lost)
	}
}

// What an officer types is read, or refused with a sentence.
func TestTyped(t *testing.T) {
	cs := known(t)
	for _, c := range []struct {
		col    string
		op     register.Op
		typed  []string
		want   string // values, or the beginning of the refusal
		refuse bool
	}{
		{"asked", register.Least, []string{"20,000"}, "2000000", false},
		{"asked", register.Least, []string{"€20,000.50"}, "2000050", false},
		{"asked", register.Least, []string{"a lot"}, "“a lot” cannot be read as a number", true},
		{"q.k-number", register.Most, []string{"3.5"}, "3.5", false},
		{"done", register.Least, []string{"80%"}, "80", false},
		{"sent", register.From, []string{"14 May 2027"}, "2027-05-14", false},
		{"sent", register.From, []string{"soon"}, "“soon” cannot be read as a date", true},
		{"sent", register.Within, []string{"7"}, "7", false},
		{"sent", register.Within, []string{"-1"}, "“-1” is nothing that", true},
		{"state", register.Is, []string{"draft", "sent"}, "draft,sent", false},
		{"state", register.Is, []string{"lost"}, "“lost” is nothing that", true},
		{"state", register.Is, nil, "Choose or type", true},
		{"state", register.Blank, nil, "", false},
		{"state", register.Least, []string{"3"}, "“Where it is” cannot be asked", true},
	} {
		col, ok := cs.Find(c.col)
		if !ok {
			t.Fatal(c.col)
		}
		got, err := register.Typed(col, c.op, c.typed, "EUR")
		no, refused := refusal.Of(err)
		if refused != c.refuse || err != nil && !refused {
			t.Errorf("%s %s %q: %v", c.col, c.op, c.typed, err)
			continue
		}
		if refused && !strings.HasPrefix(no.Says, c.want) || !refused && strings.Join(got.Values, ",") != c.want {
			t.Errorf("%s %s %q: %q %v, want %q", c.col, c.op, c.typed, got.Values, err, c.want)
		}
	}
}

// Pressing a head orders by it, and again the other way round: figures and times
// begin with the greatest, words with the first.
func TestSorted(t *testing.T) {
	cs := known(t)
	asked, _ := cs.Find("asked")
	lead, _ := cs.Find("lead")
	s := register.Shape{}.Sorted(asked)
	if s.Sort != "asked" || !s.Down {
		t.Errorf("once: %+v", s)
	}
	if s = s.Sorted(asked); s.Down {
		t.Errorf("twice: %+v", s)
	}
	if s = s.Sorted(lead); s.Sort != "lead" || s.Down {
		t.Errorf("another: %+v", s)
	}
}

// Conditions are put in, changed and left away without touching the shape they
// came from.
func TestWithAndWithout(t *testing.T) {
	a, b := register.Condition{Column: "a"}, register.Condition{Column: "b"}
	s := register.Shape{}.With(-1, a).With(-1, b)
	if got := s.With(0, b).Filter; got[0].Column != "b" || s.Filter[0].Column != "a" {
		t.Errorf("changed: %v, from %v", got, s.Filter)
	}
	if got := s.Without(0).Filter; len(got) != 1 || got[0].Column != "b" || len(s.Filter) != 2 {
		t.Errorf("left away: %v, from %v", got, s.Filter)
	}
	if got := s.Without(9).Filter; len(got) != 2 {
		t.Errorf("one that is not there: %v", got)
	}
}

// How a cell reads in the list, and as it is given out.
func TestCells(t *testing.T) {
	now := time.Date(2027, 3, 20, 15, 0, 0, 0, time.UTC)
	zone := time.FixedZone("", 3600)
	money := register.Column{Key: "asked", Type: register.Money}
	choice := register.Column{Key: "state", Type: register.Choice, Options: []register.Option{{Value: "a",
		Label: "Apples"}}}
	moment := register.Column{Key: "sent", Type: register.Moment}
	for _, c := range []struct {
		col       register.Column
		raw       string
		says, out string
	}{
		{money, `6400000`, "€64,000", "64000.00"}, {money, `6400050`, "€64,000.50", "64000.50"},
		{money, `{"non":"not known"}`, "not known", "not known"}, {money, `null`, "", ""},
		{choice, `"a"`, "Apples", "Apples"}, {choice, `"gone"`, "gone", "gone"},
		{register.Column{Type: register.Several, Options: choice.Options}, `["a","b"]`, "Apples, b", "Apples, b"},
		{register.Column{Type: register.Share}, `66.6667`, "67%", "66.6667"},
		{register.Column{Type: register.Number}, `3.20`, "3.2", "3.20"},
		{register.Column{Type: register.Day}, `"2027-05-14"`, "14 May 2027", "2027-05-14"},
		{moment, `"2027-03-20T08:12:00+00:00"`, "today 09:12", "2027-03-20 09:12:00"},
		{moment, `"2027-03-19T22:59:00Z"`, "yesterday", "2027-03-19 23:59:00"},
		{moment, `"2027-03-19T23:01:00Z"`, "today 00:01", "2027-03-20 00:01:00"},
		{moment, `"2027-03-14T08:00:00Z"`, "6 days ago", "2027-03-14 09:00:00"},
		{moment, `"2027-01-14T08:00:00Z"`, "14 Jan 09:00", "2027-01-14 09:00:00"},
		{moment, `"2026-01-14T08:00:00Z"`, "14 Jan 2026", "2026-01-14 09:00:00"},
		{register.Column{Type: register.Words}, `"=2+2"`, "=2+2", "=2+2"},
	} {
		cell := c.col.ReadCell(json.RawMessage(c.raw))
		if got := c.col.Say(cell, "EUR", zone, now); got != c.says {
			t.Errorf("%s %s reads %q, want %q", c.col.Type, c.raw, got, c.says)
		}
		if got := c.col.Export(cell, "EUR", zone).Text(); got != c.out {
			t.Errorf("%s %s is given out as %q, want %q", c.col.Type, c.raw, got, c.out)
		}
	}
}

// No address makes a shape that cannot be written and read again, or a panic.
func FuzzRead(f *testing.F) {
	for _, s := range []string{"cols=lead&if=state~is~draft&sort=-asked", "if=asked~least~1e99",
		"if=sent~within~99999999999",
		"if=q.k-date~from~0000-00-00", "if=%00~is~", "sort=--", "if=place~is~,,%2C"} {
		f.Add(s)
	}
	cs := known(f)
	usual := []string{"lead", "state"}
	f.Fuzz(func(t *testing.T, address string) {
		v, err := url.ParseQuery(address)
		if err != nil {
			return
		}
		s := register.Read(v, cs, usual)
		_ = s.Filter.Text(cs, "EUR")
		s.Lost = nil
		if again := register.Read(s.Address(usual), cs, usual); !reflect.DeepEqual(again, s) {
			t.Errorf("%q: %+v comes back as %+v", address, s, again)
		}
	})
}
