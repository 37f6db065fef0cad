package form_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/form/kindtest"
)

// What a kind says of itself to others is what the walk does with it: an
// example meets the limits, each bound is where the walk begins to refuse, and a
// value is typed as it is read.
func TestWhatKindsSayIsWhatTheWalkDoes(t *testing.T) {
	for _, info := range form.Kinds() {
		t.Run(string(info.Kind), func(t *testing.T) {
			f, err := form.Compile(kindtest.Design(info.Kind))
			if err != nil {
				t.Fatal(err)
			}
			q := f.Question(kindtest.Key(info.Kind))
			filled := kindtest.Filled(f, q)
			given := f.Walk(filled).Find(q.Key)
			if given.Presence != condition.Given || given.Faults > 0 {
				t.Fatalf("its own example: %+v", given)
			}
			if empty := f.Walk(kindtest.Filled(f)).Find(q.Key); empty.Faults == 0 && empty.Fees == nil {
				t.Error("left empty nothing stands in the way")
			}
			if said := f.Words(q, filled, given); q.Written() == (said == "") {
				t.Errorf("said as %q", said)
			}
			if !f.Possible(q, q.Limits.Else) || q.Tenths(q.Limits.Else) < 5 {
				t.Error("limits that its example meets are impossible, or it takes no time")
			}
			places(t, f, q, filled)
			values(t, f, q)
		})
	}
}

// places: what is answered may be kept where it is, and nowhere else.
func places(t *testing.T, f *form.Form, q *form.Question, filled *form.Filled) {
	t.Helper()
	for at := range filled.Answers {
		if says := f.Accepts(at); at.Question == q.Key && says != "" {
			t.Errorf("%v: %s", at, says)
		}
	}
	for _, at := range []form.Place{{Question: q.Key, Column: "nowhere"},
		{Question: q.Key, Row: "r0001", Column: "nowhere"},
		{Question: q.Key, Row: "x"}} {
		if says := f.Accepts(at); says == "" || !strings.HasSuffix(says, ".") {
			t.Errorf("%v is taken: %q", at, says)
		}
	}
	for _, c := range f.Cells(q) {
		if f.Accepts(form.Place{Question: q.Key, Row: form.RowKey(form.MostRows), Column: c}) == "" {
			t.Errorf("a row too many is taken in %s", c)
		}
		if says := f.Accepts(form.Place{Question: q.Key, Row: form.RowKey(form.MostRows - 1), Column: c}); says != "" {
			t.Errorf("the last row in %s: %s", c, says)
		}
	}
	if plain := f.Accepts(form.Place{Question: q.Key}) == ""; plain != (q.Keeps() == form.InText) {
		t.Errorf("a text is taken: %v", plain)
	}
}

// values are typed as they are read, and cover what conditions read.
func values(t *testing.T, f *form.Form, q *form.Question) {
	t.Helper()
	v := f.Values(q)
	if form.KindOf(q.Kind).Compared && v.Of == form.Opaque {
		t.Fatal("conditions read it, and nothing is known of its values")
	}
	for _, k := range v.Keys {
		if form.LabelOf(f.Options(q), k) == k {
			t.Errorf("%q has no label", k)
		}
	}
	if q.Keeps() != form.InText {
		return
	}
	typed := slices.Clone(v.Listed)
	if v.Of == form.Numbers {
		for _, n := range []int64{v.Low, v.High, min(max(v.Low, 1), v.High), min(max(v.Low, 1234), v.High)} {
			typed = append(typed, q.ValueOf(n))
		}
	}
	for _, want := range typed {
		raw := f.Typed(q, want)
		got, ok := f.Read(q, raw)
		a, _ := json.Marshal(got)
		b, _ := json.Marshal(want)
		equal := string(a) == string(b) || got.Number != nil && want.Number != nil && got.Number.Compare(*want.Number) == 0
		if !ok || !equal {
			t.Errorf("%s is typed %q and read as %s", b, raw, a)
		}
	}
}

