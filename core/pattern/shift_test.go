package pattern

import (
	"encoding/json"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
)

// Every date of a copied round moves with its closing; none is left in last
// year, wherever it stands, and each is named.
func TestShiftMovesEveryDate(t *testing.T) {
	day := func(s string) calendar.Date {
		d, ok := calendar.ParseDate(s)
		if !ok {
			t.Fatal(s)
		}
		return d
	}
	made := day("2026-02-01")
	d := &form.Design{
		Calendar: []form.Moment{{Key: form.Opens, Label: "the opening", At: calendar.At(day("2026-03-02"), 9, 0)},
			{Key: form.Closes, Label: "the closing", At: calendar.At(day("2026-04-10"), 16, 0)},
			{Key: "early", Label: "the last day of the early fee", At: calendar.At(day("2026-03-20"), 23, 59)}},
		Codes: []form.FeeCode{{Key: "half", Code: "HALF", Until: day("2026-04-01")}},
		Lists: []form.List{{Key: "codes", Label: "Postcodes", Day: day("2026-01-15")}},
		Sections: []form.Section{{Key: "s", Label: "All", Questions: []form.Question{
			{Key: "start", Kind: form.Date, Label: "When does it start?", FollowBy: &form.Day{On: day("2026-05-01")},
				Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Date: form.Closes}, Rel: condition.Is,
					Value: &condition.Value{Date: made}}}}}}},
	}
	moved := Shift(d, day("2027-04-09"), nil) // 364 days: the same day of the week
	raw, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	if s := strings.Replace(string(raw), "2026-01-15", "", 1); strings.Contains(s, "2026") ||
		!strings.Contains(string(raw), "2026-01-15") {
		t.Errorf("a date is left behind, or the list's day was moved: %s", raw)
	}
	if len(moved) != 6 {
		t.Errorf("%d were moved: %+v", len(moved), moved)
	}
	for _, m := range moved {
		if m.What == "" || m.To != m.From.AddDays(364) {
			t.Errorf("%+v", m)
		}
	}
	if e, _ := d.Moment("early"); e.At.Date != day("2027-03-19") || e.At.Second != 86340 {
		t.Errorf("the early fee ends %s", e.At)
	}
	if Shift(d, day("2027-04-09"), nil) != nil {
		t.Error("a copy with the same closing was moved")
	}
	// a moment that would fall on a Sunday goes on to Monday; other dates do not
	d = &form.Design{Calendar: []form.Moment{{Key: form.Closes, At: calendar.At(day("2026-04-10"), 16, 0)}},
		Codes: []form.FeeCode{{Until: day("2026-04-10")}}}
	Shift(d, day("2026-04-12"), nil)
	if c, _ := d.Moment(form.Closes); c.At.Date != day("2026-04-13") || d.Codes[0].Until != day("2026-04-12") {
		t.Errorf("%s and %s", c.At.Date, d.Codes[0].Until)
	}
}
