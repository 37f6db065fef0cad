package applicant_test

import (
	"context"
	"net/url"
	"strings"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// withSurvey asks three questions after sending; the second hangs on the first.
func withSurvey(d *form.Design) {
	q := func(key form.Key, kind form.Kind, label string) form.Question {
		return form.Question{Key: key, Kind: kind, Label: label, Nature: form.Fact, Blank: form.MeansNo, Seen: form.ToOffice}
	}
	no := false
	guessed := q("guessed", form.Long, "Where did you have to guess?")
	guessed.Asked = condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "clear"}, Rel: condition.Is,
		Value: &condition.Value{Yes: &no}}}
	d.Sections = append(d.Sections, form.Section{Key: "after", Label: "How it was to apply", Stage: form.AfterSending,
		Questions: []form.Question{q("clear", form.YesNo, "Was it clear?"), guessed,
			q("hours", form.Number, "How many hours?")}})
}

// The survey on its screens: offered once it is sent, to the lead alone, asked
// without scripts too, handed in once; the office sees nothing until five are in.
func TestSurveyAfterSending(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), withSurvey)
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	leads := []string{"imre@corvoe.example", "ann@corvoe.example", "bo@corvoe.example", "cy@corvoe.example",
		"di@corvoe.example"}
	for i, lead := range leads {
		c := h.Ready(lead)
		v, at := webtest.Visit(t, base).As(lead), "/applications/"+c.Ref
		if i == 0 {
			if _, page := v.See(at); webtest.Contains(page, "How it was to apply") {
				t.Error("the survey stands among the sections of the application")
			}
			if code, _ := v.See(at + "/survey"); code != 409 {
				t.Errorf("before sending: %d", code)
			}
		}
		h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
		h.Drain()
		hours := []string{"12", "9", "40", "7", "=1"}[i]
		if i > 0 {
			if i == 4 {
				hours = "11"
			}
			if code, _ := v.Submit(at+"/survey", url.Values{"clear": {"yes"}, "hours": {hours}}); code != 303 {
				t.Errorf("%s hands it in: %d", lead, code)
			}
			continue
		}
		if _, page := v.See(at + "/sent"); !webtest.Contains(page, "Answer 3 questions") ||
			!webtest.Contains(page, "kept apart") {
			t.Error("the page after sending does not offer it")
		}
		if code, page := v.Submit(at+"/survey?look=yes", url.Values{"clear": {"yes"}}); code != 200 ||
			!webtest.Contains(page, `id="q-guessed" data-q="guessed" hidden`) {
			t.Errorf("the survey: %d", code)
		}
		if _, page := v.Submit(at+"/survey?look=yes", url.Values{"clear": {"no"}}); webtest.Contains(page,
			`data-q="guessed" hidden`) {
			t.Error("what follows from an answer is not asked")
		}
		for what, x := range map[string]struct {
			form url.Values
			says string
		}{
			"what cannot be read": {url.Values{"hours": {"some"}, "clear": {"no"}, "guessed": {"The budget."}},
				"cannot be read"},
			"what nobody types": {url.Values{"guessed": {"\x00"}}, "Nothing is answered yet"},
			"a book": {url.Values{"clear": {"no"}, "guessed": {strings.Repeat("reed ", 5000)}},
				"longer than 20,000"},
			"nothing":                  {url.Values{}, "Nothing is answered yet"},
			"of the application alone": {url.Values{"request": {"1"}}, "Nothing is answered yet"},
		} {
			code, page := v.Submit(at+"/survey", x.form)
			if code != 422 || !webtest.Contains(page, x.says) || what == "what cannot be read" &&
				!webtest.Contains(page, "The budget.</textarea>") {
				t.Errorf("%s: %d", what, code)
			}
		}
		if code, _ := webtest.Visit(t, base).As(func() string {
			h.Person("else@corvoe.example",
				"Somebody Else")
			return "else@corvoe.example"
		}()).See(at + "/survey"); code != 404 {
			t.Errorf("a stranger: %d", code)
		}
		if code, _ := v.Submit(at+"/survey", url.Values{"clear": {"no"}, "guessed": {"=SUM(A1)"},
			"hours": {hours}}); code != 303 {
			t.Errorf("handed in: %d", code)
		}
		if _, page := v.See(at + "/sent"); webtest.Contains(page, "Answer 3 questions") ||
			!webtest.Contains(page, "Thank you") {
			t.Error("it is offered again")
		}
		if code, _ := v.Submit(at+"/survey", url.Values{"hours": {"99"}}); code != 303 {
			t.Errorf("twice: %d", code)
		}
		if _, page := v.See(at + "/survey"); !webtest.Contains(page, "Your answers are in") ||
			webtest.Contains(page, "Hand it in") {
			t.Error("the survey can be answered again")
		}
		if _, page := neda.See("/office/rounds/shore-2027/survey"); !webtest.Contains(page, "once 5 have come in") ||
			webtest.Contains(page, "How many hours?") {
			t.Error("one answered survey is shown")
		}
		if code, _ := neda.See("/office/rounds/shore-2027/survey.csv"); code != 404 {
			t.Errorf("one answered survey is given out: %d", code)
		}
	}
	_, page := neda.See("/office/rounds/shore-2027/survey")
	for _, want := range []string{"From <b class=\"num\">7</b> to <b class=\"num\">40</b>; half of them <b " +
		"class=\"num\">11</b>", "80%", "=SUM(A1)"} {
		if !webtest.Contains(page, want) {
			t.Errorf("the office does not see %q", want)
		}
	}
	if code, text := neda.See("/office/rounds/shore-2027/survey.csv"); code != 200 ||
		!strings.Contains(text, "'=SUM(A1)") || strings.Count(text, "\n") != 6 {
		t.Errorf("as CSV: %d %s", code, text)
	}
}