// Each bound of each kind is where the walk begins to refuse.
func TestBoundsAreWhereTheWalkRefuses(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	for _, c := range []struct {
		name   string
		kind   form.Kind
		scale  int
		limits form.Limits
		bounds int
	}{
		{"a number from", form.Number, 0, form.Limits{Least: n(3)}, 1},
		{"a number up to, with decimals", form.Number, 2, form.Limits{Most: n(350)}, 1},
		{"a number from and up to", form.Number, 1, form.Limits{Least: n(-5), Most: n(5)}, 2},
		{"a sum from and up to", form.Money, 0, form.Limits{Least: n(1_001), Most: n(500_000)}, 2},
		{"a percentage is at most the whole", form.Percent, 0, form.Limits{}, 1},
		{"a percentage up to half", form.Percent, 1, form.Limits{Most: n(500)}, 1},
		{"a percentage beyond the whole", form.Percent, 0, form.Limits{Most: n(150)}, 1},
		{"a date not before", form.Date, 0, form.Limits{NotBefore: &form.Day{Key: form.Closes}}, 1},
		{"a date not after", form.Date, 0, form.Limits{NotAfter: &form.Day{Key: form.Opens}}, 1},
		{"a date not older than", form.Date, 0, form.Limits{MonthsOld: 6}, 1},
		{"a number without limits", form.Number, 0, form.Limits{}, 0},
		{"a date without limits", form.Date, 0, form.Limits{}, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := kindtest.Design(c.kind)
			s := &d.Sections[len(d.Sections)-1]
			q := &s.Questions[len(s.Questions)-1]
			q.Scale, q.Limits.Else = c.scale, c.limits
			f, err := form.Compile(d)
			if err != nil {
				t.Fatal(err)
			}
			bounds := f.Bounds(q, c.limits)
			if len(bounds) != c.bounds {
				t.Fatalf("%d bounds: %+v", len(bounds), bounds)
			}
			refused := func(at int64) bool {
				raw := f.Typed(q, q.ValueOf(at))
				answers := map[form.Place]form.Answer{{Question: q.Key}: {Raw: raw}}
				return f.Walk(&form.Filled{Answers: answers, Lead: form.ExampleLead}).Find(q.Key).Faults > 0
			}
			for _, b := range bounds {
				out := int64(1)
				if b.Low {
					out = -1
				}
				if refused(b.At) || !refused(b.At+out) {
					t.Errorf("%s at %d: refused there %v, beyond %v", b.Member, b.At, refused(b.At), refused(b.At+out))
				}
			}
			if raw := f.Example(q, c.limits); f.Walk(&form.Filled{Lead: form.ExampleLead,
				Answers: map[form.Place]form.Answer{{Question: q.Key}: {Raw: raw}}}).Find(q.Key).Faults > 0 {
				t.Errorf("its example %q is refused", raw)
			}
		})
	}
}

// Limits that nothing can meet are told from those that something can.
func TestPossibleLimits(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	day := func(k form.Key) *form.Day { return &form.Day{Key: k} }
	for _, c := range []struct {
		name   string
		kind   form.Kind
		limits form.Limits
		want   bool
	}{
		{"none", form.Number, form.Limits{}, true},
		{"one number", form.Number, form.Limits{Least: n(5), Most: n(5)}, true},
		{"least above most", form.Number, form.Limits{Least: n(6), Most: n(5)}, false},
		{"of money too", form.Money, form.Limits{Least: n(6), Most: n(5)}, false},
		{"of counts too", form.Counts, form.Limits{Least: n(6), Most: n(5)}, false},
		{"of shares too", form.Percent, form.Limits{Least: n(6), Most: n(5)}, false},
		{"words that just fit", form.Long, form.Limits{LeastWords: 3, Characters: 5}, true},
		{"words that do not", form.Long, form.Limits{LeastWords: 3, Characters: 4}, false},
		{"as many as there are", form.Several, form.Limits{PickLeast: 2}, true},
		{"more than there are", form.Several, form.Limits{PickLeast: 3}, false},
		{"at least more than at most", form.Several, form.Limits{PickLeast: 2, PickMost: 1}, false},
		{"ranked", form.Ranked, form.Limits{PickLeast: 3}, false},
		{"keywords of the list", form.Keywords, form.Limits{PickLeast: 2, PickMost: 2}, true},
		{"more keywords than the list has", form.Keywords, form.Limits{PickLeast: 3}, false},
		{"awards", form.AwardPick, form.Limits{PickLeast: 3}, false},
		{"dates that cross", form.Date, form.Limits{NotBefore: day(form.Closes), NotAfter: day(form.Opens)}, false},
		{"dates that do not", form.Date, form.Limits{NotBefore: day(form.Opens), NotAfter: day(form.Closes)}, true},
		{"one day", form.Date, form.Limits{NotBefore: day(form.Opens), NotAfter: day(form.Opens)}, true},
		{"others pay nearly all", form.Budget, form.Limits{MatchPercent: 99}, true},
		{"others pay everything", form.Budget, form.Limits{MatchPercent: 100}, false},
		{"caps that leave room", form.Budget, form.Limits{Caps: []form.Cap{{Heading: "a", Percent: 40},
			{Heading: "b", Percent: 60}}}, true},
		{"caps that leave none", form.Budget, form.Limits{Caps: []form.Cap{{Heading: "a", Percent: 40},
			{Heading: "b", Percent: 59}}}, false},
		{"one cap", form.Budget, form.Limits{Caps: []form.Cap{{Heading: "a", Percent: 1}}}, true},
		{"caps of the cost", form.Budget, form.Limits{Caps: []form.Cap{{Heading: "a", Percent: 40, Of: form.OfCost},
			{Heading: "b", Percent: 59, Of: form.OfDirect}}}, true},
		{"caps of the direct cost that leave none", form.Budget, form.Limits{Caps: []form.Cap{
			{Heading: "a", Percent: 40, Of: form.OfDirect}, {Heading: "b", Percent: 59, Of: form.OfDirect}}}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := kindtest.Design(c.kind)
			s := &d.Sections[len(d.Sections)-1]
			s.Questions[len(s.Questions)-1].Costing = nil
			f, err := form.Compile(d)
			if err != nil {
				t.Fatal(err)
			}
			if got := f.Possible(f.Question(kindtest.Key(c.kind)), c.limits); got != c.want {
				t.Errorf("%v", got)
			}
		})
	}
}

