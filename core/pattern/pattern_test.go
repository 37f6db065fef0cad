package pattern

import (
	"encoding/json"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/letter"
)

// textOf is all that a design says.
func textOf(t *testing.T, d *form.Design) string {
	t.Helper()
	raw, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// Every pattern is a design without a fault, whose letters name only fields
// that can be filled, and which walks an empty application.
func TestPatternsAreWhole(t *testing.T) {
	day := func(m, d, h int) calendar.Wall {
		return calendar.At(calendar.NewDate(2027, 1, 1).AddMonths(m-1).AddDays(d-1), h, 0)
	}
	s := Settings{Key: "r", Name: "Round", Programme: "P", Prefix: "RND", Contact: "a@b.example", Zone: "Europe/Dublin",
		Currency: "EUR", Fund: 100_000, Least: 1_000, Most: 50_000,
		MatchPercent: 10, ReadersEach: 2, Opens: day(3, 1, 9), Closes: day(4, 9, 16), ChecksBy: day(4, 20,
			17), ReadingEnds: day(5, 7, 17), AnswerOn: day(5, 21, 12), WorkFrom: calendar.NewDate(2027, 7, 1)}
	for _, p := range All() {
		d := p.Make(s)
		f, err := form.Compile(d)
		if err != nil {
			t.Errorf("%s: %v", p.Kind, err)
			continue
		}
		if low := strings.ToLower(textOf(t, d)); !p.Example {
			for _, word := range []string{"shore", "peat", "boat", "night", "bridge", "trust", "site", "ground"} {
				if strings.Contains(low, word) {
					t.Errorf("%s speaks of %q", p.Key, word)
				}
			}
		}
		if d.Kind != p.Kind || p.Label == "" || p.About == "" {
			t.Errorf("%s calls itself %q", p.Kind, d.Kind)
		}
		for _, l := range d.Letters {
			if u := letter.Unknown(l.Subject + l.Body); len(u) > 0 {
				t.Errorf("%s: the letter %s names %v", p.Kind, l.Key, u)
			}
		}
		if path := f.Walk(&form.Filled{}); len(path.Obstacles) == 0 || path.Verdict() != form.NotYet {
			t.Errorf("%s: an empty application could be sent, or is judged: %s", p.Kind, path.Verdict())
		}
	}
}
