package decision_test

import (
	"strings"
	"testing"
	"time"

	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/internal/decision"
	"ulvant/internal/programtest"
)

// inTwoLanguages has letters that go out in the place of others: to those who write in
// the other language, and to those who are given an award.
func inTwoLanguages(d *form.Design) {
	programtest.ManyAwards(d)
	q := design.NewQuestion(form.YesNo, "Do you write in the tongue of the isles?")
	q.Key, q.Nature, q.Blank = "isles", form.Chosen, form.MeansNo
	d.Sections[0].Questions = append(d.Sections[0].Questions, q)
	yes := true
	isles := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "isles"}, Rel: condition.Is,
		Value: &condition.Value{Yes: &yes}}}
	d.Letters = append(d.Letters,
		form.Letter{Key: "bench-given", Subject: "A bench is yours, {{name}}", Body: "Come on Monday.", Of: "awarded",
			Award: "bench"},
		form.Letter{Key: "awarded-isles", Subject: "Lavra {{ref}}", Body: "{{amount}} te.", Of: "awarded", When: isles},
		form.Letter{Key: "refused-isles", Subject: "Nen {{ref}}", Body: "{{reasons}}", Of: "not-awarded", When: isles})
}

// Whoever writes in the other language is written to in it, and an award has words of its
// own; everybody else has the letter that goes out by itself.
func TestLettersInThePlaceOfOthers(t *testing.T) {
	p := programtest.SentToRound(t, inTwoLanguages, map[string]string{"Ann": "3,000|isles = yes",
		"Bo": "3,000|isles = no", "Cy": "3,000|isles = yes",
		"Dee": "3,000", "Eve": "3,000|isles = yes"})
	p.Clock.Set(p.Form.At(form.Closes).Add(time.Hour))
	p.Drain()
	choices := p.Choices(map[string]int64{"Ann": 2_000_00, "Bo": 2_000_00, "Cy": 0, "Dee": 0, "Eve": 600_00})
	for i, c := range choices {
		if c.EntryID == p.Of["Eve"].EntryID {
			choices[i].Lines = []decision.Line{{Award: "bench", Amount: 0}, {Award: "held", Amount: 600_00}}
		}
	}
	if _, err := p.Records("", choices); err != nil {
		t.Fatal(err)
	}
	p.After(time.Hour)
	for name, want := range map[string]string{"Ann": "Lavra", "Bo": "", "Cy": "Nen", "Dee": "",
		"Eve": "A bench is yours, Eve Hart"} {
		list, _ := p.Tray.List(strings.ToLower(name)+"@corvoe.example", 0, 1)
		if len(list) == 0 {
			t.Fatalf("%s has no letter", name)
		}
		got := list[0]
		if want == "" && (strings.Contains(got.Subject, "Lavra") || strings.Contains(got.Subject, "Nen") ||
			strings.Contains(got.Subject, "bench")) ||
			!strings.HasPrefix(got.Subject, want) {
			t.Errorf("%s is written %q", name, got.Subject)
		}
		if name == "Ann" && !strings.Contains(got.Body, "€2,000 te.") {
			t.Errorf("%q", got.Body)
		}
		if name == "Eve" && !strings.Contains(got.Body, "A bench") {
			t.Errorf("what Eve is given is not in %q", got.Body)
		}
	}
}