// Indirect costs of 10% stand under no heading: headings that together take
// 91% of what is asked leave room, 90% do not; where the applicant bears them
// they take nothing of it, but of the cost they do.
func TestCapsBesideIndirectCosts(t *testing.T) {
	for _, c := range []struct {
		percent int64
		of      form.CapOf
		own     bool
		want    bool
	}{{51, form.OfAsked, false, true}, {50, form.OfAsked, false, false}, {59, form.OfAsked, true, false},
		{51, form.OfCost, true, true}, {50, form.OfCost, false, false}, {59, form.OfDirect, false, false}} {
		f, err := form.Compile(kindtest.Design(form.Budget))
		if err != nil {
			t.Fatal(err)
		}
		q := f.Question(kindtest.Key(form.Budget))
		q.Costing.Indirect.ByOwn = c.own
		if got := f.Possible(q, form.Limits{Caps: []form.Cap{{Heading: "a", Percent: 40, Of: c.of},
			{Heading: "b", Percent: c.percent, Of: c.of}}}); got != c.want {
			t.Errorf("%+v: %v", c, got)
		}
	}
}

// An example budget adds up to what is asked, keeps to its caps and lets others
// pay their share.
func TestExampleBudgets(t *testing.T) {
	for _, c := range []struct {
		name   string
		ask    string
		limits form.Limits
	}{
		{"no limits", "5000", form.Limits{}},
		{"nothing asked", "0", form.Limits{}},
		{"a cap on the first heading", "5000", form.Limits{Caps: []form.Cap{{Heading: "a", Percent: 30}}}},
		{"caps on both", "1000.01", form.Limits{Caps: []form.Cap{{Heading: "a", Percent: 30}, {Heading: "b", Percent: 71}}}},
		{"others pay a third", "1000.01", form.Limits{MatchPercent: 33}},
		{"others pay nearly all", "7", form.Limits{MatchPercent: 99, Caps: []form.Cap{{Heading: "b", Percent: 50}}}},
		{"others pay two thirds of what is asked", "1000.01", form.Limits{MatchOfAsked: 67, InKindMost: 10}},
		{"of the cost", "64000", form.Limits{MatchPercent: 20,
			Caps: []form.Cap{{Heading: "a", Percent: 80, Of: form.OfCost}}}},
	} {
		for _, costed := range []bool{false, true} {
			t.Run(c.name+strings.Repeat(", with all a line can hold", map[bool]int{true: 1}[costed]), func(t *testing.T) {
				d := kindtest.Design(form.Budget)
				s := &d.Sections[len(d.Sections)-1]
				budget := &s.Questions[len(s.Questions)-1]
				if budget.Limits.Else = c.limits; !costed {
					budget.Costing = nil
				}
				f, err := form.Compile(d)
				if err != nil {
					t.Fatal(err)
				}
				q := f.Question(kindtest.Key(form.Budget))
				x := kindtest.Filled(f)
				x.Answers[form.Place{Question: "sum"}] = form.Answer{Raw: c.ask}
				if !f.Complete(x, q, f.Walk(x).Find(q.Key)) {
					t.Fatal("nothing was filled in")
				}
				if st := f.Walk(x).Find(q.Key); st.Faults > 0 || st.Totals == nil {
					t.Errorf("%+v", st)
				}
				if f.Complete(x, q, f.Walk(x).Find(q.Key)) {
					t.Error("it is filled in twice")
				}
			})
		}
	}
}

// Lists show a choice of one; what picks several, or types, they cannot show.
func TestWhatListsCanShow(t *testing.T) {
	for kind, want := range map[form.Kind]bool{form.Choice: true, form.Pick: true, form.StreamPick: true,
		form.Several:  false,
		form.Keywords: false, form.Ranked: false, form.Short: false, form.Counts: false, form.Money: false} {
		d := kindtest.Design(kind)
		d.Listed = form.Listing{Question: kindtest.Key(kind), Heading: "What"}
		if _, err := form.Compile(d); (err == nil) != want {
			t.Errorf("%s: %v", kind, err)
		}
	}
}
