package pathtable_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/pathtable"
	"ulvant/core/pattern"
	"ulvant/core/slot"
)

// small is a form of one page that can be reckoned by hand: clubs put a plan in,
// single persons name two who vouch and one who signs; entry costs clubs €30 and
// others €10, and a supper is to be had besides.
func small(t *testing.T) *form.Form {
	t.Helper()
	day := func(m, d, h int) calendar.Wall {
		return calendar.At(calendar.NewDate(2027, 1, 1).AddMonths(m-1).AddDays(d-1), h, 0)
	}
	d := pattern.Grants(pattern.Settings{Key: "small-2027", Name: "Small", Programme: "Small", Prefix: "SML",
		Contact: "a@b.example", Zone: "Europe/Dublin", Currency: "EUR",
		Fund: 20_000_000, Least: 200_000, Most: 8_000_000, ReadersEach: 2, HoldMinutes: 30,
		Opens: day(3, 1, 9), Closes: day(4, 9, 16), ChecksBy: day(4, 20, 17), ReadingEnds: day(5, 7, 17), AnswerOn: day(5,
			21, 12), WorkFrom: calendar.NewDate(2027, 7, 1)})
	is := func(v string) condition.Cond {
		return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "who"}, Rel: condition.Is,
			Value: &condition.Value{Text: v}}}
	}
	q := func(k form.Key, kind form.Kind, change func(*form.Question)) form.Question {
		x := form.Question{Key: k, Kind: kind, Label: string(k), Nature: form.Fact, Seen: form.ToOffice, Blank: form.Required}
		if change != nil {
			change(&x)
		}
		return x
	}
	d.Sections = []form.Section{{Key: "all", Label: "All of it", Questions: []form.Question{
		q("who", form.Choice, func(x *form.Question) {
			x.Options = []form.Option{{Key: "club", Label: "A club"}, {Key: "person", Label: "One person"}}
		}),
		q("plan", form.File, func(x *form.Question) {
			x.Asked = is("club")
			x.Limits.Else.Slot = &slot.Limits{SizeMost: 1 << 20, PagesMost: 4}
		}),
		q("vouch", form.Referee, func(x *form.Question) { x.Asked, x.Limits.Else.Referees = is("person"), 2 }),
		q("sign", form.Signatory, func(x *form.Question) { x.Asked = is("person") }),
		q("text", form.Long, func(x *form.Question) {
			x.Limits = form.Cases[form.Limits]{When: []form.Case[form.Limits]{{If: is("club"), Then: form.Limits{Words: 144}}},
				Else: form.Limits{Words: 3}}
		}),
		q("picks", form.Several, func(x *form.Question) {
			x.Options, x.Limits.Else.PickMost = []form.Option{{Key: "a", Label: "A"}, {Key: "b", Label: "B"}}, 1
		}),
		q("fees", form.Fees, nil),
	}}}
	d.Fees = []form.Fee{
		{Key: "entry", Label: "Entry", What: "entry",
			Price: form.Cases[form.Price]{When: []form.Case[form.Price]{{If: is("club"), Then: form.Price{Amount: 3_000}}},
				Else: form.Price{Amount: 1_000}}},
		{Key: "supper", Label: "Supper", What: "extra", Most: 3,
			Price: form.Cases[form.Price]{Else: form.Price{Amount: 1_500}}}}
	d.Request, d.Listed.Question = "", ""
	d.Rules = nil
	f, _ := form.Draft(d)
	return f
}

