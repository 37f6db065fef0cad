package replay

import (
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/pattern"
)

func grants(t *testing.T, change func(*form.Design)) *form.Form {
	t.Helper()
	day := func(n int) calendar.Wall { return calendar.At(calendar.NewDate(2027, 3, 1).AddDays(n), 16, 0) }
	d := pattern.Grants(pattern.Settings{Key: "r", Name: "R", Programme: "P", Prefix: "RRR",
		Contact: "office@trust.example", Zone: "Europe/Dublin", Currency: "EUR", Fund: 10_000_000,
		Least: 100_000, Most: 8_000_000, MatchPercent: 15, ReadersEach: 2, Opens: day(0), Closes: day(30), ChecksBy: day(40),
		ReadingEnds: day(60), AnswerOn: day(70), WorkFrom: calendar.NewDate(2027, 7, 1)})
	if change != nil {
		change(d)
	}
	f, err := form.Compile(d)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// sent is an application whose applicant asks for so many euros of a cost.
func sent(ref string, ask, cost string, state lifecycle.State) Case {
	x := &form.Filled{Answers: map[form.Place]form.Answer{}}
	put := func(q, row, col, v string) {
		x.Answers[form.Place{Question: form.Key(q), Row: row, Column: form.Key(col)}] = form.Answer{Raw: v}
	}
	for q, v := range map[string]string{"applicant-kind": "common", "body-name": "Common", "district": "corvoe",
		"site": "Shore", "land-leave": "yes", "site-access": "road", "repair-kind": "shore", "area": "2",
		"describe": "We plant reed and look after it.", "afterwards": "We do.", "start": "2026-07-01", "request": ask,
		"paid-elsewhere": "no"} {
		put(q, "", "", v)
	}
	put("budget", "r0001", "item", "Reed")
	put("budget", "r0001", "cost", cost)
	put("budget", "r0001", "from-us", ask)
	put("budget", "r0001", "payer", "own money")
	return Case{Ref: ref, Title: "Work " + ref, Filled: x, State: state}
}

// “A share of 20% would have stopped 2 of 4, one of them awarded.”
func TestOver(t *testing.T) {
	was := grants(t, nil)
	cases := []Case{sent("A", "8000", "10000", lifecycle.Awarded), sent("B", "8500", "10000", lifecycle.Awarded),
		sent("C", "8200", "10000", lifecycle.NotAwarded), sent("D", "2000", "10000", lifecycle.Awarded)}
	if r := Over(was, was, cases); r.Stopped != 0 || len(r.New) != 0 || r.Cases != 4 {
		t.Errorf("its own design would have stopped %+v and asked %+v", r.Causes, r.New)
	}
	stricter := grants(t, func(d *form.Design) {
		for i := range d.Sections {
			for j := range d.Sections[i].Questions {
				if q := &d.Sections[i].Questions[j]; q.Key == "budget" {
					q.Limits.Else.MatchPercent = 20
				}
			}
		}
	})
	r := Over(stricter, was, cases)
	if r.Stopped != 2 || r.Awarded != 1 || len(r.Causes) != 1 ||
		r.Causes[0].Path != "sections/budget-section/questions/budget" || r.Causes[0].Awarded != 1 ||
		r.Causes[0].Stopped[0].Ref != "B" {
		t.Errorf("a share of 20%%: %d stopped, %d awarded: %+v", r.Stopped, r.Awarded, r.Causes)
	}
	ruled := grants(t, func(d *form.Design) {
		n := condition.Number{Num: 500_000, Den: 1}
		d.Rules = append(d.Rules, form.Rule{Key: "large", Label: "Large enough", Yes: "Yes.", No: "No.",
			Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "request"}, Rel: condition.AtLeast,
				Value: &condition.Value{Number: &n}}}})
		d.Sections[1].Questions = append(d.Sections[1].Questions,
			form.Question{Key: "tides", Kind: form.Long, Label: "How do tides reach it?", Nature: form.Fact,
				Blank: form.Required, Seen: form.ToReaders})
	})
	r = Over(ruled, was, cases)
	if r.Stopped != 1 || r.Causes[0].Says != "The rule “Large enough”" || r.Causes[0].Stopped[0].Ref != "D" {
		t.Errorf("a new rule: %+v", r.Causes)
	}
	if len(r.New) != 1 || r.New[0].Label != "How do tides reach it?" || r.New[0].Cases != 4 || !r.New[0].Must {
		t.Errorf("asked anew: %+v", r.New)
	}
}

// What nobody used is counted with what it cost; what is used is not.
func TestCosts(t *testing.T) {
	was := grants(t, func(d *form.Design) {
		d.Sections[1].Questions = append(d.Sections[1].Questions,
			form.Question{Key: "colour", Kind: form.Short, Label: "Colour of the gate", Nature: form.Fact,
				Blank: form.MeansUnknown, Seen: form.ToOffice})
	})
	r := Over(was, was, []Case{sent("A", "8000", "10000", lifecycle.Awarded),
		sent("B", "8000", "10000", lifecycle.Awarded)})
	if len(r.Unused) != 1 || r.Unused[0].Label != "Colour of the gate" || r.Unused[0].Cases != 2 ||
		r.Unused[0].Minutes != 2 {
		t.Errorf("unused are %+v", r.Unused)
	}
	if r.Minutes < 60 || r.Minutes > 400 {
		t.Errorf("two applications took %d minutes", r.Minutes)
	}
}
