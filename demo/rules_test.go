package demo

import (
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
)

// The rules that the trade asks for (common practice, no source), each with a
// number of its own, by what an applicant says and what they are told.
func TestRulesOfTheTrade(t *testing.T) {
	now := time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC)
	list, zone := designs(t, now)
	forms := map[string]*form.Form{}
	for i, name := range []string{"grants", "scholarships", "fellowship", "competition"} {
		var err error
		if forms[name], err = form.Compile(list[i]); err != nil {
			t.Fatal(err)
		}
	}
	answerOn, _ := forms["fellowship"].Design.Moment(form.AnswerOn)
	starts, _ := forms["scholarships"].Design.Moment(form.Opens)
	months := func(d calendar.Date, n int) string { return d.AddMonths(n).String() }
	type said map[string]string
	for _, c := range []struct {
		what, form, rule string
		said             said
		non              map[string]form.NonAnswer
		others           form.Others
		want             form.Outcome
	}{
		{"a registered body", "grants", "who", said{"applicant-kind": "registered"}, nil, form.Others{}, form.Holds},
		{"one person, with a sponsor", "grants", "who", said{"applicant-kind": "person", "has-sponsor": "yes"}, nil,
			form.Others{}, form.Holds},
		{"one person, alone", "grants", "who", said{"applicant-kind": "person", "has-sponsor": "no"}, nil, form.Others{},
			form.Fails},
		{"nobody knows whose land it is", "grants", "land", nil, map[string]form.NonAnswer{"land-leave": form.NotKnown},
			form.Others{}, form.Person},
		{"paid for elsewhere", "grants", "once", said{"paid-elsewhere": "yes"}, nil, form.Others{}, form.Fails},
		{"a postcode of the isles", "scholarships", "isles", said{"postcode": "oi4 3qt", "applicant": "leaver"}, nil,
			form.Others{}, form.Holds},
		{"a postcode elsewhere", "scholarships", "isles", said{"postcode": "EC1A 1BB", "applicant": "leaver"}, nil,
			form.Others{}, form.Fails},
		{"elsewhere, in one of the yards", "scholarships", "isles", said{"postcode": "EC1A 1BB", "applicant": "yard-hand"},
			nil, form.Others{}, form.Holds},
		{"too young", "scholarships", "age", said{"born": months(starts.At.Date, -12*14)}, nil, form.Others{}, form.Fails},
		{"old enough", "scholarships", "age", said{"born": months(starts.At.Date, -12*20)}, nil, form.Others{}, form.Holds},
		{"another under way in the programme", "scholarships", "one-in-programme", nil, nil, form.Others{Programme: 1},
			form.Fails},
		{"the only one", "fellowship", "one-each", nil, nil, form.Others{}, form.Holds},
		{"another sent in the round", "fellowship", "one-each", nil, nil, form.Others{Round: 1, Programme: 1}, form.Fails},
		{"teaching", "fellowship", "activity", said{"year-is": "teaching"}, nil, form.Others{}, form.Fails},
		{"writing up", "fellowship", "activity", said{"year-is": "writing"}, nil, form.Others{}, form.Holds},
		{"enough points", "fellowship", "language", said{"schooled-here": "no", "english": "60"}, nil, form.Others{},
			form.Holds},
		{"too few points", "fellowship", "language", said{"schooled-here": "no", "english": "59"}, nil, form.Others{},
			form.Fails},
		{"the paper is to follow", "fellowship", "language", said{"schooled-here": "no"},
			map[string]form.NonAnswer{"english": form.ToFollow}, form.Others{}, form.Person},
		{"schooled in it", "fellowship", "language", said{"schooled-here": "yes"}, nil, form.Others{}, ""},
		{"no day by which to know", "fellowship", "in-time", nil, nil, form.Others{}, form.Holds},
		{"must know on the day", "fellowship", "in-time", said{"know-by": answerOn.At.Date.String()}, nil, form.Others{},
			form.Holds},
		{"must know sooner", "fellowship", "in-time", said{"know-by": answerOn.At.Date.AddDays(-1).String()}, nil,
			form.Others{}, form.Fails},
		{"free late", "fellowship", "soon", said{"released-until": months(answerOn.At.Date, 11)}, nil, form.Others{},
			form.Person},
		{"tied to the jury", "competition", "ties", said{"tied": "yes"}, nil, form.Others{}, form.Fails},
		{"not asked yet", "competition", "ties", nil, nil, form.Others{}, form.NotYet},
	} {
		f := forms[c.form]
		x := &form.Filled{Answers: map[form.Place]form.Answer{}, Today: calendar.DateOf(now, zone), Others: c.others}
		for at, v := range c.said {
			x.Answers[placeOf(at)] = form.Answer{Raw: v}
		}
		for at, v := range c.non {
			x.Answers[placeOf(at)] = form.Answer{Non: v}
		}
		var got form.Outcome
		for _, r := range f.Walk(x).Rules {
			if string(r.Key) == c.rule {
				got = r.Outcome
			}
		}
		if got != c.want {
			t.Errorf("%s: %s finds %q, want %q", c.what, c.rule, got, c.want)
		}
	}
}
