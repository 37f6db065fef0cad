package form_test

import (
	"testing"

	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/pattern"
)

// Which letter somebody is sent: the first that goes out in its place to them, or itself.
func TestLetterTo(t *testing.T) {
	d := pattern.Grants(pattern.Settings{})
	q := design.NewQuestion(form.YesNo, "Isles?")
	q.Key, q.Nature, q.Blank = "isles", form.Chosen, form.MeansNo
	d.Sections[0].Questions = append(d.Sections[0].Questions, q)
	d.Awards = []form.Award{{Key: "bench", Label: "Bench", Places: 1}}
	yes := true
	isles := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "isles"}, Rel: condition.Is,
		Value: &condition.Value{Yes: &yes}}}
	d.Letters = append(d.Letters, form.Letter{Key: "both", Subject: "s", Body: "b", Of: "awarded", When: isles,
		Award: "bench"},
		form.Letter{Key: "isles-letter", Subject: "s", Body: "b", Of: "awarded", When: isles},
		form.Letter{Key: "bench-letter", Subject: "s", Body: "b", Of: "awarded", Award: "bench"})
	f, _ := form.Draft(d)
	walked := func(answer string) *form.Path {
		return f.Walk(&form.Filled{Answers: map[form.Place]form.Answer{{Question: "isles"}: {Raw: answer}}})
	}
	for _, c := range []struct {
		says   string
		path   *form.Path
		awards []form.Key
		want   form.Key
	}{
		{"both hold", walked("yes"), []form.Key{"bench"}, "both"}, {"the tongue alone", walked("yes"), nil, "isles-letter"},
		{"the award alone", walked("no"), []form.Key{"bench"}, "bench-letter"}, {"another award", walked("no"),
			[]form.Key{"boat"}, "awarded"},
		{"neither", walked("no"), nil, "awarded"}, {"what they sent is not known", nil, nil, "awarded"},
		{"but what they are given", nil, []form.Key{"bench"}, "bench-letter"},
	} {
		if got, ok := f.LetterTo("awarded", c.path, c.awards); !ok || got.Key != c.want {
			t.Errorf("%s: %s, not %s", c.says, got.Key, c.want)
		}
	}
	if f.Varies("not-awarded") || !f.Varies("awarded") {
		t.Error("which letters vary")
	}
	for _, bad := range []form.Letter{{Of: "nothing", When: isles}, {Of: "both", When: isles}, {Of: "awarded"},
		{When: isles}, {Of: "awarded", Award: "boat"}} {
		bad.Key, bad.Subject, bad.Body = "bad", "s", "b"
		e := *d
		e.Letters = append(append([]form.Letter(nil), d.Letters...), bad)
		_, before := form.Draft(d)
		if _, after := form.Draft(&e); len(after) == len(before) {
			t.Errorf("%+v has no fault", bad)
		}
	}
}
