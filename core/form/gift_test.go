package form

import (
	"strings"
	"testing"

	"ulvant/core/condition"
)

// How much of each gift an application asks: of pieces a number, of money a sum, else what
// its budget gives them.
func TestGiftsAsked(t *testing.T) {
	f := &Form{Design: &Design{}, index: map[Key]int{}}
	put := func(k Key, kind Kind) {
		f.index[k] = len(f.questions)
		f.questions = append(f.questions, question{def: &Question{Key: k, Kind: kind}})
	}
	put("days", Number)
	put("travel-sum", Money)
	f.Design.Gifts = []Gift{{Key: "digger", What: "goods", Value: 450_00, Request: "days"},
		{Key: "travel", What: "money", Request: "travel-sum"},
		{Key: "oak", What: "goods", Value: 180_00, Request: "travel-sum"}, {Key: "bench", What: "place"}}
	number := func(n, d int64) condition.Value { return condition.Value{Number: &condition.Number{Num: n, Den: d}} }
	for _, c := range []struct {
		says string
		of   []QuestionState
		want map[Key]int64
	}{
		{"a number of pieces, and a sum that buys pieces of oak too", []QuestionState{{Key: "days", Asked: condition.Yes,
			Presence: condition.Given, Value: number(7, 1)},
			{Key: "travel-sum", Asked: condition.Yes, Presence: condition.Given, Value: number(400_00, 1)}},
			map[Key]int64{"digger": 7, "travel": 400_00, "oak": 2}},
		{"not asked of them", []QuestionState{{Key: "days", Asked: condition.No, Presence: condition.Given,
			Value: number(7, 1)}}, map[Key]int64{}},
		{"nothing answered", []QuestionState{{Key: "days", Asked: condition.Yes}}, map[Key]int64{}},
	} {
		got := f.GiftsAsked(&Path{Questions: c.of})
		if len(got) != len(c.want) {
			t.Errorf("%s: %v", c.says, got)
		}
		for k, n := range c.want {
			if got[k] != n {
				t.Errorf("%s: %d of %s", c.says, got[k], k)
			}
		}
	}
	for _, g := range []struct {
		of     Gift
		pieces bool
		has    int64
	}{{Gift{What: "place", Stock: 4, Request: "q"}, true, 4}, {Gift{What: "place", Stock: 4, Fund: 7}, false, 7},
		{Gift{What: "money", Fund: 500, Stock: 9}, false, 500}, {Gift{What: "goods", Value: 100, Stock: 3}, true, 3},
		{Gift{What: "goods"}, false, 0}, {Gift{What: "admission", Request: "q"}, true, 0}} {
		if g.of.InPieces() != g.pieces || g.of.Has() != g.has {
			t.Errorf("%+v", g)
		}
	}
}

// What asks for gifts in a way that cannot be counted is a fault.
func TestGiftFaults(t *testing.T) {
	number := func(k Key, kind Kind) Question {
		return Question{Key: k, Label: string(k), Kind: kind, Nature: Fact, Blank: MeansNo, Seen: ToReaders}
	}
	for want, g := range map[string]Gift{
		"neither":        {Key: "x", Label: "X", What: "money", Request: "count"},
		"is neither":     {Key: "x", Label: "X", What: "goods", Request: "count"},
		"less than none": {Key: "x", Label: "X", What: "place", Stock: -1},
		"":               {Key: "x", Label: "X", What: "place", Request: "count"},
	} {
		d := &Design{Currency: "EUR", Zone: "Europe/Dublin", Gifts: []Gift{g},
			Sections: []Section{{Key: "all", Label: "All", Questions: []Question{number("count", Number),
				number("sum", Money)}}}}
		_, faults := Draft(d)
		found := ""
		for _, x := range faults {
			if strings.HasPrefix(x.Path, "gifts/") {
				found += x.Says + "; "
			}
		}
		if want == "" && found != "" || !strings.Contains(found, want) {
			t.Errorf("%+v: %q, not %q", g, found, want)
		}
	}
}