// Statements by initials and the awards that fit, on the page and by the
// answers that a save gives back.
func TestInitialsAndAwardsThatFit(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		d.Awards = []form.Award{{Key: "reed", Label: "The Reed Purse", Places: 1,
			Match: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "repair-kind"}, Rel: condition.Is,
				Value: &condition.Value{Text: "shore"}}}},
			{Key: "peat", Label: "The Peat Purse", Places: 1,
				Match: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "repair-kind"}, Rel: condition.Is,
					Value: &condition.Value{Text: "peat"}}}}}
		last := &d.Sections[len(d.Sections)-1]
		for i := range last.Questions {
			if last.Questions[i].Key == "true" {
				last.Questions[i].Initials = true
			}
		}
		last.Questions = append(last.Questions, form.Question{Key: "awards", Kind: form.AwardPick, Label: "Which awards?",
			Nature: form.Chosen, Blank: form.Required, Seen: form.ToReaders, Every: true})
	})
	c := h.Ready("imre@corvoe.example") // who ticks by "yes", which are nobody's initials here
	v, at := webtest.Visit(t, base).As("imre@corvoe.example"), "/applications/"+c.Ref
	if code, _ := v.Submit(at+"/sections/declarations", url.Values{"true": {"xy"}, "true!version": {"1"},
		"awards": {"every-award"}, "awards!version": {"0"}}); code != 303 {
		t.Fatalf("saving by a form: %d", code)
	}
	_, page := v.See(at + "/sections/declarations")
	for _, want := range []string{"“xy” are not the initials of Imre Calloway", "Type IC if you agree.",
		"What you have answered fits: The Reed Purse.", `value="xy"`} {
		if !webtest.Contains(page, want) {
			t.Errorf("the page does not say %q", want)
		}
	}
	if code, _ := v.Submit(at+"/sections/declarations", url.Values{"true": {"i.c."}, "true!version": {"2"}}); code != 303 {
		t.Fatal(code)
	}
	if _, page := v.See(at + "/send"); webtest.Contains(page, "initials") || !webtest.Contains(page, "agreed: i.c.") ||
		!webtest.Contains(page, "every award that fits: The Reed Purse") {
		t.Error("read as it will be sent, it does not say so")
	}
}