// Reckoned by hand. A choice half a minute, a file ten, a text of 144 words 9.6,
// several a minute, fees two: 23.1, which is 24 begun; for a person 0.5 + 10 + 5 +
// 2 + 1 + 2 = 20.5, which is 21 begun.
func TestATableByHand(t *testing.T) {
	f := small(t)
	tb := pathtable.Make(context.Background(), f, nil, dice())
	if len(tb.Columns) != 2 {
		t.Fatalf("%d columns: %+v", len(tb.Columns), tb.Columns)
	}
	club := slices.IndexFunc(tb.Columns, func(c pathtable.Column) bool { return strings.Contains(c.Name, "club") })
	person := 1 - club
	for name, c := range map[string]struct {
		of   int
		want pathtable.Totals
	}{
		"a club": {club, pathtable.Totals{Questions: 5, Papers: 1, Minutes: 24, FeeLeast: 3_000, FeeMost: 3_000}},
		"one person": {person, pathtable.Totals{Questions: 6, Letters: 2, Confirmations: 1, Minutes: 21, FeeLeast: 1_000,
			FeeMost: 1_000}},
	} {
		got := tb.Columns[c.of].Totals
		if got.Questions != c.want.Questions || got.Papers != c.want.Papers || got.Letters != c.want.Letters ||
			got.Confirmations != c.want.Confirmations ||
			got.Minutes != c.want.Minutes || got.FeeLeast != c.want.FeeLeast || got.FeeMost != c.want.FeeMost {
			t.Errorf("%s: %+v, want %+v", name, got, c.want)
		}
	}
	for key, want := range map[form.Key][2]string{ // of a club, of a person
		"who": {"must", "must"}, "plan": {"must 4 pages", "not"}, "vouch": {"not", "must 2 people"}, "sign": {"not", "must"},
		"text": {"must 144 words", "must 3 words"}, "picks": {"must Pick at most 1", "must Pick at most 1"},
	} {
		r := row(t, tb, key)
		for i, at := range []int{club, person} {
			if got := strings.TrimSpace(string(r.Cells[at].State) + " " + r.Cells[at].Limit); got != want[i] {
				t.Errorf("%s: %q, want %q", key, got, want[i])
			}
		}
		if differs := want[0] != want[1]; r.Differs != differs {
			t.Errorf("%s differs: %v", key, r.Differs)
		}
		if limits := key == "text"; r.Limits != limits {
			t.Errorf("the limits of %s differ: %v", key, r.Limits)
		}
	}
	sheet := strings.Split(strings.TrimSpace(tb.Sheet("EUR").CSV()), "\n")
	var tail []string
	for _, line := range sheet[len(sheet)-6:] {
		cells := strings.Split(strings.ReplaceAll(line, `"fee, EUR at the most"`, "fee"), ",")
		tail = append(tail, cells[1]+" "+cells[2+club]+" "+cells[2+person])
	}
	want := []string{"questions that must be answered 5 6", "files 1 0", "letters 0 2", "confirmations 0 1", "fee 30 10",
		"minutes, about"}
	if !slices.Equal(tail[:5], want[:5]) || !strings.Contains(sheet[len(sheet)-1], "24") ||
		!strings.Contains(sheet[len(sheet)-1], "21") {
		t.Errorf("the sheet ends with %q", tail)
	}
	if len(sheet) != 1+len(tb.Rows)+6 {
		t.Errorf("%d lines for %d rows", len(sheet), len(tb.Rows))
	}
}

// What somebody will need who has answered so far.
func TestNeedByHand(t *testing.T) {
	f := small(t)
	tb := pathtable.Make(context.Background(), f, nil, dice())
	need := func(answer string) pathtable.Need {
		x := &form.Filled{Answers: map[form.Place]form.Answer{}}
		if answer != "" {
			x.Answers[form.Place{Question: "who"}] = form.Answer{Raw: answer}
		}
		return tb.Need(f, tb.Possible(f.Walk(x)))
	}
	for answer, want := range map[string]struct {
		kinds, least, most, mustLeast, mustMost int
		feeLeast, feeMost                       int64
		plan, vouch, who                        pathtable.State
		have                                    int
	}{
		"":       {2, 21, 24, 5, 6, 1_000, 3_000, pathtable.May, pathtable.May, pathtable.Must, 4},
		"club":   {1, 24, 24, 5, 5, 3_000, 3_000, pathtable.Must, pathtable.Not, pathtable.Must, 2},
		"person": {1, 21, 21, 6, 6, 1_000, 1_000, pathtable.Not, pathtable.Must, pathtable.Must, 3},
	} {
		n := need(answer)
		if len(n.Kinds) != want.kinds || n.MinutesLeast != want.least || n.MinutesMost != want.most ||
			n.MustLeast != want.mustLeast || n.MustMost != want.mustMost || n.FeeLeast != want.feeLeast ||
			n.FeeMost != want.feeMost {
			t.Errorf("%q: %+v", answer, n)
		}
		if n.Asked["plan"] != want.plan || n.Asked["vouch"] != want.vouch || n.Asked["who"] != want.who {
			t.Errorf("%q: asked %v", answer, n.Asked)
		}
		if len(n.Have) != want.have {
			t.Errorf("%q: to have ready: %+v", answer, n.Have)
		}
		for _, h := range n.Have {
			if h.Sure != (answer != "" || strings.Contains(h.Says, "text")) {
				t.Errorf("%q: %+v", answer, h)
			}
		}
	}
	if n := tb.Need(f, nil); len(n.Kinds) != 0 || n.Asked["who"] != pathtable.Not {
		t.Errorf("of nobody: %+v", n)
	}
}
