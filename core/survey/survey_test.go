package survey_test

import (
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/core/survey"
)

func surveying(t *testing.T, questions ...form.Question) *form.Form {
	t.Helper()
	d := pattern.Grants(pattern.Settings{Key: "shore-2027", Name: "Shore, 2027", Programme: "Shore", Prefix: "SPR",
		Contact: "office@trust.example", Zone: "Europe/Dublin", Currency: "EUR",
		Fund: 100, Least: 1, Most: 50, ReadersEach: 1, Opens: wall(3, 1), Closes: wall(4, 9), ChecksBy: wall(4,
			23), ReadingEnds: wall(5, 7), AnswerOn: wall(5, 21), WorkFrom: calendar.NewDate(2027, 6, 1)})
	for i := range questions {
		q := &questions[i]
		q.Label, q.Nature, q.Blank, q.Seen = string(q.Key), form.Fact, form.MeansNo, form.ToOffice
	}
	d.Sections = append(d.Sections, form.Section{Key: "how-it-was", Label: "How it was", Stage: form.AfterSending,
		Questions: questions})
	f, err := form.Compile(d)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func wall(m time.Month, d int) calendar.Wall { return calendar.At(calendar.NewDate(2027, m, d), 16, 0) }

func options(keys ...form.Key) (out []form.Option) {
	for _, k := range keys {
		out = append(out, form.Option{Key: k, Label: strings.ToUpper(string(k))})
	}
	return out
}

// answers are surveys of one question, as typed.
func answers(k form.Key, typed ...string) (out []map[form.Place]form.Answer) {
	for _, s := range typed {
		out = append(out, map[form.Place]form.Answer{{Question: k}: {Raw: s}})
	}
	return out
}

func TestTally(t *testing.T) {
	f := surveying(t, form.Question{Key: "clear", Kind: form.Choice, Options: options("yes", "so-so", "no")},
		form.Question{Key: "where", Kind: form.Several, Options: options("money", "papers")},
		form.Question{Key: "again", Kind: form.YesNo}, form.Question{Key: "hours", Kind: form.Number,
			Unit: "hours"}, form.Question{Key: "day", Kind: form.Date}, form.Question{Key: "words", Kind: form.Long},
		form.Question{Key: "best", Kind: form.Ranked, Options: options("a", "b")})
	result := func(k form.Key, typed ...string) survey.Result {
		for _, r := range survey.Tally(f, answers(k, typed...)) {
			if r.Question.Key == k {
				return r
			}
		}
		t.Fatalf("no result for %s", k)
		return survey.Result{}
	}
	picks := func(r survey.Result) string {
		var out []string
		for _, p := range r.Picks {
			out = append(out, p.Label+strings.Repeat("|", p.N))
		}
		return strings.Join(out, " ")
	}
	if r := result("clear", "yes", "no", "yes", "", "gone-since"); r.Answered != 3 || picks(r) != "YES|| SO-SO NO|" ||
		r.Share(2) != 67 || r.Share(1) != 33 {
		t.Errorf("a choice: %+v", r)
	}
	if r := result("where", "money\npapers", "papers"); r.Answered != 2 || picks(r) != "MONEY| PAPERS||" ||
		r.Share(2) != 100 {
		t.Errorf("several: %+v", r)
	}
	if r := result("again", "yes", "no", "no"); picks(r) != "yes| no||" {
		t.Errorf("yes or no: %+v", r)
	}
	if r := result("hours", "40", "9", "12", "30"); !r.Numbers || r.Low.Num != 9 || r.Middle.Num != 12 ||
		r.High.Num != 40 {
		t.Errorf("numbers: %+v", r)
	}
	if r := result("day", "2 April 2027"); calendar.Date(r.Middle.Num).Words() != "2 April 2027" {
		t.Errorf("days: %+v", r)
	}
	if r := result("words", " As it was. "); len(r.Texts) != 1 || r.Texts[0] != "As it was." {
		t.Errorf("words: %+v", r)
	}
	if r := survey.Tally(f, []map[form.Place]form.Answer{{{Question: "best", Column: "place-a"}: {Raw: "b"},
		{Question: "best", Column: "place-b"}: {Raw: "a"}}})[6]; picks(r) != "A B|" {
		t.Errorf("preferences: %+v", r)
	}
	if r := result("hours"); r.Answered != 0 || r.Share(0) != 0 || r.Numbers {
		t.Errorf("nobody: %+v", r)
	}
}

// A spreadsheet must not take what somebody wrote for a formula.
func TestSheet(t *testing.T) {
	f := surveying(t, form.Question{Key: "words", Kind: form.Long},
		form.Question{Key: "clear", Kind: form.Choice, Options: options("yes", "no")})
	in := answers("words", "=1+1", "“So”, she said", "-2")
	in[1][form.Place{Question: "clear"}] = form.Answer{Raw: "yes"}
	if got, want := survey.Sheet(f, in).CSV(), "words,clear\n'=1+1,\n\"“So”, she said\",YES\n'-2,\n"; got != want {
		t.Errorf("got %q, want %q", got, want)
	}
}
